import { z } from 'zod'
import { GOAL_STATUSES, LIST_KINDS, LIST_VIEWS, TOUCH_UNITS, valuesOf } from '#core/enumerations'
import { filterSchema } from '#core/filter/filter'
import { LONGEST_SENTENCE } from '#core/filter/sentence'
import { endpoint, id, instant, required, text, withId } from './endpoint'
import { prospectRowSchema, companyStatus as status } from './prospects'

/** A filter as it is kept, or as a sentence in words. */
export const filterInput = z.union([text(LONGEST_SENTENCE), filterSchema])

export const fieldSchema = z.object({
  key: z.string(),
  label: z.string(),
  kind: z.enum(['text', 'choice', 'several', 'number', 'moment', 'yesNo', 'place']),
  group: z.enum(['person', 'company', 'touches', 'cadences', 'deals', 'lists']),
  choices: z.array(z.object({ id: z.string(), name: z.string() })).optional(),
})
export const filterFields = endpoint({
  method: 'get',
  path: '/api/filter/fields',
  summary: 'All fields that filters can use, with their values',
  response: z.object({ fields: z.array(fieldSchema), timeZone: z.string() }),
})

const countSchema = z.object({
  /** Exact up to 10,000, estimated beyond. */
  count: z.number(),
  exact: z.boolean(),
  /** People who fit but are removed, and so are left out unless the filter speaks of that. Counted to 1,000. */
  removed: z.number(),
})
const sortSchema = z.object({ field: z.string().max(80), down: z.boolean() })
const columnsSchema = z.array(z.string().max(80)).max(40)
/** The columns of a list, in order; a width in pixels where someone has set one. */
const listColumns = z
  .array(z.object({ key: z.string().max(80), width: z.number().int().min(50).max(900).nullable() }))
  .max(40)
/** Whom someone asks for. */
/** How a touch goal stands with a person; "unscheduled" is overdue with nothing scheduled. */
export const goalState = z.enum(['overdue', 'unscheduled', 'due_soon', 'on_track'])
export type GoalState = z.infer<typeof goalState>
const goal = goalState.optional().describe('With a list that has a touch goal: only people with whom it stands so')
export const asked = { filter: filterInput.optional(), list: id.optional(), search: text(200).optional(), goal }

export const countProspects = endpoint({
  method: 'post',
  path: '/api/prospects/count',
  readsOnly: true,
  summary: 'How many prospects match a filter, among those the caller may see',
  body: z.object(asked),
  response: countSchema.extend({ filter: z.unknown(), sentence: z.string() }),
})
export type CountedPeople = z.output<typeof countProspects.response>
/** A list's touch goal; months are the calendar's. */
const interval = z.object({ amount: z.number().int().min(1).max(1000), unit: z.enum(valuesOf(TOUCH_UNITS)) })
/** Where a prospect stands on a list with a touch goal: by the list whose goal falls due first. */
const touchGoalSchema = z.object({
  listId: id,
  every: interval,
  lastAt: instant.nullable(),
  dueAt: instant,
  status: z.enum(valuesOf(GOAL_STATUSES)),
})
export const findProspects = endpoint({
  method: 'post',
  path: '/api/prospects/find',
  readsOnly: true,
  summary: 'Prospects by filter or list, in any order, with chosen columns, page by page',
  body: z.object({
    ...asked,
    columns: columnsSchema.default([]),
    sort: sortSchema.nullable().default(null),
    after: z.string().max(2000).optional(),
    limit: z.number().int().min(1).max(500).default(100),
  }),
  response: z.object({
    people: z.array(
      prospectRowSchema.extend({
        phoneShown: z.string().nullable().describe('The number as its country writes it'),
        values: z.record(z.string(), z.unknown()),
        touchGoal: touchGoalSchema.nullable(),
      }),
    ),
    next: z.string().nullable(),
  }),
})

const COMPANY_SORTS = ['name', 'people', 'lastTouch', 'size'] as const
export const companyRowSchema = z.object({
  id,
  name: z.string(),
  status,
  domain: z.string().nullable(),
  industry: z.string().nullable(),
  size: z.number().nullable(),
  place: z.string(),
  /** How many of the people asked for are there, and how many of all whom the caller sees. */
  fitting: z.number(),
  people: z.number(),
  lastTouchAt: instant.nullable(),
})
export const findCompanies = endpoint({
  method: 'post',
  path: '/api/companies/find',
  readsOnly: true,
  summary: 'Companies with prospects who match a filter or are on a list, page by page',
  body: z.object({
    ...asked,
    sort: z.object({ field: z.enum(COMPANY_SORTS), down: z.boolean() }).default({ field: 'name', down: false }),
    after: z.string().max(2000).optional(),
    limit: z.number().int().min(1).max(500).default(100),
  }),
  response: z.object({ companies: z.array(companyRowSchema), next: z.string().nullable(), count: z.number() }),
})
export const exportProspects = endpoint({
  method: 'get',
  path: '/api/prospects/export',
  summary: 'Prospects by filter or list as a file, with chosen columns',
  query: z.object({
    filter: text(8_000).optional(),
    list: id.optional(),
    search: text(200).optional(),
    goal,
    columns: z.string().max(4_000).default('').describe('Keys of fields, joined by commas'),
    sort: z.string().max(90).optional().describe('A key and "up" or "down", joined by a dot'),
    format: z.enum(['csv', 'json', 'vcard']).default('csv').describe('vcard: vCard 4 (RFC 6350), whatever the columns'),
  }),
  response: z.any(),
})

const visibility = z.enum(['me', 'named', 'team', 'everyone'])
const defaultView = z.enum(valuesOf(LIST_VIEWS))
const touchKinds = z.array(z.enum(['call', 'text', 'email', 'meeting'])).min(1)
export const listSchema = z.object({
  id,
  name: z.string(),
  kind: z.enum(valuesOf(LIST_KINDS)),
  filter: z.unknown(),
  sentence: z.string(),
  /** What can no longer be asked, in words; then the list finds nobody until it is mended. */
  problems: z.array(z.string()),
  columns: listColumns,
  sort: sortSchema.nullable(),
  position: z.number(),
  owner: z.object({ id, name: z.string() }).nullable(),
  visibility,
  viewerIds: z.array(id),
  team: z.string().nullable(),
  defaultView,
  touchEvery: interval.nullable(),
  touchKinds: z.array(z.string()),
  mayEdit: z.boolean(),
  version: z.number(),
})
export type List = z.infer<typeof listSchema>

export const listLists = endpoint({
  method: 'get',
  path: '/api/lists',
  summary: 'The lists the caller sees, in the order they are worked',
  response: z.object({ lists: z.array(listSchema) }),
})
export const listCount = endpoint({
  method: 'get',
  path: '/api/lists/{id}/count',
  summary: 'How many prospects are on a list, and how many were handled today',
  params: withId,
  response: countSchema.extend({
    companies: z.number().nullable().describe('How many companies, for a list shown by company'),
    handledToday: z.number(),
    /** How its touch goal stands; `unscheduled` are those overdue with nothing scheduled. */
    touchGoal: z
      .object({ overdue: z.number(), dueSoon: z.number(), onTrack: z.number(), unscheduled: z.number() })
      .nullable(),
  }),
})
const settings = {
  columns: listColumns.optional(),
  sort: sortSchema.nullable().optional(),
  visibility: visibility.optional(),
  viewerIds: z.array(id).max(500).optional(),
  team: text(60).nullable().optional().describe('Which team it is for, where it is for one'),
  defaultView: defaultView.optional(),
  touchEvery: interval.nullable().optional(),
  touchKinds: touchKinds.optional(),
}
export const addList = endpoint({
  method: 'post',
  path: '/api/lists',
  summary: 'Create a list: live, or fixed with the prospects who match a filter now',
  body: z.object({
    name: required(100),
    kind: z.enum(valuesOf(LIST_KINDS)),
    filter: filterInput.optional(),
    prospectIds: z.array(id).max(10_000).optional(),
    ...settings,
  }),
  response: z.object({ id }),
})
export const editList = endpoint({
  method: 'patch',
  path: '/api/lists/{id}',
  summary: 'Change a list',
  params: withId,
  body: z.object({
    version: z.number().int(),
    name: required(100).optional(),
    filter: filterInput.optional(),
    ...settings,
  }),
  response: z.object({ version: z.number() }),
})
export const removeList = endpoint({
  method: 'delete',
  path: '/api/lists/{id}',
  summary: 'Delete a list; its prospects are kept',
  params: withId,
})
export const orderLists = endpoint({
  method: 'post',
  path: '/api/lists/order',
  summary: 'Set the order in which lists are worked',
  access: 'manager',
  body: z.object({
    ids: z.array(id).min(1).max(1000),
    before: z.array(id).max(1000).describe('The order the caller saw; where it no longer holds, nothing is changed'),
  }),
})
export const listBatches = endpoint({
  method: 'get',
  path: '/api/lists/{id}/batches',
  summary: 'The batches a fixed list was built from',
  params: withId,
  response: z.object({
    byOutcomes: z.number().describe('Who was added by an outcome, in no batch'),
    batches: z.array(
      z.object({
        id,
        sentence: z.string().nullable(),
        at: instant,
        by: z.string().nullable(),
        count: z.number(),
        still: z.number(),
      }),
    ),
  }),
})
export const addToList = endpoint({
  method: 'post',
  path: '/api/lists/{id}/batches',
  summary: 'Add prospects to a fixed list, by filter or by hand',
  params: withId,
  body: z.object({ filter: filterInput.optional(), prospectIds: z.array(id).max(10_000).optional() }),
  response: z.object({ added: z.number(), already: z.number() }),
})
const someone = z.object({ id, name: z.string(), company: z.string().nullable() })
export const previewRefresh = endpoint({
  method: 'get',
  path: '/api/lists/{id}/batches/{batch}/refresh',
  summary: 'Who would be added and removed if a batch were rebuilt',
  params: z.object({ id, batch: id }),
  response: z.object({ come: z.array(someone), go: z.array(someone), comes: z.number(), goes: z.number() }),
})
export const refreshBatch = endpoint({
  method: 'post',
  path: '/api/lists/{id}/batches/{batch}/refresh',
  summary: 'Rebuild a batch with its filter',
  params: z.object({ id, batch: id }),
  response: z.object({ came: z.number(), went: z.number() }),
})
export const removeFromList = endpoint({
  method: 'post',
  path: '/api/lists/{id}/removals',
  summary: 'Remove prospects from a fixed list',
  params: withId,
  body: z.object({ prospectIds: z.array(id).min(1).max(10_000) }),
  response: z.object({ removed: z.number() }),
})
