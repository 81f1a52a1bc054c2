import type { Consequence } from '#core/engine/playbook'

const EXITS: Record<string, string> = { cadence: 'Leaves the cadence', all: 'Leaves every cadence', company: 'Everyone at the company leaves their cadences' }

/** A consequence as a manager reads it, without a person. */
export function consequenceInWords(consequence: Consequence): string {
  const when = consequence.fromAttempt ? ` from attempt ${consequence.fromAttempt} on` : consequence.beforeAttempt ? ` before attempt ${consequence.beforeAttempt}` : ''
  const what = (): string => {
    switch (consequence.do) {
      case 'advance': return 'Goes on to the next step'
      case 'callBack': return 'The cadence waits for a call back'
      case 'exit': return EXITS[consequence.scope]!
      case 'moveStage': return `Stage ${consequence.to.replaceAll('_', ' ')}${consequence.scope === 'company' ? ' for everyone there' : ''}`
      case 'setCompanyStanding': return `Company: ${consequence.to.replaceAll('_', ' ')}`
      case 'markNumber': return `The number is marked ${consequence.as.replaceAll('_', ' ')}`
      case 'stop': return consequence.channel === 'all' ? 'No calls and no email again' : consequence.channel === 'call' ? 'No calls again' : 'No email again'
      case 'makeTask': return `“${consequence.title}” in ${consequence.days} days`
      case 'bookMeeting': return 'Books the meeting, the invitation goes out'
      case 'openDeal': return `Opens a deal at ${consequence.likelihood} %`
      case 'addReferral': return 'Adds the right person'
    }
  }
  return what() + when
}
