import { z } from 'zod'
import { endpoint, id, instant, withId } from './endpoint'
import { companyStatus as status } from './prospects'

const likeSchema = z.object({
  id,
  name: z.string(),
  title: z.string().nullable(),
  company: z.string().nullable(),
  stage: z.string(),
  owner: z.string().nullable(),
  phones: z.array(z.string()),
  emails: z.array(z.string()),
  touches: z.number(),
  createdAt: instant,
})
export const findDuplicates = endpoint({
  method: 'get',
  path: '/api/duplicates',
  summary: 'Possible duplicates, the likeliest first, with the reasons',
  query: z.object({
    about: id.optional().describe('Only pairs with this person'),
    limit: z.coerce.number().int().min(1).max(500).default(100),
  }),
  response: z.object({
    pairs: z.array(
      z.object({ one: likeSchema, other: likeSchema, sureness: z.number(), reasons: z.array(z.string()) }),
    ),
  }),
})
export const tellApart = endpoint({
  method: 'post',
  path: '/api/duplicates/apart',
  summary: 'Mark two prospects as not duplicates',
  body: z.object({ ids: z.tuple([id, id]) }),
})
export const mergeProspects = endpoint({
  method: 'post',
  path: '/api/prospects/{id}/merge',
  summary: 'Merge two prospects: everything of the duplicate moves to the primary',
  params: withId,
  body: z.object({ id, duplicateId: id }),
  response: z.object({ summary: z.string() }),
})
export const mergePairs = endpoint({
  method: 'post',
  path: '/api/duplicates/merge',
  summary: 'Merge several pairs of prospects; a pair that cannot be merged is named with the reason',
  body: z.object({
    pairs: z
      .array(z.object({ id: id.describe('Of the merge'), primaryId: id, duplicateId: id }))
      .min(1)
      .max(200),
  }),
  response: z.object({ merged: z.number(), failed: z.array(z.object({ id, message: z.string() })) }),
})
export const listMerges = endpoint({
  method: 'get',
  path: '/api/merges',
  summary: 'The latest merges that have not been undone',
  response: z.object({
    merges: z.array(
      z.object({
        id,
        primaryId: id,
        primary: z.string(),
        duplicate: z.string(),
        by: z.string().nullable(),
        at: instant,
      }),
    ),
  }),
})
export const undoMerge = endpoint({
  method: 'post',
  path: '/api/merges/{id}/undo',
  summary: 'Undo a merge',
  params: withId,
  response: z.object({ primaryId: id, duplicateId: id, unchanged: z.array(z.string()) }),
})

const companyLike = z.object({
  id,
  name: z.string(),
  domain: z.string().nullable(),
  people: z.number(),
  status,
  city: z.string().nullable(),
})
export const findDuplicateCompanies = endpoint({
  method: 'get',
  path: '/api/duplicates/companies',
  summary: 'Pairs of companies with one name, of which at most one has a domain',
  response: z.object({ pairs: z.array(z.object({ one: companyLike, other: companyLike })) }),
})
export const mergeCompanies = endpoint({
  method: 'post',
  path: '/api/companies/{id}/merge',
  summary: 'Merge two companies: everyone and everything at the duplicate moves to the primary',
  access: 'manager',
  params: withId,
  body: z.object({ id, duplicateId: id }),
  response: z.object({ summary: z.string() }),
})
export const listCompanyMerges = endpoint({
  method: 'get',
  path: '/api/company-merges',
  summary: 'The latest company merges that have not been undone',
  access: 'manager',
  response: z.object({
    merges: z.array(
      z.object({
        id,
        primaryId: id,
        primary: z.string(),
        duplicate: z.string(),
        by: z.string().nullable(),
        at: instant,
      }),
    ),
  }),
})
export const undoCompanyMerge = endpoint({
  method: 'post',
  path: '/api/company-merges/{id}/undo',
  summary: 'Undo a merge of companies',
  access: 'manager',
  params: withId,
  response: z.object({ primaryId: id, duplicateId: id, unchanged: z.array(z.string()) }),
})
