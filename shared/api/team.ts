import { z } from 'zod'
import { TASK_KINDS, valuesOf } from '#core/enumerations'
import { WEEK_MEASURES } from '#core/stats/week'
import { endpoint, id, instant } from './endpoint'

const back = z.coerce.number().int().min(0).max(520).default(0).describe('How many weeks before this one')
const measure = z.enum(WEEK_MEASURES)
/** As `instant`, in an address. */
const moment = z.coerce.number().pipe(instant)
const goals = z.object({
  calls: z.number().int().min(0).max(1000),
  conversations: z.number().int().min(0).max(1000),
  booked: z.number().int().min(0).max(100),
})

export const teamCalls = endpoint({
  method: 'get',
  path: '/api/team/calls',
  access: 'manager',
  summary: 'All open calls of the team, first what is due first, with how many each owner has',
  query: z.object({
    ownerId: id.optional(),
    overdue: z.enum(['yes', 'no']).default('no').describe('yes: only what was due before today'),
    limit: z.coerce.number().int().min(1).max(1000).default(100),
  }),
  response: z.object({
    calls: z.array(
      z.object({
        id,
        prospectId: id,
        name: z.string(),
        company: z.string().nullable(),
        kind: z.enum(valuesOf(TASK_KINDS)),
        title: z.string(),
        dueAt: instant,
        overdue: z.boolean(),
        owner: z.object({ id, name: z.string() }).nullable(),
        cadence: z.string().nullable(),
      }),
    ),
    total: z.number(),
    owners: z.array(z.object({ id, name: z.string(), open: z.number(), overdue: z.number() })),
  }),
})
export const assignCalls = endpoint({
  method: 'post',
  path: '/api/team/calls/assign',
  access: 'manager',
  summary: 'Assign open calls to a user; the prospects stay with their owners',
  body: z.object({ taskIds: z.array(id).min(1).max(1000), to: id }),
  response: z.object({
    assigned: z.number(),
    left: z.number().describe('Those that were done or canceled meanwhile'),
  }),
})
export const teamWeek = endpoint({
  method: 'get',
  path: '/api/team/week',
  summary: 'What each rep did in a week, by day, beside the week before and the goals; reps see their own',
  query: z.object({ back }),
  response: z.object({
    /** The midnights of the week in the team's time zone, Monday to Monday: eight. */
    days: z.array(instant),
    timeZone: z.string(),
    /** The midnight that today began with: what was due before it is overdue. */
    today: instant,
    /** Which of the seven days are working days of the team. */
    workingDays: z.array(z.boolean()),
    users: z.array(
      z.object({
        id,
        name: z.string(),
        /** By measure: how many on each of the seven days, and in the whole week before. */
        week: z.record(measure, z.array(z.number())),
        before: z.record(measure, z.number()),
        wonValue: z.number(),
        wonValueBefore: z.number(),
        /** Open tasks that were due before today, now. */
        overdue: z.number(),
        /** A day's goals. */
        goals,
      }),
    ),
  }),
})
export const weekPeople = endpoint({
  method: 'get',
  path: '/api/team/week/people',
  summary: 'The prospects behind a number of the week',
  query: z.object({
    user: id.optional().describe('Everyone the caller sees, where it is left out'),
    measure: z.enum([...WEEK_MEASURES, 'overdue']),
    from: moment,
    to: moment,
  }),
  response: z.object({
    people: z.array(
      z.object({
        prospectId: id,
        name: z.string(),
        company: z.string().nullable(),
        by: z.string(),
        at: instant,
        value: z.number().nullable(),
      }),
    ),
    more: z.number().describe('How many more there are than are listed'),
  }),
})
export const weekCsv = endpoint({
  method: 'get',
  path: '/api/team/week.csv',
  summary: 'The week as CSV, a row for each rep and day',
  query: z.object({ back }),
  response: z.any(),
})
export const sourcesCsv = endpoint({
  method: 'get',
  path: '/api/team/sources.csv',
  summary: 'What each source brought, as CSV',
  access: 'manager',
  response: z.any(),
})
export const setGoals = endpoint({
  method: 'put',
  path: '/api/team/goals',
  summary: 'Set the goals of a day, for each user',
  access: 'manager',
  body: z.object({ users: z.array(z.object({ id, goals })).min(1).max(1000) }),
})
