import type { BulkAction } from '#shared/api/bulk'

/**
 * Changes of what is known of people, row by row alike: each says in SQL whom it leaves out, and is one statement for
 * many.
 */
export type PlainAction = Extract<
  BulkAction,
  { type: 'assign' | 'assignToCompanyOwner' | 'tag' | 'untag' | 'rate' | 'putOn' | 'setField' }
>

/** Whether an action changes what is known of people, and nothing of their progress. */
export function isPlain(action: { type: string }): action is PlainAction {
  return ['assign', 'assignToCompanyOwner', 'tag', 'untag', 'rate', 'putOn', 'setField'].includes(action.type)
}
