import type { Id } from '../../instant'
import { matches, type Facts } from '../../filter/matches'
import type { Filter } from '../../filter/filter'
import {
  attemptsOf,
  conversationsWith,
  companyOf,
  ofProspect,
  openEnrollments,
  wasReached,
  type EngineState,
} from './engineState'
import { isSettable } from './settableFields'
import type { Playbook } from './playbook'

/**
 * What is known of a prospect, by the keys of filters: as it was read, and where the engine knows better, as it stands
 * now, after what the event has done so far. The moments of touches ("last call") are those before the event: "last
 * call is more than 30 days ago" would never hold otherwise. Throws where nothing was read of them.
 */
export function factsNow(state: EngineState, prospectId: Id): Facts {
  const read = state.facts[prospectId]
  if (!read) throw new Error(`What conditions ask was not read of prospect ${prospectId}`)
  const prospect = state.prospect[prospectId]!
  const company = companyOf(state, prospect)
  const touches = ofProspect(state, 'touch', prospectId)
  const enrollments = ofProspect(state, 'enrollment', prospectId)
  // Enrollments that have ended are not in the state.
  const several = (key: string, values: readonly (string | null)[]) => [
    ...new Set([...((read[key] ?? []) as readonly string[]), ...values.filter((value) => value !== null)]),
  ]
  const inTime = [...touches].sort((a, b) => a.at - b.at || (a.id < b.id ? -1 : 1))
  const lastSaid = (what: 'quality' | 'succeeded') => inTime.findLast((touch) => touch[what] !== null)?.[what] ?? null
  const { country, region, timeZone } = prospect
  const settable = Object.keys(read).filter((key) => key.startsWith('custom:') || isSettable(key))
  return {
    ...read,
    ...Object.fromEntries(settable.map((key) => [key, null])),
    ...Object.fromEntries(ofProspect(state, 'customValue', prospectId).map(({ field, value }) => [field, value])),
    stage: prospect.stageId,
    owner: prospect.ownerId,
    status: prospect.status,
    rating: prospect.rating,
    country,
    region,
    timeZone,
    stopCall: prospect.stopCall,
    stopEmail: prospect.stopEmail,
    companyStatus: company?.status ?? null,
    isCustomer: company?.status === 'customer',
    tags: ofProspect(state, 'prospectTag', prospectId).map((row) => row.tagId),
    lists: several(
      'lists',
      ofProspect(state, 'listMember', prospectId).map((row) => row.listId),
    ),
    phoneStatuses: ofProspect(state, 'phone', prospectId).map((row) => row.status),
    attempts: attemptsOf(state, prospectId),
    conversations: conversationsWith(state, prospectId),
    neverReached: !wasReached(state, prospectId),
    lastQuality: lastSaid('quality'),
    lastSucceeded: lastSaid('succeeded') === true,
    outcomes: touches.flatMap((touch) => touch.outcomeId ?? []),
    inCadence: openEnrollments(state, prospectId).map((row) => row.cadenceId),
    wasInCadence: several(
      'wasInCadence',
      enrollments.map((row) => row.cadenceId),
    ),
    cadenceEnded: several(
      'cadenceEnded',
      enrollments.map((row) => row.exit),
    ),
  } as Facts
}

/** Whether a prospect fits a filter now. Nobody looks, so "me" is nobody. */
export function fitsNow(state: EngineState, playbook: Playbook, prospectId: Id, filter: Filter): boolean {
  return matches(filter, factsNow(state, prospectId), playbook.filterFields, {
    now: state.now,
    timeZone: playbook.timeZone,
    me: null,
  })
}
