import type pg from 'pg'

/**
 * Marks a text as SQL and gives it as it is, with what stands in its holes. Values never go into holes: they are
 * parameters.
 */
export function sql(strings: TemplateStringsArray, ...holes: readonly (string | number | boolean)[]): string {
  return strings.reduce((text, part, index) => `${text}${holes[index - 1]}${part}`)
}

/** The first row of what a query gives; undefined where it gives none. */
export async function firstRow<R extends pg.QueryResultRow>(
  result: Promise<pg.QueryResult<R>>,
): Promise<R | undefined> {
  return (await result).rows[0]
}
