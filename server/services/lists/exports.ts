import { stringify } from 'csv-stringify/sync'
import type { Field } from '#core/filter/fields'
import { CSV, harmless } from '#core/imports/columns'
import type { Id } from '#core/instant'
import type { GoalState } from '#shared/api/lists'
import { cardsOf } from './cards'
import { filterWorld } from './filters'
import { findPeople } from './people'
import type { Viewer } from '../access/viewer'

/** Whom to export, how and in what order. */
export interface ExportAsked {
  filter?: string
  list?: Id
  search?: string
  goal?: GoalState
  columns: string
  sort?: string
  format: 'csv' | 'json' | 'vcard'
}

const PAGE = 500

/**
 * People as a file, piece by piece, in the order of a list: their name, then the columns asked for. Moments are written
 * in UTC (ISO 8601), choices by name, several values joined by semicolons. Cells that would be formulas are made
 * harmless. The first piece is read before anything is given, so that what is wrong is an answer and not half a file.
 */
export async function exportPeople(viewer: Viewer, asked: ExportAsked): Promise<AsyncIterable<string>> {
  const { fields } = await filterWorld(viewer)
  const columns = [...new Set(asked.columns.split(','))]
    .flatMap((key) => fields.get(key) ?? [])
    .filter((field) => field.key !== 'name')
  const [, field, way] = /^(.+)\.(up|down)$/.exec(asked.sort ?? '') ?? []
  const page = (after?: string) =>
    findPeople(viewer, {
      ...(asked.filter && { filter: asked.filter }),
      ...(asked.list && { list: asked.list }),
      ...(asked.search && { search: asked.search }),
      ...(asked.goal && { goal: asked.goal }),
      columns: columns.map((column) => column.key),
      sort: field ? { field, down: way === 'down' } : null,
      ...(after && { after }),
      limit: PAGE,
    })
  const first = await page()
  if (asked.format === 'vcard') return asCards(first, page)
  return asked.format === 'csv' ? asCsv(first, columns, page) : asJson(first, columns, page)
}

type Page = Awaited<ReturnType<typeof findPeople>>

function named(field: Field, id: unknown): string {
  return field.choices?.find((choice) => choice.id === id)?.name ?? String(id)
}

function inWords(field: Field, value: unknown): string {
  if (value === null || value === undefined) return ''
  if (field.kind === 'moment') return new Date(value as number).toISOString()
  if (field.kind === 'several') return (value as unknown[]).map((id) => named(field, id)).join('; ')
  if (field.kind === 'choice') return named(field, value)
  if (field.kind === 'yesNo') return value ? 'yes' : 'no'
  return String(value)
}

async function* asCards(first: Page, page: (after: string) => Promise<Page>): AsyncGenerator<string> {
  for (let here: Page | null = first; here; here = here.next ? await page(here.next) : null) {
    yield await cardsOf(here.people.map((person) => person.id))
  }
}

async function* asCsv(
  first: Page,
  columns: readonly Field[],
  page: (after: string) => Promise<Page>,
): AsyncGenerator<string> {
  // Spreadsheets take a file for UTF-8 by its byte order mark.
  yield `\uFEFF${stringify([['name', ...columns.map((column) => column.label)].map(harmless)], CSV)}`
  for (let here: Page | null = first; here; here = here.next ? await page(here.next) : null) {
    // Numbers are no formulas, whatever they begin with.
    yield stringify(
      here.people.map((person) => [
        harmless(person.name),
        ...columns.map((column) =>
          column.kind === 'number' || column.key === 'phone'
            ? inWords(column, person.values[column.key])
            : harmless(inWords(column, person.values[column.key])),
        ),
      ]),
      CSV,
    )
  }
}

async function* asJson(
  first: Page,
  columns: readonly Field[],
  page: (after: string) => Promise<Page>,
): AsyncGenerator<string> {
  let separator = '[\n'
  for (let here: Page | null = first; here; here = here.next ? await page(here.next) : null) {
    for (const person of here.people) {
      const value = (column: Field) => {
        if (column.kind === 'several') return (person.values[column.key] as unknown[]).map((id) => named(column, id))
        return column.kind === 'number' || column.kind === 'yesNo'
          ? (person.values[column.key] ?? null)
          : inWords(column, person.values[column.key]) || null
      }
      const cells = Object.fromEntries(columns.map((column) => [column.label, value(column)]))
      yield `${separator}${JSON.stringify({ id: person.id, name: person.name, ...cells })}`
      separator = ',\n'
    }
  }
  yield separator === '[\n' ? '[]\n' : '\n]\n'
}
