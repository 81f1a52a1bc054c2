import type { Id } from '../instant'

/** The version of cadence files that this program writes and reads. */
export const CADENCE_FILE_VERSION = 2

/** Something that a cadence refers to by id, and what it is called: a tag, a stage, another cadence. */
export interface Reference {
  id: Id
  kind: string
  name: string
}

/** Under these keys ids stand that are no UUIDs: those of stages and sources. */
const NAMED_KEYS: ReadonlySet<string> = new Set(['ids', 'values', 'inStages', 'to'])
const UUID = /[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}/g

/** Every text in a value, changed: `change` gets it and the key it stands under. */
function eachText(value: unknown, change: (text: string, key: string) => string, key = ''): unknown {
  if (typeof value === 'string') return change(value, key)
  if (Array.isArray(value)) return value.map((one) => eachText(one, change, key))
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(Object.entries(value).map(([name, one]) => [name, eachText(one, change, name)]))
}

/** What of the known things a cadence refers to, in the order in which they come. */
export function referencesIn(content: unknown, known: ReadonlyMap<Id, Omit<Reference, 'id'>>): Reference[] {
  const found = new Map<Id, Reference>()
  const note = (id: Id) => {
    const thing = known.get(id)
    if (thing) found.set(id, { id, ...thing })
  }
  eachText(content, (text, key) => {
    for (const [id] of text.matchAll(UUID)) note(id)
    if (NAMED_KEYS.has(key)) note(text)
    return text
  })
  return [...found.values()]
}

/** The content with other ids in the place of those it refers to. */
export function withReferences<T>(content: T, ids: ReadonlyMap<Id, Id>): T {
  return eachText(content, (text, key) => {
    const named = NAMED_KEYS.has(key) ? ids.get(text) : undefined
    return named ?? text.replace(UUID, (id) => ids.get(id) ?? id)
  }) as T
}

/**
 * Where a value that was read holds something that reading it has dropped: the paths of unknown fields, as
 * "cadence.steps.0.colour".
 */
export function unknownPaths(given: unknown, read: unknown, path = ''): string[] {
  if (typeof given !== 'object' || given === null || typeof read !== 'object' || read === null) return []
  return Object.entries(given).flatMap(([name, value]) => {
    const here = path ? `${path}.${name}` : name
    return name in read ? unknownPaths(value, (read as Record<string, unknown>)[name], here) : [here]
  })
}
