import { z } from 'zod'
import { actionSchema } from '#core/actions/registry'
import { COUNTS_AS, OUTCOME_USES, REQUIRED_INPUTS, valuesOf } from '#core/enumerations'
import { endpoint, id, required, withId } from '../endpoint'

/** Names by id. */
const names = z.record(z.string(), z.string())
const outcomeBody = {
  name: required(100),
  countsAs: z.enum(valuesOf(COUNTS_AS)),
  usedFor: z
    .array(z.enum(valuesOf(OUTCOME_USES)))
    .min(1, 'Choose at least one')
    .default(['call'])
    .describe('What work it can be logged on'),
  leavesMessage: z.boolean().default(false).describe('Whether a message was left: a voicemail'),
  requiredInputs: z.array(z.enum(valuesOf(REQUIRED_INPUTS))),
  requiredFields: z
    .array(z.string().max(60))
    .max(20)
    .default([])
    .describe('What must be known of the prospect first: fields as gates name them'),
  reasons: z.array(required(100)).max(30),
  actions: z.array(actionSchema).max(20),
}
export const listOutcomes = endpoint({
  method: 'get',
  path: '/api/outcomes',
  summary: 'The outcomes and their actions, and what actions may refer to',
  response: z.object({
    outcomes: z.array(
      z.object({
        id,
        position: z.number(),
        ...outcomeBody,
        faults: z.array(z.string()).describe('What its actions refer to that is archived or deleted'),
      }),
    ),
    names: z.object({
      stages: names,
      cadences: names,
      steps: names,
      tags: names,
      lists: names,
      users: names,
      fields: names,
    }),
  }),
})
export const addOutcome = endpoint({
  method: 'post',
  path: '/api/outcomes',
  summary: 'Add an outcome',
  access: 'manager',
  body: z.object(outcomeBody),
  response: z.object({ id }),
})
export const editOutcome = endpoint({
  method: 'put',
  path: '/api/outcomes/{id}',
  summary: 'Change an outcome',
  access: 'manager',
  params: withId,
  body: z.object({ ...outcomeBody, position: z.number().int().min(0).max(99), archived: z.boolean().default(false) }),
})
export const orderOutcomes = endpoint({
  method: 'put',
  path: '/api/outcomes/order',
  summary: 'Put the outcomes in an order, by which they have their keys',
  access: 'manager',
  body: z.object({ ids: z.array(id).min(1).max(200) }),
})
