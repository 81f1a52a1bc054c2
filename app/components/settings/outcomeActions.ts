import { COMPANY_STATUSES, PHONE_STATUSES } from '#core/enumerations'
import type { OutcomeAction, Outcome } from '#core/engine/state/playbook'

export const COUNT_NAMES: Record<Outcome['countsAs'], string> = {
  attempt: 'an attempt',
  conversation: 'a conversation',
  none: 'nothing',
}

/** Every kind of action, for choosing one. */
export const ACTION_NAMES: { value: OutcomeAction['type']; title: string }[] = [
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

/** An action of a kind with the values it usually has. */
export function blankAction(kind: OutcomeAction['type']): OutcomeAction {
  switch (kind) {
    // Why they leave is counted: it is chosen, not assumed.
    case 'exit':
      return { type: kind, scope: 'cadence' } as OutcomeAction
    case 'moveStage':
      return { type: kind, to: 'attempting' }
    case 'setCompanyStatus':
      return { type: kind, to: 'not_a_fit' }
    case 'markNumber':
      return { type: kind, as: 'wrong' }
    case 'stop':
      return { type: kind, channel: 'call' }
    case 'makeTask':
      return { type: kind, title: 'Follow up', days: 7 }
    case 'openDeal':
      return { type: kind, likelihood: 20 }
    default:
      return { type: kind }
  }
}

const EXITS: Record<string, string> = {
  cadence: 'Leaves the cadence',
  all: 'Leaves every cadence',
  company: 'Everyone at the company leaves their cadences',
}

/** An action as a manager reads it, without a person; `stages` are those there are. */
export function actionInWords(action: OutcomeAction, stages: readonly { id: string; name: string }[]): string {
  const before = action.beforeAttempt ? ` before attempt ${action.beforeAttempt}` : ''
  const when = action.fromAttempt ? ` from attempt ${action.fromAttempt} on` : before
  const what = (): string => {
    switch (action.type) {
      case 'advance':
        return 'Goes on to the next step'
      case 'callBack':
        return 'The cadence waits for a call back'
      case 'exit':
        return EXITS[action.scope]!
      case 'moveStage':
        return `Stage “${stages.find(({ id }) => id === action.to)?.name ?? 'removed since'}”${action.scope === 'company' ? ' for everyone there' : ''}`
      case 'setCompanyStatus':
        return `Company: ${COMPANY_STATUSES[action.to]}`
      case 'markNumber':
        return `The number is marked ${PHONE_STATUSES[action.as]}`
      case 'stop':
        if (action.channel === 'all') return 'Do not contact'
        return action.channel === 'call' ? 'Do not call' : 'Do not email'
      case 'makeTask':
        return `“${action.title}” in ${action.days} days`
      case 'bookMeeting':
        return 'Books the meeting, the invitation goes out'
      case 'openDeal':
        return `Opens a deal at ${action.likelihood}%`
      case 'addReferral':
        return 'Adds the right person'
    }
  }
  return what() + when
}
