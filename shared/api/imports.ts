import { z } from 'zod'
import { IMPORT_FIELDS, type ImportField } from '#core/text/columns'
import { endpoint, id, instant, text, withId } from './endpoint'

const fields = Object.keys(IMPORT_FIELDS) as [ImportField, ...ImportField[]]
const mappingSchema = z.record(z.string().regex(/^\d{1,3}$/), z.enum(fields)).refine(mapping => new Set(Object.values(mapping)).size === Object.values(mapping).length, 'Two columns go to the same field')
  .refine(mapping => ['firstName', 'lastName', 'fullName'].some(name => (Object.values(mapping) as string[]).includes(name)), 'One column must hold a name')

export const importSchema = z.object({
  id, fileName: z.string(), state: z.enum(['uploading', 'uploaded', 'checking', 'checked', 'writing', 'done', 'failed']), headings: z.array(z.string()), samples: z.array(z.array(z.string())),
  mapping: z.record(z.string(), z.enum(fields)), knownAction: z.enum(['skip', 'fill', 'overwrite']), ownerId: id.nullable(), progress: z.number(), problem: z.string().nullable(), createdAt: instant, version: z.number(), dialect: z.string().nullable(),
  counts: z.object({ rows: z.number(), fresh: z.number(), known: z.number(), merged: z.number(), wrong: z.number(), reasons: z.array(z.object({ reason: z.string(), count: z.number() })), added: z.number(), updated: z.number(), skipped: z.number(), companies: z.number() }).partial(),
})
export type Import = z.infer<typeof importSchema>

export const listImports = endpoint({ method: 'get', path: '/api/imports', summary: 'Files brought in, newest first', response: z.object({ imports: z.array(importSchema) }) })
export const uploadImport = endpoint({ method: 'post', path: '/api/imports', summary: 'Hand over a CSV file as the body of the request', query: z.object({ name: text(200).default('prospects.csv') }), response: importSchema })
export const getImport = endpoint({ method: 'get', path: '/api/imports/{id}', summary: 'How an import stands', params: withId, response: importSchema })
export const checkImport = endpoint({
  method: 'put', path: '/api/imports/{id}', summary: 'Say where the columns go, and have every row judged; nothing is written yet', params: withId,
  body: z.object({ version: z.number().int(), mapping: mappingSchema, knownAction: z.enum(['skip', 'fill', 'overwrite']).default('skip'), ownerId: id.nullable().optional() }), response: importSchema,
})
export const runImport = endpoint({ method: 'post', path: '/api/imports/{id}/run', summary: 'Bring the rows in: all of them or none', params: withId, body: z.object({ version: z.number().int(), knownAction: z.enum(['skip', 'fill', 'overwrite']) }), response: importSchema })
export const wrongRows = endpoint({ method: 'get', path: '/api/imports/{id}/wrong.csv', summary: 'The rows that cannot be taken, as CSV, with a reason column', params: withId, response: z.any() })
