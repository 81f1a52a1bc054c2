import type { TaskKind } from '../enumerations'
import { DAY, HOUR, MINUTE, type Instant } from '../instant'

/** How long ago, as one says it: "just now", "12 min ago", "3 h ago", "yesterday", "5 days ago". */
export function agoInWords(at: Instant, now: Instant): string {
  const elapsed = now - at
  if (elapsed < 2 * MINUTE) return 'just now'
  if (elapsed < HOUR) return `${Math.floor(elapsed / MINUTE)} min ago`
  if (elapsed < DAY) return `${Math.floor(elapsed / HOUR)} h ago`
  const days = Math.floor(elapsed / DAY)
  return days === 1 ? 'yesterday' : `${days} days ago`
}

/** What came of the calls to someone so far: "spoken to before", "2 calls, never reached", "not called yet". */
export function historyInWords({ everReached, attempts }: { everReached: boolean; attempts: number }): string {
  if (everReached) return 'spoken to before'
  return attempts === 0 ? 'not called yet' : `${attempts} ${attempts === 1 ? 'call' : 'calls'}, never reached`
}

/** How likely someone is to answer, from 0 to 1, in words: "34% likely to answer". */
export const chanceInWords = (chance: number): string => `${Math.round(chance * 100)}% likely to answer`

/** The title of the work that a missed call makes. */
export const MISSED_CALL = 'Call back: they called'

/** The title of the work that an abandoned call makes. */
export const ABANDONED_CALL = 'Call back: they answered and no caller was free'

/** What is known about a piece of work when its reason is put in words. */
export interface WhyFacts {
  kind: TaskKind
  title: string
  dueAt: Instant
  /** Number of its step in the cadence from 1, and of how many; null outside one. */
  step: number | null
  steps: number | null
  attempts: number
  everReached: boolean
}

/** Why someone is on the Desk, in a few words: "replied 12 min ago", "step 2 of 5, never reached". */
export function whyInWords(facts: WhyFacts, now: Instant): string {
  switch (facts.kind) {
    case 'first_contact':
      return 'new, no contact yet'
    case 'reply':
      return `replied ${agoInWords(facts.dueAt, now)}`
    case 'call_back':
      if (facts.title === ABANDONED_CALL) return `answered ${agoInWords(facts.dueAt, now)}, no caller was free`
      return facts.title === MISSED_CALL ? `called us ${agoInWords(facts.dueAt, now)}` : 'promised a call back'
    case 'meeting_result':
    case 'check_mail':
    case 'follow_up':
      return facts.title
    case 'task':
    case 'email':
    case 'text':
    case 'social':
    case 'meeting':
    case 'call': {
      const where = facts.step === null ? facts.title : `step ${facts.step} of ${facts.steps}`
      if (facts.kind !== 'call') return facts.step === null ? where : `${where}, ${facts.title}`
      return `${where}, ${historyInWords(facts)}`
    }
  }
}
