import { z } from 'zod'
import { CADENCE_FILE_VERSION } from '#core/cadence/file'
import { cadenceContent } from './cadences'
import { endpoint, id, withId } from '../endpoint'

/** What a cadence refers to outside itself, by name, so that another team can find its own. */
const reference = z.object({
  id: z.string().max(60),
  kind: z.string().max(60).describe('The field of filters whose choice it is ("tags"), "field" for a custom field'),
  name: z.string().max(300),
})
/** A cadence as a file. */
export const cadenceFileSchema = z.object({
  format: z.literal('uphill-cadence'),
  version: z.literal(CADENCE_FILE_VERSION),
  references: z.array(reference).max(1_000).default([]),
  cadence: z.object(cadenceContent),
})
export type CadenceFile = z.infer<typeof cadenceFileSchema>

/**
 * The JSON Schema (2020-12) that cadence files follow: that of the request, with nothing allowed beside what it names.
 */
export function cadenceFileJsonSchema(): Record<string, unknown> {
  return z.toJSONSchema(cadenceFileSchema, {
    target: 'draft-2020-12',
    io: 'input',
    unrepresentable: 'any',
    override: ({ jsonSchema }) => {
      if (jsonSchema.type === 'object' && jsonSchema.properties) jsonSchema.additionalProperties = false
    },
  }) as Record<string, unknown>
}

export const exportCadence = endpoint({
  method: 'get',
  path: '/api/cadences/{id}/file',
  summary: 'A cadence as a file, to be taken into another team',
  params: withId,
  response: cadenceFileSchema,
})
export const importCadence = endpoint({
  method: 'post',
  path: '/api/cadences/file',
  summary: 'Add a cadence from a file, as a draft; what it refers to must be here by name',
  body: z.object({ file: z.unknown() }),
  response: z.object({ id }),
})
export const cadenceFileFormat = endpoint({
  method: 'get',
  path: '/api/cadences/file',
  summary: 'The JSON Schema that cadence files follow',
  response: z.record(z.string(), z.unknown()),
})
