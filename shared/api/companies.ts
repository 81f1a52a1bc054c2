import { z } from 'zod'
import { endpoint, id, instant, required, text, withId } from './endpoint'
import { companyStatus, knotKind, prospectRowSchema } from './prospects'

/** A town of the gazetteer. */
export const placeSchema = z.object({
  id: z.number().int(),
  name: z.string(),
  region: z.string().nullable(),
  country: z.string().describe('ISO 3166-1 alpha-2'),
  longitude: z.number().describe('In degrees of WGS 84'),
  latitude: z.number().describe('In degrees of WGS 84'),
})
export const getCompany = endpoint({
  method: 'get',
  path: '/api/companies/{id}',
  summary: 'A company and its prospects',
  params: withId,
  response: z.object({
    id,
    name: z.string(),
    domain: z.string().nullable(),
    status: companyStatus,
    country: z.string().nullable(),
    region: z.string().nullable(),
    city: z.string().nullable(),
    industry: z.string().nullable(),
    size: z.number().nullable(),
    custom: z.record(z.string(), z.unknown()),
    version: z.number(),
    people: z.array(prospectRowSchema),
    hidden: z.number(),
    place: placeSchema.nullable().describe('Where its address is; null where that is not known'),
  }),
})
export const companyResearch = endpoint({
  method: 'get',
  path: '/api/companies/{id}/research',
  summary: 'Notes and links of a company',
  params: withId,
  response: z.object({
    notes: z.array(z.object({ id, at: instant, by: z.string().nullable(), body: z.string() })),
    links: z.array(z.object({ id, url: z.string(), label: z.string() })),
  }),
})
export const addCompanyNote = endpoint({
  method: 'post',
  path: '/api/companies/{id}/notes',
  summary: 'Add a note to a company',
  params: withId,
  body: z.object({ id, body: required(10_000) }),
})
export const addCompanyLink = endpoint({
  method: 'post',
  path: '/api/companies/{id}/links',
  summary: 'Add a link to a company',
  params: withId,
  body: z.object({
    url: z.url({ protocol: /^https?$/, error: 'An address that begins with http:// or https://' }).max(2000),
    label: text(200).default(''),
  }),
  response: z.object({ id }),
})
export const removeCompanyLink = endpoint({
  method: 'delete',
  path: '/api/companies/{id}/links/{link}',
  summary: 'Remove a link',
  params: z.object({ id, link: id }),
})
export const companyTouches = endpoint({
  method: 'get',
  path: '/api/companies/{id}/touches',
  summary: 'Every touch with a company’s prospects, newest first',
  params: withId,
  response: z.object({
    now: instant,
    touches: z.array(
      z.object({
        id,
        at: instant,
        kind: knotKind,
        prospectId: id,
        name: z.string(),
        by: z.string().nullable(),
        outcome: z.string().nullable(),
        subject: z.string().nullable(),
      }),
    ),
  }),
})
export const editCompany = endpoint({
  method: 'patch',
  path: '/api/companies/{id}',
  summary: 'Edit a company',
  params: withId,
  body: z.object({
    version: z.number().int(),
    name: required(300).optional(),
    industry: text(300).nullable().optional(),
    size: z.number().int().min(0).max(10_000_000).nullable().optional(),
    country: z
      .string()
      .regex(/^[A-Z]{2}$/, 'Two capital letters, like US')
      .nullable()
      .optional(),
    region: text(60).nullable().optional(),
    city: text(300).nullable().optional(),
    custom: z.record(z.string(), z.unknown()).optional(),
  }),
  response: z.object({ version: z.number() }),
})
export const setCompanyStatus = endpoint({
  method: 'post',
  path: '/api/companies/{id}/status',
  summary: 'Set the status of a company; a stop holds for everyone there',
  params: withId,
  body: z.object({ id, to: companyStatus }),
  response: z.object({ summary: z.string() }),
})
