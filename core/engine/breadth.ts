import { changesRecord, reachesCompany as actionReaches, turnsOf, type ActionType } from '../actions/registry'
import { asksEntryFacts } from '../cadence/entry'
import { reachesColleagues } from '../cadence/exits'
import { everyStep, type Cadence } from '../cadence/steps'
import type { Filter } from '../filter/filter'
import type { Id } from '../instant'
import { DECIDES } from './afterLast'
import type { DomainEvent } from './state/events'
import type { ConfiguredAction, Playbook } from './state/playbook'

/** How much the state must hold for something to be decided. */
export interface Breadth {
  /** Everyone at the company, with their open work. */
  colleagues: boolean
  /** Tags, lists and custom fields. */
  records: boolean
  /** What conditions ask of the prospects. */
  filters: readonly Filter[]
  /** What rules on who may enter a cadence ask: when they left it, what colleagues are in. */
  entries: boolean
  /** Users of whom it is asked whose turn it is to be given a prospect. */
  turns: readonly Id[]
}

/** Breadths as one that is enough for all. */
export function joined(parts: readonly Breadth[]): Breadth {
  return {
    colleagues: parts.some(({ colleagues }) => colleagues),
    records: parts.some(({ records }) => records),
    filters: parts.flatMap(({ filters }) => filters),
    entries: parts.some(({ entries }) => entries),
    turns: parts.flatMap(({ turns }) => turns),
  }
}

const NOTHING: Breadth = { colleagues: false, records: false, filters: [], entries: false, turns: [] }

/** The filters of the ways of cadences. */
export function waysAsked(cadences: readonly Pick<Cadence, 'steps' | 'earlier'>[]): Filter[] {
  return everyStep(cadences).flatMap(({ ways }) =>
    ways.flatMap(({ when }) => (when?.type === 'filter' ? [when.where] : [])),
  )
}

const onFilters = (filters: readonly Filter[]): Breadth => ({ ...NOTHING, records: filters.length > 0, filters })

/** What must be known to start cadences with someone: what their entry rules ask. */
function breadthOfStarts(cadenceIds: readonly Id[], { cadences }: Playbook): Breadth {
  const rules = cadenceIds.flatMap((id) => cadences[id]?.entry ?? [])
  return { ...onFilters(rules.flatMap(({ where }) => where ?? [])), entries: rules.some(asksEntryFacts) }
}

/** What must be known to do actions, at once or when their time has come. */
export function breadthOfActions(actions: readonly ConfiguredAction[], playbook: Playbook): Breadth {
  const starts = actions.flatMap((action) =>
    action.type === ('startCadence' satisfies ActionType) ? [(action as { cadenceId?: Id }).cadenceId ?? ''] : [],
  )
  return joined([
    {
      ...NOTHING,
      colleagues: actions.some(actionReaches),
      records: actions.some(changesRecord),
      turns: actions.flatMap(turnsOf),
    },
    onFilters(actions.flatMap(({ where }) => where ?? [])),
    breadthOfStarts(starts, playbook),
  ])
}

/** What must be known to go on in any cadence: what ways ask, and what is done behind the last step. */
export function breadthOnTheWay(playbook: Playbook): Breadth {
  const after = Object.values(playbook.afterLast).flat()
  return joined([
    onFilters(waysAsked(Object.values(playbook.cadences))),
    breadthOfActions(after, playbook),
    { ...NOTHING, colleagues: after.length > 0 && exitsReachColleagues(playbook) },
  ])
}

/** Whether a stage, a deal or a bounce takes colleagues out of any cadence. */
const exitsReachColleagues = ({ cadences }: Playbook) =>
  Object.values(cadences).some(({ exits }) => reachesColleagues(exits))

/** What can change others at the company, or looks at what they have there. */
const COMPANY_WIDE: ReadonlySet<DomainEvent['kind']> = new Set([
  'emailReplied',
  'textReceived',
  'companyStatusSet',
  'meetingResult',
  'dealOpened',
  'dealClosed',
])

/** Events that may move a prospect to another stage, open a deal or find that an address bounces. */
const MAY_END: ReadonlySet<DomainEvent['kind']> = new Set([
  'callLogged',
  'stageMoved',
  'actionDue',
  'taskDone',
  'emailSent',
  'emailSettled',
  'emailBounced',
  'emailFailed',
  'formSent',
  'actionsRun',
])

/** What an event may be about that more must be known for. */
interface Asked {
  outcomeId?: Id
  cadenceId?: Id
  formId?: Id
  actions?: readonly ConfiguredAction[]
}

/** What must be known to react to an event. What it says holds for this playbook only. */
export function breadthOfEvent(event: Pick<DomainEvent, 'kind'> & Asked, playbook: Playbook): Breadth {
  const { actions = [] } = event.actions
    ? event
    : (playbook.outcomes[event.outcomeId ?? ''] ?? playbook.forms[event.formId ?? ''] ?? {})
  const parts: Breadth[] = [breadthOfActions(actions, playbook)]
  if (DECIDES.has(event.kind)) parts.push(breadthOnTheWay(playbook))
  if (event.kind === 'enrolled') parts.push(breadthOfStarts([event.cadenceId ?? ''], playbook))
  const wide = COMPANY_WIDE.has(event.kind) || (MAY_END.has(event.kind) && exitsReachColleagues(playbook))
  parts.push({ ...NOTHING, colleagues: wide, records: event.kind === 'actionDue' })
  return joined(parts)
}
