import { evolve } from '#core/engine/state/effects'
import { explain } from '#core/engine/explain'
import { MEETING_RESULTS, valuesOf, type MeetingResult } from '#core/enumerations'
import type { Playbook } from '#core/engine/state/playbook'
import { react } from '#core/engine/react'
import type { EngineState } from '#core/engine/state/engineState'
import type { Id, Instant } from '#core/instant'
import type { Brief } from '#shared/api/desk/desk'
import { newId } from '#shared/newId'
import { db } from '../../db/pool'
import { recordEvents, type NewEvent } from '../../engine/recordEvents'
import { mustSee } from '../access/access'
import { notFound, refusedBy } from '../access/errors'
import { touchGoals } from '../lists/touchGoals'
import { readerOf, type Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/** Lets something happen to a meeting, and says what it did; with a note, if there is one. */
async function toMeeting(
  viewer: Viewer,
  meetingId: Id,
  event: (about: { prospectId: Id; actorId: Id; causedByEventId: null; meetingId: Id }) => NewEvent,
  note?: string,
): Promise<{ summary: string }> {
  const row = await firstRow(
    db().query<{ prospectId: Id }>(sql`select prospect_id as "prospectId" from meetings where id = $1`, [meetingId]),
  )
  if (!row) throw notFound('meeting')
  const { prospectId } = row
  await mustSee(viewer, prospectId)
  const meetingEvent = event({ prospectId, actorId: viewer.id, causedByEventId: null, meetingId })
  const {
    results: [result],
    before,
    after,
    playbook,
  } = await recordEvents([meetingEvent], {
    touchGoals: (ids) => touchGoals(viewer, ids),
    alsoWrite: async (client, { results: [done] }) => {
      if (done!.problems.length) throw refusedBy(done!.problems)
      const text = note?.trim()
      if (text) {
        await client.query(
          sql`
            insert into notes (id, prospect_id, user_id, event_id, at, body)
            values ($1, $2, $3, $4, world_now(), $5)
          `,
          [newId(), prospectId, viewer.id, meetingEvent.id, text],
        )
      }
    },
  })
  return {
    summary: explain(result!.effects, prospectId, before, after, playbook, readerOf(viewer, before.now)) || 'Done.',
  }
}

/** Moves a meeting. */
export const moveMeeting = (
  viewer: Viewer,
  meetingId: Id,
  { id, ...to }: { id: Id; startAt: Instant; minutes: number; timeZone: string },
) => toMeeting(viewer, meetingId, (about) => ({ ...about, id, kind: 'meetingMoved', ...to }))

/** Cancels a meeting. */
export const cancelMeeting = (viewer: Viewer, meetingId: Id, id: Id) =>
  toMeeting(viewer, meetingId, (about) => ({ ...about, id, kind: 'meetingCancelled' }))

/** Says how a meeting went. */
export const settleMeeting = (
  viewer: Viewer,
  meetingId: Id,
  { id, result, note }: { id: Id; result: MeetingResult; note?: string },
) => toMeeting(viewer, meetingId, (about) => ({ ...about, id, kind: 'meetingResult', result }), note)

/** The meeting whose result a task asks for, with what each result would do; null for another task. */
export function meetingOf(
  prospectId: Id,
  taskDueAt: Instant,
  state: EngineState,
  book: Playbook,
  viewer: Viewer,
): Brief['meeting'] {
  const found = Object.values(state.meeting).find(
    (row) => row.prospectId === prospectId && row.status === 'booked' && row.endAt === taskDueAt,
  )
  if (!found) return null
  const results = valuesOf(MEETING_RESULTS).map((result) => {
    let made = 0
    const event = {
      id: 'preview',
      kind: 'meetingResult' as const,
      at: state.now,
      prospectId,
      actorId: viewer.id,
      causedByEventId: null,
      meetingId: found.id,
      result,
    }
    const { effects } = react(event, state, book, () => `new-${made++}`)
    return {
      result,
      label: MEETING_RESULTS[result],
      summary: explain(effects, prospectId, state, evolve(state, effects), book, {
        ...readerOf(viewer, state.now),
      }),
    }
  })
  return {
    id: found.id,
    title: found.title,
    startAt: found.startAt,
    endAt: found.endAt,
    timeZone: found.timeZone,
    results,
  }
}
