import { z } from 'zod'
import { DEAL_STATUSES, valuesOf } from '#core/enumerations'
import { endpoint, id, instant, required, text, withId } from './endpoint'
import { filterInput } from './lists'

const value = z.number().min(0, 'Enter 0 or more').max(1e11).nullable()
const likelihood = z.number().int().min(0).max(100)
const day = z.iso.date()
const ref = z.object({ id: z.string(), name: z.string() })

export const dealRowSchema = z.object({
  id,
  name: z.string(),
  status: z.enum(valuesOf(DEAL_STATUSES)),
  likelihood,
  value,
  expectedClose: z.string().nullable(),
  openedAt: instant,
  closedAt: instant.nullable(),
  reason: z.string().nullable(),
  person: ref,
  company: ref.nullable(),
  owner: ref.nullable(),
  stage: ref.nullable(),
})
export type DealRow = z.infer<typeof dealRowSchema>

export const listDealStages = endpoint({
  method: 'get',
  path: '/api/deal-stages',
  summary: 'The stages of deals, in order',
  response: z.object({ stages: z.array(z.object({ id: z.string(), name: z.string(), likelihood })) }),
})
export const saveDealStages = endpoint({
  method: 'put',
  path: '/api/deal-stages',
  summary: 'Set the stages of deals, in order; a stage that is left out is archived',
  access: 'manager',
  body: z.object({
    stages: z
      .array(
        z.object({ id: z.string().max(60).nullable().describe('null for a new one'), name: required(60), likelihood }),
      )
      .min(1)
      .max(30)
      .refine(
        (stages) => new Set(stages.map((stage) => stage.name.toLowerCase())).size === stages.length,
        'Two stages have the same name',
      ),
  }),
  response: z.object({ stages: z.array(z.object({ id: z.string(), name: z.string(), likelihood })) }),
})
export const findDeals = endpoint({
  method: 'post',
  path: '/api/deals/find',
  readsOnly: true,
  summary: 'Deals by status, owner and a filter of their prospects, with their total',
  body: z.object({
    status: z.enum(['open', 'won', 'lost', 'all']).default('open'),
    owner: id.optional(),
    filter: filterInput.optional(),
    sort: z.enum(['expectedClose', 'value', 'likelihood', 'openedAt', 'closedAt']).default('expectedClose'),
    down: z.boolean().default(false),
    limit: z.number().int().min(1).max(500).default(100),
    after: z.number().int().min(0).default(0),
  }),
  response: z.object({
    deals: z.array(dealRowSchema),
    count: z.number(),
    value: z.number(),
    /** Each value times its likelihood. */ weighted: z.number(),
  }),
})
export const openDeal = endpoint({
  method: 'post',
  path: '/api/prospects/{id}/deals',
  summary: 'Open a deal with a prospect; a second one at a company only if confirmed',
  params: withId,
  body: z.object({
    id,
    name: text(300).default(''),
    value: value.default(null),
    stageId: z.string().max(60).nullable().default(null),
    likelihood: likelihood.nullable().default(null),
    expectedClose: day.nullable().default(null),
    another: z.boolean().default(false),
  }),
  response: z.object({ summary: z.string() }),
})
export const editDeal = endpoint({
  method: 'patch',
  path: '/api/deals/{id}',
  summary: 'Change a deal: name, value, stage, likelihood, expected close, custom fields',
  params: withId,
  body: z.object({
    name: required(300).optional(),
    value: value.optional(),
    stageId: z.string().max(60).nullable().optional(),
    likelihood: likelihood.optional(),
    expectedClose: day.nullable().optional(),
    custom: z.record(z.string(), z.unknown()).optional(),
  }),
})
export const closeDeal = endpoint({
  method: 'post',
  path: '/api/deals/{id}/close',
  summary: 'Close a deal as won or lost; lost requires a reason',
  params: withId,
  body: z.object({
    id,
    result: z.enum(['won', 'lost']),
    reason: text(500).nullable().default(null),
    value: value.optional(),
  }),
  response: z.object({ summary: z.string() }),
})
