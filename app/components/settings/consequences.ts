import type { Ask, Consequence, Outcome } from '#core/engine/playbook'

/** What an outcome can ask for, as the rest of "asks for ...". */
export const ASK_NAMES: Record<Ask, string> = {
  callBackAt: 'a time',
  meeting: 'the meeting',
  reason: 'the reason',
  referral: 'the right person',
  note: 'a note',
}

export const COUNT_NAMES: Record<Outcome['countsAs'], string> = {
  attempt: 'counts as an attempt',
  conversation: 'counts as a conversation',
  none: 'not counted',
}

/** Every kind of consequence, for choosing one. */
export const CONSEQUENCE_NAMES: { value: Consequence['do']; title: string }[] = [
  { value: 'advance', title: 'go on to the next step' },
  { value: 'exit', title: 'leave' },
  { value: 'moveStage', title: 'move the stage' },
  { value: 'callBack', title: 'wait for a call back' },
  { value: 'makeTask', title: 'make a task for later' },
  { value: 'bookMeeting', title: 'book the meeting' },
  { value: 'openDeal', title: 'open a deal' },
  { value: 'markNumber', title: 'mark the number' },
  { value: 'stop', title: 'stop' },
  { value: 'setCompanyStatus', title: 'mark the company' },
  { value: 'addReferral', title: 'add the right person' },
]

/** A consequence of a kind with the values it usually has. */
export function blankConsequence(kind: Consequence['do']): Consequence {
  switch (kind) {
    // Why they leave is counted: it is chosen, not assumed.
    case 'exit':
      return { do: kind, scope: 'cadence' } as Consequence
    case 'moveStage':
      return { do: kind, to: 'attempting' }
    case 'setCompanyStatus':
      return { do: kind, to: 'not_a_fit' }
    case 'markNumber':
      return { do: kind, as: 'wrong' }
    case 'stop':
      return { do: kind, channel: 'call' }
    case 'makeTask':
      return { do: kind, title: 'Follow up', days: 7 }
    case 'openDeal':
      return { do: kind, likelihood: 20 }
    default:
      return { do: kind }
  }
}

const EXITS: Record<string, string> = {
  cadence: 'Leaves the cadence',
  all: 'Leaves every cadence',
  company: 'Everyone at the company leaves their cadences',
}

/** A consequence as a manager reads it, without a person. */
export function consequenceInWords(consequence: Consequence): string {
  const before = consequence.beforeAttempt ? ` before attempt ${consequence.beforeAttempt}` : ''
  const when = consequence.fromAttempt ? ` from attempt ${consequence.fromAttempt} on` : before
  const what = (): string => {
    switch (consequence.do) {
      case 'advance':
        return 'Goes on to the next step'
      case 'callBack':
        return 'The cadence waits for a call back'
      case 'exit':
        return EXITS[consequence.scope]!
      case 'moveStage':
        return `Stage ${consequence.to.replaceAll('_', ' ')}${consequence.scope === 'company' ? ' for everyone there' : ''}`
      case 'setCompanyStatus':
        return `Company: ${consequence.to.replaceAll('_', ' ')}`
      case 'markNumber':
        return `The number is marked ${consequence.as.replaceAll('_', ' ')}`
      case 'stop':
        if (consequence.channel === 'all') return 'No calls and no email again'
        return consequence.channel === 'call' ? 'No calls again' : 'No email again'
      case 'makeTask':
        return `“${consequence.title}” in ${consequence.days} days`
      case 'bookMeeting':
        return 'Books the meeting, the invitation goes out'
      case 'openDeal':
        return `Opens a deal at ${consequence.likelihood} %`
      case 'addReferral':
        return 'Adds the right person'
    }
  }
  return what() + when
}
