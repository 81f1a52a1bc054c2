import { z } from 'zod'
import { actionSchema } from '#core/actions/registry'
import { formFieldsSchema } from '#core/forms/fields'
import { endpoint, id, instant, required, text, withId } from '../endpoint'

const formBody = {
  name: required(100).describe('What the team calls it'),
  heading: required(200),
  intro: text(2_000).default(''),
  button: required(40).default('Send'),
  thanks: required(1_000).describe('What is shown once it was sent'),
  nextUrl: z
    .url({ protocol: /^https$/, message: 'Enter an address that starts with https://' })
    .max(2_000)
    .nullable()
    .default(null)
    .describe('Where the browser goes on to'),
  fields: formFieldsSchema,
  consent: text(500).default('').describe('What stands beside the box by which marketing emails are agreed to'),
  source: text(100).nullable().default(null).describe('The source of prospects it brings'),
  actions: z.array(actionSchema).max(20).describe('What is done with who sends it, in order'),
}
const formSchema = z.object({
  id,
  ...formBody,
  version: z.number(),
  url: z.string().describe('Its public address'),
  sent: z.number(),
  added: z.number().describe('How many who sent it were not known before'),
  lastAt: instant.nullable(),
  faults: z.array(z.string()).describe('What its actions refer to that is archived or deleted'),
})
export type Form = z.infer<typeof formSchema>
export const listForms = endpoint({
  method: 'get',
  path: '/api/forms',
  summary: 'The forms on the web, with how often each was sent',
  access: 'manager',
  response: z.object({ forms: z.array(formSchema) }),
})
export const addForm = endpoint({
  method: 'post',
  path: '/api/forms',
  summary: 'Add a form',
  access: 'manager',
  body: z.object(formBody),
  response: z.object({ id }),
})
export const editForm = endpoint({
  method: 'put',
  path: '/api/forms/{id}',
  summary: 'Change a form, or archive it: its address then says that it is closed',
  access: 'manager',
  params: withId,
  body: z.object({ ...formBody, version: z.number(), archived: z.boolean().default(false) }),
  response: z.object({ version: z.number() }),
})
const submissionSchema = z.object({
  id,
  at: instant,
  isNew: z.boolean().describe('Whether they were not known before'),
  person: z.object({ id, name: z.string() }),
  answers: z.array(z.object({ label: z.string(), value: z.string() })),
})
export type Submission = z.infer<typeof submissionSchema>
export const formSubmissions = endpoint({
  method: 'get',
  path: '/api/forms/{id}/submissions',
  summary: 'What was sent with a form, latest first',
  access: 'manager',
  params: withId,
  query: z.object({ limit: z.coerce.number().int().min(1).max(500).default(50) }),
  response: z.object({ submissions: z.array(submissionSchema) }),
})
