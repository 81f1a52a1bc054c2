import type { Id } from '../instant'
import type { Field } from './fields'
import type { Filter } from './filter'
import type { Viewpoint } from './matches'

/** A list that filters may speak of: a live one is its filter, a fixed one its members. */
export type ListMeaning = { kind: 'fixed' } | { kind: 'live'; filter: Filter }

/** What is collected while a statement is made: its values, and whether it needs the prospect's company. */
export interface SqlParts {
  values: unknown[]
  /** Takes a value, gives the placeholder that stands for it. */
  parameter(value: unknown): string
  /** Whether the SQL so far speaks of the prospect's company. */
  readsCompany: boolean
}

/** What a translation is made with: the view, the fields by key, the lists by id. */
export interface Translation extends Viewpoint, SqlParts {
  fields: ReadonlyMap<string, Field>
  lists: ReadonlyMap<Id, ListMeaning>
}

/** A statement's parts before anything was translated; `values` are those that come first. */
export function emptyParts(values: unknown[] = []): SqlParts {
  return { values, parameter: (value) => `$${values.push(value)}`, readsCompany: false }
}

/** Where a part of a filter stands: in which lists, and whether null must not come of it, because it is denied. */
export interface Place {
  inside: readonly Id[]
  sure: boolean
}
