import { ME, OPS, type Field } from './fields'
import { conditionsOf, type Filter, type Op } from './filter'
import { boundsOf } from './moments'
import { problemOfArea } from './place'

/** What can be asked of a field. Whether someone is in lists can be asked of lists by name alone. */
export function opsOf(field: Field): readonly Op[] {
  return field.key === 'lists' ? ['hasAny', 'hasAll', 'hasNone'] : OPS[field.kind]
}

/**
 * Why a filter cannot be asked, in words: a field or a value that is gone, a question that does not fit the field, a
 * day no calendar has. Empty where it can.
 */
export function problemsOf(filter: Filter, fields: ReadonlyMap<string, Field>): string[] {
  return conditionsOf(filter).flatMap(({ field: key, test }) => {
    const field = fields.get(key)
    if (!field) {
      return [`A condition asks for a field that is gone (${key.slice(0, 60)}). Take it out or choose another`]
    }
    if (!opsOf(field).includes(test.op)) return [`"${field.label}" cannot be asked that way`]
    if ('values' in test && field.choices) {
      const missingValues = test.values.filter((value) => !field.choices!.some((choice) => choice.id === value))
      if (missingValues.length) {
        return [
          `"${field.label}" no longer has ${missingValues.length === 1 ? 'a value' : `${missingValues.length} values`} that a condition asks for. Choose again`,
        ]
      }
    }
    if (test.op === 'between' && test.from > test.to) {
      return [`"${field.label}" is asked to lie between ${test.from} and ${test.to}, which nothing does`]
    }
    if (test.op === 'inside' || test.op === 'notInside') return problemOfArea(test.area) ?? []
    if (test.op === 'before' || test.op === 'after' || test.op === 'on') {
      try {
        boundsOf(test, 0, 'UTC')
      } catch (error) {
        return [(error as Error).message]
      }
    }
    return []
  })
}

/** Why a filter cannot decide by itself what is done with someone, in words: as `problemsOf`, and nobody looks then. */
export function conditionFault(where: Filter, fields: ReadonlyMap<string, Field>): string | undefined {
  const conditions = conditionsOf(where)
  if (!conditions.length) return 'Add a condition'
  if (conditions.some(({ test }) => 'values' in test && test.values.includes(ME))) {
    return 'Choose a user in the condition: there is no “me” here'
  }
  return problemsOf(where, fields)[0]
}
