import type { BlockState } from '../enumerations'
import type { Id } from '../instant'

/** What is known of someone in a block: the calls that were logged in it, without those taken back. */
export interface CallsOfOne {
  /** How often they were called in the block. */
  calls: number
  /** Whether a call reached them, whether one left a message, whether a meeting came of it. */
  reached: boolean
  message: boolean
  meeting: boolean
  skipped: boolean
}

/** How far someone is in a block: the furthest they got; skipped only where they were never reached. */
export function stateOf({ calls, reached, message, meeting, skipped }: CallsOfOne): BlockState {
  if (meeting) return 'meeting'
  if (reached) return 'reached'
  if (skipped) return 'skipped'
  if (message) return 'message'
  return calls > 0 ? 'tried' : 'to_call'
}

/** Whether someone is still to be called in a pass: not reached, not skipped, called less often than it is the pass. */
export function isToCall(one: CallsOfOne, pass: number): boolean {
  return !one.reached && !one.skipped && one.calls < pass
}

/** A person of a block as a bead. */
export interface Bead {
  prospectId: Id
  name: string
  state: BlockState
  /** Who called them last, or has them in hand. */
  callerId: Id | null
  /** Whether that caller has them in hand now. */
  inHand: boolean
  /** The other dialer that has them to call; null for none. */
  dialer: string | null
  /** Still to call in this pass. */
  open: boolean
}

/** A string of beads: those of one caller, or those whom nobody has yet. */
export interface BeadString {
  callerId: Id | null
  beads: Bead[]
}

/**
 * The strings of a block: one for each caller, in the order they were called, whom they have in hand at its end; then
 * those still to call whom nobody has, and those who were skipped, in the order of calling.
 */
export function beadStrings(beads: readonly Bead[], callerIds: readonly Id[]): BeadString[] {
  const one = callerIds.length === 1
  const ofCaller = (id: Id) => beads.filter((bead) => bead.callerId === id)
  const callers = [...new Set([...callerIds, ...beads.flatMap(({ callerId }) => callerId ?? [])])]
  const free = beads.filter(({ callerId }) => callerId === null)
  if (one && callers.length === 1) return [{ callerId: callers[0]!, beads: [...ofCaller(callers[0]!), ...free] }]
  return [
    ...callers.map((callerId) => ({ callerId, beads: ofCaller(callerId) })),
    ...(free.length ? [{ callerId: null, beads: free }] : []),
  ]
}

/** How many are in each state, and how many are still to call in this pass. */
export interface BlockCounts extends Record<BlockState, number> {
  open: number
}

/** Counts beads by their state. */
export function countBeads(beads: readonly Pick<Bead, 'state' | 'open'>[]): BlockCounts {
  const counts: BlockCounts = { to_call: 0, tried: 0, message: 0, reached: 0, meeting: 0, skipped: 0, open: 0 }
  for (const { state, open } of beads) {
    counts[state]++
    if (open) counts.open++
  }
  return counts
}

const some = (count: number, one: string, many = `${one}s`): string =>
  `${count.toLocaleString('en-US')} ${count === 1 ? one : many}`

/**
 * How far a block is, in words: "14 of 30 called: 5 reached, 2 of them with a meeting, 4 messages left, 5 no answer; 15
 * to call, 1 skipped".
 */
export function blockInWords(counts: BlockCounts): string {
  const reached = counts.reached + counts.meeting
  const called = reached + counts.message + counts.tried
  const all = called + counts.to_call + counts.skipped
  const parts = [
    reached
      ? `${reached.toLocaleString('en-US')} reached${counts.meeting ? `, ${some(counts.meeting, 'meeting')}` : ''}`
      : '',
    counts.message ? `${some(counts.message, 'message')} left` : '',
    counts.tried ? `${counts.tried.toLocaleString('en-US')} without an answer` : '',
  ].filter(Boolean)
  const rest = [
    counts.open ? `${counts.open.toLocaleString('en-US')} to call` : '',
    !counts.open && (called || counts.skipped) ? 'nobody left to call' : '',
    counts.skipped ? `${counts.skipped.toLocaleString('en-US')} skipped` : '',
  ].filter(Boolean)
  const begun = called
    ? `${called.toLocaleString('en-US')} of ${all.toLocaleString('en-US')} called`
    : `${some(all, 'person', 'people')}`
  return [parts.length ? `${begun}: ${parts.join(', ')}` : begun, rest.join(', ')].filter(Boolean).join('; ')
}
