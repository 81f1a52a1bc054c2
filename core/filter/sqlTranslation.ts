import type { Id } from '../instant'
import type { Field } from './fields'
import type { Filter } from './filter'
import type { Viewpoint } from './matches'

/** A list that filters may speak of: a live one is its filter, a fixed one its members. */
export type ListMeaning = { kind: 'fixed' } | { kind: 'live'; filter: Filter }

/** What a translation is made with: the view, the fields by key, the lists by id. */
export interface Translation extends Viewpoint {
  fields: ReadonlyMap<string, Field>
  lists: ReadonlyMap<Id, ListMeaning>
  /** Takes a value, gives the placeholder that stands for it. */
  parameter(value: unknown): string
}

/** Where a part of a filter stands: in which lists, and whether null must not come of it, because it is denied. */
export interface Place {
  inside: readonly Id[]
  sure: boolean
}
