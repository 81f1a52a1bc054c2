import { z } from 'zod'
import { conditionsOf, filterSchema, type Filter } from '../filter/filter'
import type { Id } from '../instant'

/** What decides on a way of a branch: what has happened since the cadence started, or what is known. */
export const wayConditionSchema = z.discriminatedUnion('type', [
  z.object({
    type: z.literal('outcome').describe('The last call of this cadence came to one of these'),
    outcomeIds: z.array(z.uuid()).min(1, 'Choose an outcome').max(50),
  }),
  z.object({ type: z.literal('reached').describe('There was a conversation since the cadence started') }),
  z.object({ type: z.literal('opened').describe('The last email of this cadence was opened') }),
  z.object({ type: z.literal('clicked').describe('A link of the last email of this cadence was clicked') }),
  z.object({ type: z.literal('replied').describe('They replied since the cadence started') }),
  z.object({ type: z.literal('answeredText').describe('They answered by text since the cadence started') }),
  z.object({
    type: z.literal('filter'),
    where: filterSchema.refine((where) => conditionsOf(where).length > 0, 'Add a condition'),
  }),
])
export type WayCondition = z.infer<typeof wayConditionSchema>

/** Kinds of conditions, in the order of the menu. */
export const WAY_CONDITIONS = {
  outcome: 'the last call came to',
  reached: 'they were spoken to',
  opened: 'the last email was opened',
  clicked: 'a link of the last email was clicked',
  replied: 'they replied',
  answeredText: 'they answered by text',
  filter: 'the prospect fits',
} as const satisfies Record<WayCondition['type'], string>

/** Ways that can only be taken where a reply does not end the cadence. */
export const NEEDS_REPLY: ReadonlySet<WayCondition['type'] | undefined> = new Set(['replied', 'answeredText'] as const)

/** A way's condition as a sentence; `null` is the way for everyone else. */
export function wayInWords(
  when: WayCondition | null,
  outcomes: Readonly<Record<Id, string>>,
  filterInWords: (filter: Filter) => string,
): string {
  if (!when) return 'otherwise'
  if (when.type === 'filter') return `if ${filterInWords(when.where)}`
  const label = `if ${WAY_CONDITIONS[when.type]}`
  if (when.type !== 'outcome') return label
  return `${label} ${when.outcomeIds.map((id) => `“${outcomes[id] ?? '(archived)'}”`).join(' or ')}`
}
