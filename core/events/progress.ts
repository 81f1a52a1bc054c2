import { z } from 'zod'
import { CHANNELS, PHONE_STATUSES, PROSPECT_STATUSES, valuesOf } from '../enumerations'
import { happens, moment, ref, undoable } from './define'

/** Where a prospect stands: cadences, stages, stops and statuses. */
export const progressEvents = {
  enrolled: undoable('Enrolled', { cadenceId: ref, startAt: moment.nullable().optional() }),
  unenrolled: undoable('Removed from the cadence', { enrollmentId: ref }),
  stepSkipped: undoable('Step skipped', { enrollmentId: ref }),
  enrollmentMoved: undoable('Moved within the cadence', {
    enrollmentId: ref,
    stepId: ref.nullable(),
    dueAt: moment.nullable(),
  }),
  stepDue: happens('Step due', { enrollmentId: ref }),
  actionDue: happens('Scheduled action', { delayedActionId: ref }),
  actionCancelled: undoable('Scheduled action canceled', { delayedActionId: ref }),
  stageMoved: undoable(
    'Stage changed',
    { to: z.string().max(60) },
    { redact: { reason: 'beside', override: 'beside', note: 'ownRow' } },
  ),
  stopSet: undoable('Do not contact changed', { channel: z.enum(valuesOf(CHANNELS)), on: z.boolean() }),
  prospectStatusSet: undoable(
    'Status changed',
    { to: z.enum(valuesOf(PROSPECT_STATUSES)) },
    { redact: { reason: 'beside' } },
  ),
  phoneStatusSet: undoable('Number’s status changed', { phoneId: ref, to: z.enum(valuesOf(PHONE_STATUSES)) }),
  undone: happens('Undone', { targetId: ref }),
}
