/** A choice of a menu. */
export interface Choice {
  value: string
  title: string
}

/** What there is by id, in the order of the names. */
export function namedChoices(names: Readonly<Record<string, string>>): Choice[] {
  return Object.entries(names)
    .map(([value, title]) => ({ value, title }))
    .sort((a, b) => a.title.localeCompare(b.title))
}

/** Choices in the order in which they came. */
export const inOrder = (names: Readonly<Record<string, string>>): Choice[] =>
  Object.entries(names).map(([value, title]) => ({ value, title }))
