import { z } from 'zod'
import {
  CHANNELS,
  COMPANY_STATUSES,
  DEAL_STATUSES,
  EMAIL_ADDRESS_STATUSES,
  EMAIL_TYPES,
  EXIT_REASONS,
  MEETING_STATUSES,
  PHONE_KINDS,
  PHONE_STATUSES,
  PROSPECT_STATUSES,
  TEXT_CONSENTS,
  RATINGS,
  STAGE_KINDS,
  TIME_ZONE_SOURCES,
  TOUCH_KINDS,
  valuesOf,
} from '#core/enumerations'
import { endpoint, id, instant, required, text, withId, timeZone } from './endpoint'

export const stageSchema = z.object({
  id: z.string(),
  name: z.string(),
  kind: z.enum(valuesOf(STAGE_KINDS)),
})
const emailTypes = z.array(z.enum(valuesOf(EMAIL_TYPES))).max(3)
export const phoneSchema = z.object({
  id,
  number: z.string(),
  shown: z.string(),
  kind: z.string(),
  status: z.enum(valuesOf(PHONE_STATUSES)),
  tags: z.array(z.string()),
  textConsent: z.enum(valuesOf(TEXT_CONSENTS)).describe('Whether its person agreed to texts'),
})
export const emailSchema = z.object({ id, address: z.string(), status: z.enum(valuesOf(EMAIL_ADDRESS_STATUSES)) })
export const companyStatus = z.enum(valuesOf(COMPANY_STATUSES))
const companyRef = z.object({ id, name: z.string(), status: companyStatus })

export const prospectRowSchema = z.object({
  id,
  name: z.string(),
  title: z.string().nullable(),
  company: companyRef.nullable(),
  stage: stageSchema,
  owner: z.object({ id, name: z.string() }).nullable(),
  email: z.string().nullable(),
  phone: z.string().nullable(),
  timeZone: z.string(),
  rating: z.enum(valuesOf(RATINGS)).nullable(),
  lastTouchAt: instant.nullable(),
  nextAt: instant.nullable(),
  createdAt: instant,
})
export type ProspectRow = z.infer<typeof prospectRowSchema>

/** A rating as it is given: by hand, none, or as the score says from now on. */
export const ratingGiven = z.enum(['hot', 'warm', 'cold', 'score']).nullable()
export type RatingGiven = z.infer<typeof ratingGiven>

export const prospectSchema = z.object({
  id,
  firstName: z.string(),
  lastName: z.string(),
  name: z.string(),
  title: z.string().nullable(),
  company: companyRef.nullable(),
  stage: stageSchema,
  owner: z.object({ id, name: z.string() }).nullable(),
  timeZone: z.string(),
  country: z.string().nullable(),
  region: z.string().nullable(),
  city: z.string().nullable(),
  source: z.string().nullable(),
  postalCode: z.string().nullable(),
  rating: z.enum(valuesOf(RATINGS)).nullable(),
  /** What their behavior is worth, and whether the rating follows it. */
  score: z.number(),
  ratedByScore: z.boolean(),
  status: z.enum(valuesOf(PROSPECT_STATUSES)),
  relationshipOwner: z.object({ id, name: z.string() }).nullable(),
  tags: z.array(z.object({ id, name: z.string() })),
  /** Values of the custom fields, by the fields' ids. */
  custom: z.record(z.string(), z.unknown()),
  /** Whether someone has said where the person's clock stands; else it follows address and number. */
  timeZoneIsManual: z.boolean(),
  /** What says that the zone is theirs; calls keep to the hours of every possible zone where it is a guess. */
  timeZoneFrom: z.enum(valuesOf(TIME_ZONE_SOURCES)),
  callingZones: z.number().describe('How many zones are possible'),
  emailTypes,
  /** How many touches of each kind there were. */
  touchCounts: z.record(z.string(), z.number()),
  stopCall: z.boolean(),
  stopEmail: z.boolean(),
  phones: z.array(phoneSchema),
  emails: z.array(emailSchema),
  version: z.number(),
  /** Whether and until when the person may be called now, by their own clock; why not otherwise. */
  calling: z.object({
    open: z.boolean(),
    until: instant.nullable(),
    from: instant.nullable(),
    why: z.string().nullable(),
  }),
  createdAt: instant,
  /** The other dialer that has them now, and since when; null for none. */
  atDialer: z.object({ dialer: z.string(), since: instant }).nullable(),
  attempts: z.number(),
  attemptsAllowed: z.number(),
  colleagues: z.array(z.object({ id, name: z.string(), title: z.string().nullable(), stage: z.string() })),
  enrollments: z.array(
    z.object({
      id,
      cadenceId: id,
      cadence: z.string(),
      status: z.string(),
      exit: z.enum(valuesOf(EXIT_REASONS)).nullable(),
      startedAt: instant,
      endedAt: instant.nullable(),
    }),
  ),
  deals: z.array(
    z.object({
      id,
      name: z.string(),
      status: z.enum(valuesOf(DEAL_STATUSES)),
      likelihood: z.number(),
      openedAt: instant,
      closedAt: instant.nullable(),
      value: z.number().nullable(),
      stageId: z.string().nullable(),
      expectedClose: z.string().nullable(),
      reason: z.string().nullable(),
      prospectId: id,
      custom: z.record(z.string(), z.unknown()),
    }),
  ),
  meetings: z.array(
    z.object({
      id,
      title: z.string(),
      startAt: instant,
      endAt: instant,
      timeZone: z.string(),
      status: z.enum(valuesOf(MEETING_STATUSES)),
      place: z.string().nullable(),
    }),
  ),
  tasks: z.array(z.object({ id, kind: z.string(), title: z.string(), dueAt: instant })),
  scheduled: z
    .array(
      z.object({
        id,
        summary: z.string(),
        at: instant,
        outcome: z.string().nullable(),
        causedAt: instant.nullable(),
      }),
    )
    .describe('Actions of outcomes that wait for their time, and what they follow from'),
})
export type Prospect = z.infer<typeof prospectSchema>

export const knotKind = z.enum(valuesOf(TOUCH_KINDS))

const contact = { email: text(254).optional(), phone: text(60).optional() }

export const listProspects = endpoint({
  method: 'get',
  path: '/api/prospects',
  summary: 'Prospects, newest first, page by page',
  query: z.object({
    search: text(200).optional(),
    stage: z.string().max(60).optional(),
    import: id.optional(),
    owner: z.union([id, z.literal('none')]).optional(),
    cadence: id.optional(),
    after: z.string().max(100).optional(),
    limit: z.coerce.number().int().min(1).max(500).default(100),
  }),
  response: z.object({ prospects: z.array(prospectRowSchema), next: z.string().nullable(), total: z.number() }),
})
export const addProspect = endpoint({
  method: 'post',
  path: '/api/prospects',
  summary: 'Add a prospect; a name and a number are enough',
  body: z.object({
    name: required(300),
    title: text(300).optional(),
    company: text(300).optional(),
    country: text(2).optional(),
    region: text(60).optional(),
    timeZone: timeZone.optional(),
    ...contact,
  }),
  response: z.object({ id, known: z.boolean() }),
})
export const getProspect = endpoint({
  method: 'get',
  path: '/api/prospects/{id}',
  summary: 'One prospect with all details',
  params: withId,
  response: prospectSchema,
})
export const editProspect = endpoint({
  method: 'patch',
  path: '/api/prospects/{id}',
  callers: true,
  summary: 'Edit a prospect',
  params: withId,
  body: z.object({
    version: z.number().int(),
    firstName: text(300).optional(),
    lastName: text(300).optional(),
    title: text(300).nullable().optional(),
    city: text(300).nullable().optional(),
    region: text(60).nullable().optional(),
    country: z
      .string()
      .regex(/^[A-Z]{2}$/, 'Two capital letters, like US')
      .nullable()
      .optional(),
    timeZone: timeZone.nullable().optional().describe('null lets it follow address and number again'),
    emailTypes: emailTypes.optional(),
    ownerId: id.nullable().optional(),
    postalCode: text(20).nullable().optional(),
    source: text(300).nullable().optional(),
    rating: ratingGiven.optional(),
    status: z.enum(valuesOf(PROSPECT_STATUSES)).optional(),
    reason: text(500).optional().describe('Why, where they are archived'),
    relationshipOwnerId: id.nullable().optional(),
    custom: z.record(z.string(), z.unknown()).optional(),
    addEmail: text(254).optional(),
    addPhone: text(60).optional(),
  }),
  response: z.object({ version: z.number() }),
})
export const moveProspect = endpoint({
  method: 'post',
  path: '/api/prospects/{id}/stage',
  summary: 'Change the stage of a prospect, through its gate',
  params: withId,
  body: z.object({
    id,
    to: z.string().max(60),
    reason: text(500).nullable().default(null),
    note: text(5000).nullable().default(null),
    override: text(500).nullable().default(null),
  }),
  response: z.object({ summary: z.string() }),
})
export const stopProspect = endpoint({
  method: 'post',
  path: '/api/prospects/{id}/stop',
  summary: 'Set or clear do not call, do not email or do not contact',
  params: withId,
  body: z.object({ id, channel: z.enum(valuesOf(CHANNELS)), on: z.boolean() }),
  response: z.object({ summary: z.string() }),
})
export const editPhone = endpoint({
  method: 'patch',
  path: '/api/prospects/{id}/phones/{phone}',
  summary: 'Edit a phone number, its type, status and tags, or make it first',
  params: z.object({ id, phone: id }),
  body: z.object({
    number: required(60).optional(),
    first: z.literal(true).optional(),
    kind: z.enum(valuesOf(PHONE_KINDS)).optional(),
    status: z.enum(valuesOf(PHONE_STATUSES)).optional(),
    tags: z.array(text(40)).max(10).optional(),
    textConsent: z.enum(['given', 'declined']).optional(),
  }),
})
export const removePhone = endpoint({
  method: 'delete',
  path: '/api/prospects/{id}/phones/{phone}',
  summary: 'Remove a phone number; one that was called is marked wrong instead',
  params: z.object({ id, phone: id }),
  response: z.object({ removed: z.boolean() }),
})
export const editEmail = endpoint({
  method: 'patch',
  path: '/api/prospects/{id}/addresses/{email}',
  summary: 'Edit an email address, set whether it works, or make it first',
  params: z.object({ id, email: id }),
  body: z.object({
    address: required(254).optional(),
    status: z.enum(valuesOf(EMAIL_ADDRESS_STATUSES)).optional(),
    first: z.literal(true).optional(),
  }),
})
export const removeEmail = endpoint({
  method: 'delete',
  path: '/api/prospects/{id}/addresses/{email}',
  summary: 'Remove an email address; one that was emailed is marked as not working instead',
  params: z.object({ id, email: id }),
  response: z.object({ removed: z.boolean() }),
})
export const pinNote = endpoint({
  method: 'post',
  path: '/api/prospects/{id}/notes/{note}/pin',
  summary: 'Pin a note to the top, or unpin it',
  params: z.object({ id, note: id }),
  body: z.object({ pinned: z.boolean() }),
})
export const addNote = endpoint({
  method: 'post',
  path: '/api/prospects/{id}/notes',
  summary: 'Add a note',
  params: withId,
  body: z.object({ id, body: required(10_000) }),
})
export const editNote = endpoint({
  method: 'put',
  path: '/api/prospects/{id}/notes/{note}',
  summary: 'Change what a note says: its author, or a manager',
  params: z.object({ id, note: id }),
  body: z.object({ body: required(10_000), was: text(10_000).describe('What it said when it was read') }),
})
export const deleteNote = endpoint({
  method: 'delete',
  path: '/api/prospects/{id}/notes/{note}',
  summary: 'Delete a note: its author, or a manager',
  params: z.object({ id, note: id }),
})
export const exportPerson = endpoint({
  method: 'get',
  path: '/api/prospects/{id}/data',
  summary: 'Export all data of one prospect',
  access: 'manager',
  params: withId,
  response: z.record(z.string(), z.unknown()),
})
export const erasePerson = endpoint({
  method: 'post',
  path: '/api/prospects/{id}/erase',
  summary: 'Erase a prospect on request; it cannot be undone',
  access: 'manager',
  params: withId,
  body: z.object({ id, name: required(200).describe('The person’s name, typed to be sure') }),
})
