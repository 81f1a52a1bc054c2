import { z } from 'zod'
import { endpoint, required } from './endpoint'
import { stageSchema } from './prospects'

const gate = z.object({
  attempts: z.number().int().min(1).max(99).optional().describe('Unanswered attempts made before'), reason: z.boolean().optional(), note: z.boolean().optional(),
  fields: z.array(z.string().max(80)).max(40).readonly().optional().describe('Keys of fields that must be filled in'),
})
export const stages = endpoint({
  method: 'get', path: '/api/stages', summary: 'The stages, in order, with what a move into each demands',
  response: z.object({ stages: z.array(stageSchema.extend({ gate })), fields: z.array(z.object({ key: z.string(), says: z.string() })).describe('What a gate can demand to be filled in') }),
})
export const editStage = endpoint({
  method: 'patch', path: '/api/stages/{stage}', summary: 'Rename a stage, or change what a move into it demands', audience: 'manager',
  params: z.object({ stage: z.string().max(60) }), body: z.object({ name: required(60).optional(), gate: gate.optional() }),
})
