import { z } from 'zod'
import { DATE_ORDERS, EXISTING_ACTIONS, IMPORT_STATUSES, valuesOf } from '#core/enumerations'
import { IMPORT_FIELDS, kindOfFile, type ImportField, type ImportTarget } from '#core/imports/columns'
import { endpoint, id, instant, required, text, withId } from './endpoint'

const fields = Object.keys(IMPORT_FIELDS) as [ImportField, ...ImportField[]]
const target = z.union([
  z.enum(fields),
  z.templateLiteral(['custom:', z.uuid()]),
  z.templateLiteral(['company:custom:', z.uuid()]),
]) as z.ZodType<ImportTarget>
const mappingSchema = z
  .record(z.string().regex(/^\d{1,3}$/), target)
  .refine(
    (mapping) => new Set(Object.values(mapping)).size === Object.values(mapping).length,
    'Two columns are mapped to the same field',
  )
  .refine(
    (mapping) => kindOfFile(mapping) !== null,
    'Map one column to a name. In a file of companies, map one to the company or its website, and none to a field that only prospects have',
  )

/** What holds for every row that does not say otherwise. */
const whole = z.object({
  source: text(300).optional(),
  tags: z.array(text(60)).max(20).optional(),
  list: text(100).optional(),
  keepNames: z.boolean().optional().describe('Names are taken as they are written: titles and capitals stay'),
})

export const importSchema = z.object({
  id,
  fileName: z.string(),
  status: z.enum(valuesOf(IMPORT_STATUSES)),
  headings: z.array(z.string()),
  samples: z.array(z.array(z.string())),
  mapping: z.record(z.string(), target),
  ownContacts: z.boolean(),
  knownAction: z.enum(valuesOf(EXISTING_ACTIONS)),
  ownerId: id.nullable(),
  ownerIds: z.array(id),
  dateOrder: z.enum(valuesOf(DATE_ORDERS)),
  whole,
  progress: z.number(),
  problem: z.string().nullable(),
  createdAt: instant,
  version: z.number(),
  dialect: z.string().nullable(),
  counts: z
    .object({
      rows: z.number(),
      fresh: z.number(),
      known: z.number(),
      merged: z.number(),
      invalid: z.number(),
      /** Rows that are taken without a cell that could not be read. */ dropped: z.number(),
      /** Names that were cleaned up (titles, capitals), with the first few. */ renamed: z.number(),
      renames: z.array(z.object({ was: z.string(), is: z.string() })),
      /** Tags, sources and lists that the file would make. */
      news: z.array(
        z.object({ kind: z.enum(['tag', 'source', 'list']), count: z.number(), names: z.array(z.string()) }),
      ),
      reasons: z.array(z.object({ reason: z.string(), count: z.number() })),
      droppedReasons: z.array(z.object({ reason: z.string(), count: z.number() })),
      added: z.number(),
      updated: z.number(),
      skipped: z.number(),
      companies: z.number(),
    })
    .partial(),
})
export type Import = z.infer<typeof importSchema>

export const listImports = endpoint({
  method: 'get',
  path: '/api/imports',
  summary: 'Imports, newest first',
  response: z.object({ imports: z.array(importSchema) }),
})
export const uploadImport = endpoint({
  method: 'post',
  path: '/api/imports',
  summary: 'Upload a CSV file as the body of the request',
  query: z.object({ name: text(200).default('prospects.csv') }),
  response: importSchema,
})
export const getImport = endpoint({
  method: 'get',
  path: '/api/imports/{id}',
  summary: 'The status of an import',
  params: withId,
  response: importSchema,
})
export const checkImport = endpoint({
  method: 'put',
  path: '/api/imports/{id}',
  summary: 'Map the columns and validate every row; nothing is written yet',
  params: withId,
  body: z.object({
    version: z.number().int(),
    mapping: mappingSchema,
    knownAction: z.enum(valuesOf(EXISTING_ACTIONS)).default('skip'),
    ownerId: id.nullable().optional(),
    ownerIds: z.array(id).max(100).optional().describe('Several owners in turn; companies stay together'),
    dateOrder: z.enum(valuesOf(DATE_ORDERS)).optional().describe('Which comes first in 1/5/2026'),
    whole: whole.optional(),
    ownContacts: z
      .boolean()
      .default(false)
      .describe('The importer’s own contacts: they do not count as new, and the importer is their relationship owner'),
  }),
  response: importSchema,
})
export const runImport = endpoint({
  method: 'post',
  path: '/api/imports/{id}/run',
  summary: 'Import the rows: all of them or none',
  params: withId,
  body: z.object({ version: z.number().int(), knownAction: z.enum(valuesOf(EXISTING_ACTIONS)) }),
  response: importSchema,
})
export const invalidRows = endpoint({
  method: 'get',
  path: '/api/imports/{id}/invalid.csv',
  summary: 'Rows that cannot be imported, or not fully, as CSV, with the line of the file and the reasons',
  params: withId,
  response: z.any(),
})

const keptMapping = z.object({
  id,
  name: z.string(),
  headings: z.array(z.string()),
  mapping: z.record(z.string(), target),
})
export const listMappings = endpoint({
  method: 'get',
  path: '/api/imports/mappings',
  summary: 'Saved column mappings',
  response: z.object({ mappings: z.array(keptMapping) }),
})
export const saveMapping = endpoint({
  method: 'post',
  path: '/api/imports/mappings',
  summary: 'Save a column mapping; one with the same name is replaced',
  body: z.object({
    name: required(100),
    headings: z.array(z.string().max(1000)).min(1).max(500),
    mapping: mappingSchema,
  }),
  response: z.object({ id }),
})
export const removeMapping = endpoint({
  method: 'delete',
  path: '/api/imports/mappings/{id}',
  summary: 'Delete a saved column mapping',
  params: withId,
})
