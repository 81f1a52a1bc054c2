import { z } from 'zod'
import type { RequiredInput } from '../../enumerations'
import { filterSchema, type Filter } from '../../filter/filter'
import { print } from '../../filter/sentence'
import type { Id } from '../../instant'
import { WAIT_UNITS, valuesOf } from '../../enumerations'
import type { ReactionContext } from '../../engine/state/reactionContext'
import type { Cause } from '../../engine/state/effects'
import type { OutcomeDetails } from '../../engine/state/events'
import type { ConfiguredAction, Outcome, Playbook } from '../../engine/state/playbook'
import type { Enrollment, Prospect } from '../../engine/state/engineState'

/** What an action works on. */
export interface ActionRun {
  context: ReactionContext
  /** As they stand now. */
  prospect: Prospect
  /** The stage they stood in before the call: the first touch may have moved them. */
  stageBefore: Id
  /** The enrollment that the call or task belongs to, as it stands now; null without one. */
  enrollment: Enrollment | null
  /** The number that was called. */
  phoneId: Id | null
  /** What was asked for with the outcome; empty for an action that has waited. */
  details: OutcomeDetails
  outcome: Outcome | null
  cause: Cause
}

/** What an action may refer to by id, as people call it; nothing that is archived or deleted. */
export interface ActionNames {
  stages: Readonly<Record<Id, string>>
  cadences: Readonly<Record<Id, string>>
  /** Steps of the cadences. */
  steps: Readonly<Record<Id, string>>
  tags: Readonly<Record<Id, string>>
  /** Fixed lists. */
  lists: Readonly<Record<Id, string>>
  users: Readonly<Record<Id, string>>
  /** Custom fields of prospects. */
  fields: Readonly<Record<Id, string>>
  /** A filter as a sentence. */
  filterInWords?(filter: Filter): string
}

/** What actions may refer to, as the playbook names it. */
export function namesOf(playbook: Playbook): ActionNames {
  const cadences = Object.values(playbook.cadences)
  const byName = (rows: readonly { id: Id; name: string }[]) =>
    Object.fromEntries(rows.map(({ id, name }) => [id, name]))
  const { names, customFields } = playbook
  const fields = Object.entries(customFields).filter(([key]) => key.startsWith('custom:'))
  return {
    stages: byName(Object.values(playbook.stages)),
    cadences: byName(cadences),
    steps: byName(cadences.flatMap((cadence) => cadence.steps)),
    tags: names,
    lists: names,
    users: names,
    fields: Object.fromEntries(fields.map(([key, name]) => [key.slice('custom:'.length), name])),
    filterInWords: (filter) => print(filter, playbook.filterFields),
  }
}

/** At most this long may an action wait. */
const LONGEST_DELAY_DAYS = 730
/** How long an action waits; at most two years. */
export const delaySchema = z
  .object({
    amount: z.number().int('Whole numbers only').min(1, 'A delay is at least 1').max(100_000, 'At most two years'),
    unit: z.enum(valuesOf(WAIT_UNITS)),
  })
  .refine(
    ({ amount, unit }) =>
      amount * { minutes: 1 / 1440, hours: 1 / 24, days: 1, business_days: 1.4, weeks: 7 }[unit] <= LONGEST_DELAY_DAYS,
    { path: ['amount'], message: 'At most two years' },
  )

const attempt = z.number().int().min(1).max(99).optional()
/** When an action applies, and how long it waits. */
const TERMS = {
  fromAttempt: attempt.describe('From this attempt on, the one that is logged counted'),
  beforeAttempt: attempt.describe('Only before this attempt'),
  inStages: z.array(z.string()).max(50).optional().describe('Only for prospects who stand in one of these stages'),
  inCadences: z.array(z.uuid()).max(50).optional().describe('Only where the call belongs to one of these cadences'),
  noCadence: z.literal(true).optional().describe('Only for prospects who are in no cadence'),
  where: filterSchema.optional().describe('Only for prospects who fit this filter, when the action is done'),
  after: delaySchema.optional().describe('How long it waits; at once without it'),
}

/** A kind of action: what it holds, what it needs, what it does, and what it is called. */
export interface ActionKind<Value extends { type: string } = { type: string }> {
  type: Value['type']
  /** In a menu of actions. */
  label: string
  schema: z.ZodType
  /** What the outcome must ask for; such an action cannot wait. */
  needs?: RequiredInput
  /** Whether it may be scheduled for later. */
  mayWait: boolean
  /** Whether it changes anyone but the prospect, or looks at their company. */
  reachesCompany?(action: Value): boolean
  /** Users of whom it must be known whose turn it is. */
  turnsOf?(action: Value): readonly Id[]
  /** Whether it changes the prospect’s tags, lists or custom fields. */
  changesRecord?: boolean
  /** What it refers to that is not there any more, as a sentence; null where all is. */
  check?(action: Value, names: ActionNames): string | null
  /** Why it is not even scheduled, as a sentence; null where it is. */
  whyNotLater?(run: ActionRun, action: Value): string | null
  apply(run: ActionRun, action: Value): void
  /** What it does, as a manager reads it, without a prospect. */
  describe(action: Value, names: ActionNames): string
}

/** The schema of an action: its type, its own fields, and when it applies. */
export function actionSchema<Type extends string, Shape extends z.ZodRawShape>(type: Type, shape: Shape) {
  return z.object({ type: z.literal(type), ...shape, ...TERMS })
}

/** Declares a kind of action whose values are those of its schema. */
export function defineAction<Schema extends z.ZodType<ConfiguredAction>>(
  kind: ActionKind<z.infer<Schema>> & { schema: Schema },
): ActionKind<z.infer<Schema>> & { schema: Schema } {
  return kind
}

/** A name with quotation marks; three dots where none is chosen yet, or that it is not there any more. */
export function named(names: Readonly<Record<Id, string>>, id: Id): string {
  if (!id) return '…'
  return names[id] === undefined ? '(deleted)' : `“${names[id]}”`
}

/** Checks that what an action refers to is there. */
export function mustBeThere(names: Readonly<Record<Id, string>>, id: Id, what: string): string | null {
  return names[id] === undefined ? `Choose ${what}: the one chosen is archived or deleted` : null
}
