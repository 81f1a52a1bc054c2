import { z } from 'zod'
import { MEETING_RESULTS, TO_DO_KINDS, valuesOf } from '../enumerations'
import { happens, moment, ref, undoable } from './define'

/** What was asked for with an outcome, but for what someone wrote. */
const details = z.strictObject({
  callBackAt: moment.optional(),
  calledAt: moment.optional(),
  quality: z.string().max(30).optional(),
  succeeded: z.boolean().optional(),
  meeting: z.strictObject({ startAt: moment, minutes: z.number(), timeZone: z.string().max(60) }).optional(),
})

const DETAILS_REDACTED = {
  'details.reason': 'beside',
  'details.note': 'ownRow',
  'details.referral': 'ownRow',
  'details.meeting.title': 'ownRow',
  'details.meeting.place': 'ownRow',
  'details.meeting.email': 'ownRow',
} as const

/** Calls with their outcomes, tasks and meetings. */
export const callEvents = {
  callLogged: undoable(
    'Call',
    {
      outcomeId: ref,
      taskId: ref.nullable(),
      phoneId: ref.nullable(),
      call: z.enum(['here', 'elsewhere', 'incoming']).nullable().optional(),
      blockId: ref.optional(),
      exportId: ref.optional(),
      details,
    },
    { knot: 'call', redact: DETAILS_REDACTED },
  ),
  callAbandoned: happens('Answered, no caller free', { phoneId: ref, blockId: ref, dialedFor: ref }),
  callMissed: happens('Missed call', { phoneId: ref, rangFor: ref.nullable() }),
  taskPlanned: undoable(
    'Planned',
    { task: z.enum(valuesOf(TO_DO_KINDS)), dueAt: moment, ownerId: ref.nullable() },
    { redact: { title: 'ownRow' } },
  ),
  taskAssigned: undoable('To-do assigned', { taskId: ref, ownerId: ref }),
  taskDone: undoable(
    'Task done',
    { taskId: ref, outcomeId: ref.optional(), details: details.optional() },
    { knot: 'task', redact: DETAILS_REDACTED },
  ),
  meetingMoved: undoable('Meeting moved', {
    meetingId: ref,
    startAt: moment,
    minutes: z.number(),
    timeZone: z.string().max(60),
  }),
  meetingCancelled: undoable('Meeting canceled', { meetingId: ref }),
  meetingResult: undoable(
    'Meeting result',
    { meetingId: ref, result: z.enum(valuesOf(MEETING_RESULTS)) },
    { knot: 'meeting' },
  ),
  nextActionMissing: happens('Next step planned'),
}
