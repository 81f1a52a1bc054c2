import { z } from 'zod'
import { actionSchema } from '#core/actions/registry'
import { entrySchema } from '#core/cadence/entry'
import { exitsSchema } from '#core/cadence/exits'
import { endsAtTime } from '#core/cadence/wait'
import { wayConditionSchema } from '#core/cadence/ways'
import { CADENCE_STATUSES, EMAIL_TYPES, STEP_KINDS, WAIT_UNITS, valuesOf } from '#core/enumerations'
import { emailFormatting, filledEmail } from '../emailText'
import { endpoint, id, instant, required, text, withId } from '../endpoint'

const plainWait = z.object({
  amount: z.number().int('Whole numbers only').min(0, 'A wait cannot be negative').max(730, 'At most two years'),
  unit: z.enum(valuesOf(WAIT_UNITS)),
  at: z
    .number()
    .int()
    .min(0)
    .max(1439)
    .nullable()
    .default(null)
    .describe('The time of day it ends at where they are, in minutes since midnight; for waits in days and weeks'),
})
const waitSchema = plainWait.refine(
  ({ unit, at }) => at === null || endsAtTime(unit),
  'A time of day goes with days and weeks only',
)
const waySchema = z.object({
  id,
  name: required(60),
  when: wayConditionSchema.nullable(),
  ends: z.boolean().default(false).describe('Whether the cadence ends behind this way'),
})
const weight = z.number().int('Whole numbers only').min(0).max(100)
const versionSchema = z.object({
  id,
  weight: weight.describe('Its share among the weights of all versions'),
  subject: text(300).default(''),
  body: text(20_000).default(''),
  html: emailFormatting.html,
})
export const stepSchema = z.object({
  id,
  kind: z.enum(valuesOf(STEP_KINDS)),
  wait: waitSchema,
  name: required(200),
  subject: text(300).default(''),
  body: text(20_000).default('').describe('An email’s text, a script, what to text, to post or to do'),
  ...emailFormatting,
  weight: weight.default(1).describe('Of an email with versions: the share of the step’s own text'),
  versions: z
    .array(versionSchema)
    .max(8)
    .default([])
    .describe('Other texts of an email, which some prospects get in place of its own'),
  templateId: id.nullable().default(null).describe('Of an email: the template whose text it says'),
  link: text(2_000).default('').describe('Of a social touch: the address of the page; may have merge fields'),
  review: z.boolean().default(false).describe('Of an email: whether its rep looks at it on the Desk and sends it'),
  requiresPrevious: z
    .boolean()
    .default(false)
    .describe('Leave the step out where the one before it was not done; without effect on the first step'),
  wayId: id.nullable().default(null).describe('The way of a branch before it that the step belongs to'),
  ways: z
    .array(waySchema)
    .max(8)
    .default([])
    .describe('Of a branch: its ways; the first that fits is taken, the last one is for everyone else'),
  endsEarly: z
    .boolean()
    .default(false)
    .describe('Of a branch: whether its wait ends as soon as something happens that one of its ways is about'),
})
export type StepDraft = z.infer<typeof stepSchema>
export type WayDraft = StepDraft['ways'][number]
const windowId = id.nullable().default(null).describe('When its email may go: a sending window; null: the default one')
/** What a cadence is, without what it is here: its id, its status, its version. */
export const cadenceContent = {
  name: required(200),
  category: text(60).default('').describe('What kind of cadence it is, in the team’s words'),
  description: text(2_000).default('').describe('What it is for'),
  shared: z
    .boolean()
    .default(true)
    .describe('Whether others see and start it; a rep’s own is not, until they share it'),
  cold: z.boolean().default(true),
  emailType: z
    .enum(valuesOf(EMAIL_TYPES))
    .nullable()
    .default(null)
    .describe('The type of its emails; null: one to one where it is cold, otherwise requested'),
  windowId,
  entry: entrySchema.prefault({}).describe('Who may enter'),
  exits: exitsSchema.prefault({}).describe('What ends it, for the prospect or everyone at the company'),
  steps: z.array(stepSchema).max(60).default([]),
  afterLast: z.array(actionSchema).max(10).default([]).describe('What is done with who is through, in order'),
}
const status = z.enum(valuesOf(CADENCE_STATUSES))
export const cadenceSchema = z.object({ id, status, version: z.number(), ...cadenceContent })
export type Cadence = z.infer<typeof cadenceSchema>

export const listCadences = endpoint({
  method: 'get',
  path: '/api/cadences',
  summary: 'Cadences with the people at each step',
  response: z.object({
    cadences: z.array(
      z.object({
        id,
        name: z.string(),
        status: z.string(),
        category: z.string(),
        description: z.string(),
        owner: z.string().nullable().describe('Whose it is, where it is not shared'),
        open: z.number(),
        exits: z.record(z.string(), z.number()),
        steps: z.array(
          z.object({
            id,
            kind: z.enum(valuesOf(STEP_KINDS)),
            name: z.string(),
            wait: waitSchema,
            wayId: id.nullable(),
            here: z.number(),
          }),
        ),
      }),
    ),
  }),
})
export const getCadence = endpoint({
  method: 'get',
  path: '/api/cadences/{id}',
  summary: 'One cadence',
  params: withId,
  response: cadenceSchema.extend({
    people: z.record(z.string(), z.number()).describe('How many are at each step, by its id'),
    earlier: z
      .array(z.object({ version: z.number(), until: instant, people: z.number() }))
      .describe('Earlier versions that people finish, the latest first'),
    mayEdit: z.boolean().describe('Whether the viewer may change it'),
  }),
})
export const setCadenceState = endpoint({
  method: 'post',
  path: '/api/cadences/{id}/status',
  summary: 'Pause, resume or archive a cadence; with people: leave, everyone in it leaves',
  params: withId,
  body: z.object({
    to: z.enum(['active', 'paused', 'archived']),
    people: z.enum(['finish', 'leave']).default('finish'),
  }),
  response: z.object({ version: z.number(), left: z.number() }),
})
export const copyCadence = endpoint({
  method: 'post',
  path: '/api/cadences/{id}/copy',
  summary: 'Copy a cadence, as a draft',
  params: withId,
  response: z.object({ id }),
})
export const addCadence = endpoint({
  method: 'post',
  path: '/api/cadences',
  summary: 'Create a cadence; a rep’s is their own until they share it',
  body: z.object(cadenceContent),
  response: z.object({ id }),
})
export const editCadence = endpoint({
  method: 'put',
  path: '/api/cadences/{id}',
  summary: 'Replace a cadence and its steps; prospects in it keep their place, or finish the version they are in',
  params: withId,
  body: z.object({
    version: z.number().int(),
    status,
    ...cadenceContent,
    underWay: z
      .enum(['move', 'finish'])
      .default('move')
      .describe('Whether people in it go on with the steps as they are now, or finish it as it was'),
  }),
  response: z.object({ version: z.number() }),
})
export const planCadence = endpoint({
  method: 'post',
  path: '/api/cadences/plan',
  readsOnly: true,
  summary: 'Dates if started now, and the emails as a prospect would get them',
  body: z.object({ prospectId: id.nullable(), windowId, steps: z.array(stepSchema).max(60) }),
  response: z.object({
    now: instant,
    timeZone: z.string(),
    who: z.string().nullable(),
    steps: z.array(
      z.object({
        stepId: id,
        at: instant,
        moved: z.string().nullable(),
        wayId: id.nullable().describe('Of a branch: the way this prospect would take now'),
        ...filledEmail,
        version: z.string().nullable().describe('Which version this prospect would get: A, B, C or D'),
        missing: z.array(z.string()),
        faults: z.array(z.object({ field: z.string(), line: z.number(), message: z.string() })),
      }),
    ),
  }),
})
