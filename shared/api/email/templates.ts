import { z } from 'zod'
import { TEMPLATE_KINDS, valuesOf } from '#core/enumerations'
import { emailFormatting, filledEmail } from '../emailText'
import { endpoint, id, required, text, withId } from '../endpoint'

const kind = z.enum(valuesOf(TEMPLATE_KINDS))
const name = z.string().max(60)
const content = {
  name: required(200),
  category: text(60).default(''),
  shared: z.boolean().default(true).describe('Whether others see and use it; a rep’s own is not, until they share it'),
  subject: text(300).default('').describe('Of an email; empty: it goes on in the thread of the email before it'),
  body: text(20_000).default('').describe('Plain text; made of the html where that is given'),
  ...emailFormatting,
  sources: z.array(name).max(50).default([]).describe('Offered first to prospects from these sources'),
  stages: z.array(name).max(50).default([]).describe('Offered first to prospects in these stages'),
}
const usage = z.object({ cadenceId: id, cadence: z.string(), step: z.string() })
const templateSchema = z.object({
  id,
  kind,
  version: z.number(),
  archived: z.boolean(),
  owner: z.string().nullable().describe('Whose it is, where it is not shared'),
  mayEdit: z.boolean(),
  ...content,
  usedBy: z.array(usage).describe('Steps that use it'),
})
export type EmailTemplate = z.output<typeof templateSchema>

export const listEmailTemplates = endpoint({
  method: 'get',
  path: '/api/email-templates',
  summary: 'Email templates and snippets: the viewer’s own and those that are shared',
  query: z.object({
    kind,
    archived: z.enum(['yes', 'no']).default('no'),
    prospectId: id.optional().describe('Puts first what fits this prospect’s source or stage'),
  }),
  response: z.object({
    templates: z.array(
      templateSchema.extend({ fits: z.boolean().describe('Whether it is for the prospect’s source or stage') }),
    ),
  }),
})
export const getEmailTemplate = endpoint({
  method: 'get',
  path: '/api/email-templates/{id}',
  summary: 'One email template or snippet',
  params: withId,
  response: templateSchema,
})
export const addEmailTemplate = endpoint({
  method: 'post',
  path: '/api/email-templates',
  summary: 'Add an email template or a snippet; a rep’s is their own until they share it',
  body: z.object({ kind, ...content }),
  response: z.object({ id }),
})
export const editEmailTemplate = endpoint({
  method: 'put',
  path: '/api/email-templates/{id}',
  summary: 'Replace an email template or a snippet; steps that use it say the new text from then on',
  params: withId,
  body: z.object({ version: z.number().int(), ...content }),
  response: z.object({ version: z.number() }),
})
export const archiveEmailTemplate = endpoint({
  method: 'post',
  path: '/api/email-templates/{id}/archive',
  summary: 'Archive an email template or a snippet, or bring it back; steps that use it keep it',
  params: withId,
  body: z.object({ archived: z.boolean() }),
  response: z.object({ version: z.number() }),
})
export const previewEmail = endpoint({
  method: 'post',
  path: '/api/email-templates/preview',
  readsOnly: true,
  summary: 'An email as a prospect would get it, what it lacks for them, and what may keep it from being read',
  body: z.object({ prospectId: id.nullable(), subject: text(300), body: text(20_000), ...emailFormatting }),
  response: z.object({
    ...filledEmail,
    missing: z.array(z.string()),
    faults: z.array(z.object({ field: z.string(), line: z.number(), message: z.string() })),
    hints: z.array(z.object({ field: z.enum(['subject', 'body', 'attachments']), message: z.string() })),
  }),
})
