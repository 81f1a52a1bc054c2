import { z } from 'zod'

/**
 * The filter language: what a list of people or companies is made of. A filter is a condition or a group of filters; an
 * empty "all" holds for everyone. Every condition is true or false for everyone, never unknown: where a value is
 * missing, "is", "has" and every comparison are false, and what says "not" or "none" is true.
 */

/** How many conditions, groups and levels a filter may have. */
export const MOST_CONDITIONS = 200
export const MOST_GROUPS = 200
const MOST_LEVELS = 10

const amount = z.number().int().min(1).max(10_000)
const several = z.array(z.string().min(1).max(300)).min(1).max(500)
const words = z.string().trim().min(1).max(300)
const number = z.number().min(-1e12).max(1e12)
const day = z.union([
  z.iso.date(),
  z.enum(['today', 'monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday']),
])

/** Whether it holds too where it never was. */
const orNever = z.literal(true).optional()

/** Longitude and latitude in degrees (RFC 7946). A corner of an area may run on over the date line. */
const position = z.tuple([z.number().min(-180).max(180), z.number().min(-90).max(90)])
const corner = z.tuple([z.number().min(-540).max(540), z.number().min(-90).max(90)])
/** How many corners a drawn area may have. */
export const MOST_CORNERS = 200
/** Half the way round the Earth: farther is nobody. */
export const FARTHEST_KM = 20_000

export const UNITS = ['hours', 'days', 'weeks', 'months'] as const
export const SPANS = ['today', 'yesterday', 'this week', 'last week', 'this month', 'last month', 'this year'] as const

/** What is asked of a field. Weekdays mean the next such day after today; weeks begin on Monday (ISO 8601). */
export const testSchema = z.discriminatedUnion('op', [
  z.object({ op: z.enum(['set', 'unset', 'yes', 'no']) }),
  z.object({ op: z.enum(['is', 'isNot', 'contains', 'containsNot', 'startsWith']), text: words }),
  z.object({ op: z.enum(['anyOf', 'noneOf', 'hasAny', 'hasAll', 'hasNone', 'exactly']), values: several }),
  z.object({ op: z.enum(['equals', 'differs', 'atLeast', 'atMost', 'moreThan', 'lessThan']), number }),
  z.object({ op: z.literal('between'), from: number, to: number }),
  z.object({ op: z.literal('moreAgo'), amount, unit: z.enum(UNITS), orNever }),
  z.object({ op: z.enum(['inLast', 'inNext', 'moreAhead']), amount, unit: z.enum(UNITS) }),
  z.object({ op: z.literal('during'), span: z.enum(SPANS) }),
  z.object({ op: z.literal('before'), day, orNever }),
  z.object({ op: z.enum(['after', 'on']), day }),
  z.object({
    op: z.enum(['near', 'far']),
    km: z.number().min(0.1).max(FARTHEST_KM),
    /** Said in miles; without it, in kilometers. */
    miles: z.literal(true).optional(),
    name: words,
    at: position,
  }),
  z.object({ op: z.enum(['inside', 'notInside']), area: z.array(corner).min(3).max(MOST_CORNERS) }),
])
export type Test = z.infer<typeof testSchema>
export type Op = Test['op']

/** A field's key and what is asked of it. */
export interface Condition {
  field: string
  test: Test
}
export type Filter = Condition | { all: Filter[] } | { any: Filter[] } | { none: Filter[] }

/** Holds for everyone. */
export const EVERYONE: Filter = { all: [] }

const conditionSchema = z.strictObject({ field: z.string().min(1).max(80), test: testSchema })

/** The shape of a filter as it crosses the wire or is kept; levels and conditions are limited. */
export const filterSchema: z.ZodType<Filter> = z
  .unknown()
  .transform((value, context) => {
    let conditions = 0
    let groups = 0
    const read = (given: unknown, level: number, path: PropertyKey[]): Filter => {
      const fail = (message: string): Filter => {
        context.issues.push({ code: 'custom', message, path: [...path], input: given })
        return EVERYONE
      }
      if (level > MOST_LEVELS) return fail(`Conditions lie more than ${MOST_LEVELS} groups deep`)
      if (typeof given !== 'object' || given === null) return fail('This is no condition')
      for (const kind of ['all', 'any', 'none'] as const) {
        if (!(kind in given)) continue
        const parts = (given as Record<string, unknown>)[kind]
        if (!Array.isArray(parts) || Object.keys(given).length !== 1) return fail('This is no group of conditions')
        if (++groups > MOST_GROUPS) {
          return groups > MOST_GROUPS + 1 ? EVERYONE : fail(`There are more than ${MOST_GROUPS} groups`)
        }
        return { [kind]: parts.map((part, index) => read(part, level + 1, [...path, kind, index])) } as Filter
      }
      if (++conditions > MOST_CONDITIONS) {
        return conditions > MOST_CONDITIONS + 1 ? EVERYONE : fail(`There are more than ${MOST_CONDITIONS} conditions`)
      }
      const condition = conditionSchema.safeParse(given)
      return condition.success ? condition.data : fail(condition.error.issues[0]?.message ?? 'This is no condition')
    }
    return read(value, 0, [])
  })
  .meta({
    description: 'A condition {field, test}, or a group {all: [...]}, {any: [...]} or {none: [...]} of filters',
    override: { type: 'object' },
  })

/** Whether it is a single condition. */
export function isCondition(filter: Filter): filter is Condition {
  return 'field' in filter
}

/** A group's kind and parts. */
export function partsOf(filter: Exclude<Filter, Condition>): { kind: 'all' | 'any' | 'none'; parts: Filter[] } {
  if ('all' in filter) return { kind: 'all', parts: filter.all }
  return 'any' in filter ? { kind: 'any', parts: filter.any } : { kind: 'none', parts: filter.none }
}

/** Every condition, in order. */
export function conditionsOf(filter: Filter): Condition[] {
  return isCondition(filter) ? [filter] : partsOf(filter).parts.flatMap(conditionsOf)
}

/**
 * The same filter in its plainest form: groups of one part are that part, "all" within "all" and "any" within "any" are
 * one group; at the top is always a group of all. Two filters that print alike are alike in this form.
 */
export function normalize(filter: Filter): { all: Filter[] } {
  const plain = flatten(filter)
  return 'all' in plain ? plain : { all: [plain] }
}

function flatten(filter: Filter): Filter {
  if (isCondition(filter)) return filter
  const { kind, parts } = partsOf(filter)
  const flat = parts.map(flatten)
  if (kind === 'none') return { none: flat.length === 1 && 'any' in flat[0]! ? flat[0].any : flat }
  const merged = flat.flatMap((part) => (kind in part ? (part as Record<string, Filter[]>)[kind]! : [part]))
  return merged.length === 1 ? merged[0]! : ({ [kind]: merged } as Filter)
}

/** The filter without groups that hold no condition yet, as they are while a sentence is being written. */
export function withoutEmptyGroups(filter: Filter): { all: Filter[] } {
  const prune = (one: Filter): Filter[] => {
    if (isCondition(one)) return [one]
    const { kind, parts } = partsOf(one)
    const pruned = parts.flatMap(prune)
    return pruned.length ? [{ [kind]: pruned } as Filter] : []
  }
  const [pruned] = prune(filter)
  return normalize(pruned ?? EVERYONE)
}
