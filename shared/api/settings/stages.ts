import { z } from 'zod'
import { STAGE_KINDS, valuesOf } from '#core/enumerations'
import { endpoint, id, required } from '../endpoint'
import { stageSchema } from '../prospects'

const gate = z.object({
  from: z
    .array(z.string().max(60))
    .max(100)
    .readonly()
    .optional()
    .describe('Stages it can be reached from; any where it is empty'),
  attempts: z.number().int().min(1).max(99).optional().describe('Unanswered attempts made before'),
  reason: z.boolean().optional(),
  note: z.boolean().optional(),
  fields: z.array(z.string().max(80)).max(40).readonly().optional().describe('Keys of fields that must be filled in'),
})
const kind = z.enum(valuesOf(STAGE_KINDS))

export const stages = endpoint({
  method: 'get',
  path: '/api/stages',
  summary: 'The stages, in order, with their gates',
  response: z.object({
    stages: z.array(
      stageSchema.extend({
        gate,
        archived: z.boolean(),
        fault: z.string().nullable().describe('Why nobody can get there'),
        people: z.number().describe('Who stands there, counted to 100,000'),
      }),
    ),
    fields: z
      .array(z.object({ key: z.string(), label: z.string() }))
      .describe('What a gate can demand to be filled in'),
  }),
})
export const editStage = endpoint({
  method: 'patch',
  path: '/api/stages/{stage}',
  summary: 'Edit a stage: name, kind and gate; or restore it',
  access: 'manager',
  params: z.object({ stage: z.string().max(60) }),
  body: z.object({
    name: required(60).optional(),
    kind: kind.optional(),
    gate: gate.optional(),
    archived: z.literal(false).optional(),
  }),
})
export const addStage = endpoint({
  method: 'post',
  path: '/api/stages',
  summary: 'Add a stage, after another one or at the end',
  access: 'manager',
  body: z.object({
    name: required(60),
    kind,
    gate: gate.optional(),
    after: z.string().max(60).nullable().optional().describe('The stage it follows; null for the first place'),
  }),
  response: z.object({ id: z.string() }),
})
export const orderStages = endpoint({
  method: 'put',
  path: '/api/stages/order',
  summary: 'Set the order of the stages',
  access: 'manager',
  body: z.object({ ids: z.array(z.string().max(60)).min(1).max(200) }),
})
export const archiveStage = endpoint({
  method: 'post',
  path: '/api/stages/{stage}/archive',
  summary: 'Archive a stage; its prospects move to another one, or stay',
  access: 'manager',
  params: z.object({ stage: z.string().max(60) }),
  body: z.object({ moveTo: z.string().max(60).nullable().default(null) }),
  response: z.object({ bulkId: id.nullable(), moved: z.number() }),
})
