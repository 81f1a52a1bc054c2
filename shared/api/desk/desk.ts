import { z } from 'zod'
import {
  MEETING_RESULTS,
  OUTCOME_USES,
  REQUIRED_INPUTS,
  STEP_KINDS,
  TEXT_STATUSES,
  TO_DO_KINDS,
  valuesOf,
} from '#core/enumerations'
import { emailFormatting, filledEmail, toDoContent } from '../emailText'
import { endpoint, id, instant, required, text, withId, timeZone } from '../endpoint'
import { knotKind } from '../prospects'
import { prospectSchema } from '../prospects'

export const outcomeSchema = z.object({
  id,
  key: z.string().nullable().describe('The key that picks it: a digit, or "Shift+" and a digit'),
  name: z.string(),
  requiredInputs: z.array(z.enum(valuesOf(REQUIRED_INPUTS))),
  reasons: z.array(z.string()),
  leavesMessage: z.boolean().describe('Whether it says that a voicemail was left'),
  /** What it will do to this person, computed by the function that does it. */
  summary: z.string(),
  /** Why it cannot be chosen now; null when it can. */
  blocked: z.string().nullable(),
  /**
   * What the gate in front of the new stage wants to be filled in first: fields of the person or the company, as gates
   * name them.
   */
  missing: z.array(z.object({ key: z.string(), label: z.string() })),
  fingerprint: z.string(),
})
export type OutcomeChoice = z.infer<typeof outcomeSchema>

export const slopeStepSchema = z.object({
  stepId: id,
  kind: z.enum(valuesOf(STEP_KINDS)),
  name: z.string(),
  status: z.enum(['done', 'now', 'ahead', 'left']),
  at: instant.nullable(),
  /** What came of it, or what pushes its date. */
  summary: z.string().nullable(),
})
export type SlopeStep = z.infer<typeof slopeStepSchema>

export const briefSchema = z.object({
  prospect: prospectSchema,
  task: z.object({ id, kind: z.string(), title: z.string(), dueAt: instant, messageId: id.nullable() }).nullable(),
  why: z.string(),
  slope: z.object({ cadence: z.string(), steps: z.array(slopeStepSchema) }).nullable(),
  script: z.string().nullable(),
  /** The email, text or social touch that the task is to send, as this prospect gets it; null for other work. */
  message: z
    .object({
      ...filledEmail,
      attachments: z.array(id),
      link: z.string(),
      /** Merge fields in it that have neither a value nor a fallback. */
      missing: z.array(z.string()),
    })
    .nullable(),
  notes: z.array(
    z.object({
      id,
      at: instant,
      by: z.string().nullable(),
      body: z.string(),
      pinned: z.boolean(),
      mayEdit: z.boolean().describe('Whether the viewer may change or delete it'),
    }),
  ),
  form: z
    .object({ name: z.string(), at: instant, answers: z.array(z.object({ label: z.string(), value: z.string() })) })
    .nullable()
    .describe('The last web form they sent in the last 30 days: its answers, but for name, contact and company'),
  touches: z.array(z.object({ at: instant, kind: knotKind, summary: z.string() })),
  mail: z.array(
    z.object({
      id,
      direction: z.enum(['in', 'out']),
      at: instant,
      subject: z.string(),
      body: z.string(),
      opened: z.boolean(),
    }),
  ),
  texts: z
    .array(
      z.object({
        id,
        direction: z.enum(['in', 'out']),
        at: instant,
        body: z.string(),
        status: z.enum(valuesOf(TEXT_STATUSES)),
        error: z.string().nullable(),
        phoneId: id.nullable(),
      }),
    )
    .describe('Text messages, the newest first'),
  textGateway: z.boolean().describe('Whether texts leave from here; otherwise from the rep’s own phone'),
  /** Mail that is held or may have gone out, for this task. */
  held: z
    .object({
      id,
      subject: z.string(),
      lastError: z.string(),
      status: z.string(),
      /** What it lacks, and where that is filled in: a field of the person, or null for one of the company. */
      missing: z.array(z.object({ name: z.string(), label: z.string(), field: z.string().nullable() })),
    })
    .nullable(),
  work: z
    .enum(valuesOf(OUTCOME_USES))
    .describe('What the outcomes are for: a call, the reply in hand, or the to-do in hand'),
  outcomes: z.array(outcomeSchema),
  /** The meeting whose result is asked for, and what each result would do; null for none. */
  meeting: z
    .object({
      id,
      title: z.string(),
      startAt: instant,
      endAt: instant,
      timeZone: z.string(),
      results: z.array(z.object({ result: z.enum(valuesOf(MEETING_RESULTS)), label: z.string(), summary: z.string() })),
    })
    .nullable(),
  /** The viewer's call to the person that has no outcome yet. */
  call: z.object({ id, startedAt: instant }).nullable(),
  now: instant,
})
export type Brief = z.infer<typeof briefSchema>

/** A call that was not made from here: on another phone, or by them to us. */
const madeAs = z.enum(['elsewhere', 'incoming'])

export const brief = endpoint({
  method: 'get',
  path: '/api/prospects/{id}/brief',
  callers: true,
  summary: 'Everything needed to work one prospect: why, the cadence, what to say, what each outcome will do',
  params: withId,
  query: z.object({
    task: id.optional(),
    block: id.optional().describe('The call block that is worked: its script is what to say'),
    call: madeAs.optional().describe('What outcomes would do after a call that was not made from here'),
  }),
  response: briefSchema,
})

export const detailsSchema = z.object({
  callBackAt: instant.optional(),
  reason: text(500).optional(),
  note: text(10_000).optional(),
  quality: text(30).optional().describe('How it went, in one of the team’s words'),
  succeeded: z.boolean().optional(),
  meeting: z
    .object({
      title: required(200),
      startAt: instant,
      minutes: z.number().int().min(5).max(600),
      timeZone,
      place: text(300).optional().describe('A link, an address, or who calls which number'),
      email: text(254).optional().describe('An address they have just given, for the invitation'),
    })
    .optional(),
  referral: z
    .object({
      firstName: text(300),
      lastName: text(300),
      title: text(300).optional(),
      email: text(254).optional(),
      phone: text(60).optional(),
    })
    .optional(),
})
export type OutcomeDetails = z.infer<typeof detailsSchema>

export const logOutcome = endpoint({
  method: 'post',
  path: '/api/prospects/{id}/outcomes',
  callers: true,
  summary: 'Log the outcome of a call, or of a reply or to-do, with all its actions',
  params: withId,
  body: z.object({
    id,
    outcomeId: id,
    on: z.enum(['call', 'task']).default('call').describe('Whether it came of a call, or of the task as such'),
    taskId: id.nullable().default(null),
    phoneId: id.nullable().default(null),
    details: detailsSchema.default({}),
    fingerprint: z.string().max(100).nullable().default(null),
    call: madeAs.nullable().default(null).describe('Of a call that was not made from here'),
    listId: id.optional().describe('The list that is worked: they count as handled on it'),
    blockId: id.optional().describe('The call block that is worked: the call counts in it'),
  }),
  response: z.object({ id, summary: z.string() }),
})
export const sayWhen = endpoint({
  method: 'post',
  path: '/api/when',
  callers: true,
  readsOnly: true,
  summary: 'Read a date and time as typed ("tue 2:30"), with warnings and suggestions',
  body: z.object({
    prospectId: id.nullable().default(null),
    kind: z.enum(['call', 'meeting', 'task']),
    timeZone: timeZone.describe('The clock in which it is read'),
    text: text(100).nullable().default(null),
    at: instant.nullable().default(null).describe('A moment that was picked, instead of a text'),
  }),
  response: z.object({
    at: instant.nullable(),
    error: z.string().nullable(),
    /** The moment by the caller's clock, and by the person's where that is another. */
    mine: z.string().nullable(),
    theirs: z.string().nullable(),
    warnings: z.array(z.string()),
    chips: z.array(z.object({ label: z.string(), at: instant })),
  }),
})
export const planTask = endpoint({
  method: 'post',
  path: '/api/prospects/{id}/tasks',
  summary: 'Plan a call, an email, a text or another to-do with a prospect',
  params: withId,
  body: z.object({
    id,
    task: z.enum(valuesOf(TO_DO_KINDS)),
    title: required(200),
    ...toDoContent,
    dueAt: instant,
    ownerId: id.nullable().default(null).describe('null: the person’s own owner'),
  }),
  response: z.object({ summary: z.string() }),
})
export const moveMeeting = endpoint({
  method: 'post',
  path: '/api/meetings/{id}/move',
  summary: 'Move a meeting; the other side gets an update of the invitation',
  params: withId,
  body: z.object({ id, startAt: instant, minutes: z.number().int().min(5).max(600), timeZone }),
  response: z.object({ summary: z.string() }),
})
export const cancelMeeting = endpoint({
  method: 'post',
  path: '/api/meetings/{id}/cancel',
  summary: 'Cancel a meeting; the other side gets a cancellation',
  params: withId,
  body: z.object({ id }),
  response: z.object({ summary: z.string() }),
})
export const settleMeeting = endpoint({
  method: 'post',
  path: '/api/meetings/{id}/result',
  callers: true,
  summary: 'Record the result of a meeting: held, held and qualified, or no-show',
  params: withId,
  body: z.object({ id, result: z.enum(valuesOf(MEETING_RESULTS)), note: text(10_000).optional() }),
  response: z.object({ summary: z.string() }),
})
export const finishTask = endpoint({
  method: 'post',
  path: '/api/tasks/{id}/done',
  callers: true,
  summary: 'Mark a task as done',
  params: withId,
  body: z.object({ id, note: text(10_000).optional(), listId: id.optional() }),
  response: z.object({ summary: z.string() }),
})
export const writeEmail = endpoint({
  method: 'post',
  path: '/api/prospects/{id}/emails',
  summary: 'Write an email; it is sent at once',
  params: withId,
  body: z.object({
    id,
    subject: required(300),
    body: required(50_000),
    ...emailFormatting,
    taskId: id.nullable().default(null),
    inReplyTo: id.nullable().default(null),
  }),
  response: z.object({ summary: z.string().describe('What follows, in a sentence') }),
})
export const writeText = endpoint({
  method: 'post',
  path: '/api/prospects/{id}/texts',
  summary: 'Send a text message; it leaves at once, in calling hours there',
  params: withId,
  body: z.object({
    id,
    phoneId: id,
    body: required(2_000),
    taskId: id.nullable().default(null),
    agreed: z.boolean().default(false).describe('That the person agreed to texts, where that is not known yet'),
  }),
  response: z.object({ summary: z.string().describe('What follows, in a sentence') }),
})
export const settleEmail = endpoint({
  method: 'post',
  path: '/api/messages/{id}/settle',
  summary: 'Mark a blocked email as sent, or send it now',
  params: withId,
  body: z.object({ id, wentOut: z.boolean() }),
  response: z.object({ summary: z.string() }),
})
export const dial = endpoint({
  method: 'post',
  path: '/api/calls',
  callers: true,
  summary: 'Call a prospect, if calling hours and stops allow it',
  body: z.object({ id, prospectId: id, phoneId: id.nullable().default(null) }),
  response: z.object({
    id,
    phoneId: id,
    number: z.string(),
    uri: z.string().nullable().describe('A tel: link for your own phone, where you call with it'),
    recorded: z.boolean().describe('Whether it is recorded, which the exchange announces'),
    reported: z.boolean().describe('Whether the stream of changes says when its status changes'),
  }),
})
export const callState = endpoint({
  method: 'get',
  path: '/api/calls/{id}',
  callers: true,
  summary: 'The status of a call',
  params: withId,
  response: z.object({
    status: z.enum([
      'ringing',
      'answered',
      'voicemail',
      'busy',
      'rejected',
      'not_in_service',
      'no_answer',
      'ended',
      'own_phone',
    ]),
    since: instant,
  }),
})
export const hangUp = endpoint({
  method: 'post',
  path: '/api/calls/{id}/hang-up',
  callers: true,
  summary: 'End a call',
  params: withId,
})
