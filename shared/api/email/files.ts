import { z } from 'zod'
import { endpoint, id, required, withId } from '../endpoint'

export const fileSchema = z.object({ id, name: z.string(), mediaType: z.string(), bytes: z.number() })
export type StoredFile = z.infer<typeof fileSchema>

export const uploadFile = endpoint({
  method: 'post',
  path: '/api/files',
  summary: 'Add a file for emails; its bytes are the body of the request, at most 10 MB',
  query: z.object({ name: required(200) }),
  response: fileSchema,
})
export const findFiles = endpoint({
  method: 'post',
  path: '/api/files/find',
  readsOnly: true,
  summary: 'Names and sizes of files, by their ids',
  body: z.object({ ids: z.array(id).max(50) }),
  response: z.object({ files: z.array(fileSchema) }),
})
export const getFile = endpoint({
  method: 'get',
  path: '/api/files/{id}',
  summary: 'A file’s content',
  params: withId,
  response: z.unknown().describe('Its bytes, as its media type'),
})
