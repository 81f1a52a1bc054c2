import type { ToDoKind } from '#core/enumerations'
import type { Id, Instant } from '#core/instant'
import { explain } from '#core/engine/explain'
import { newId } from '#shared/newId'
import { db } from '../../db/pool'
import { recordEvents } from '../../engine/recordEvents'
import { mustBeAbleTo, mustSee } from '../access/access'
import { byHand } from '../cadences/enrollments'
import { notFound, Refusal } from '../access/errors'
import { markHandled } from '../lists/listWork'
import { touchGoals } from '../lists/touchGoals'
import { readerOf, type Viewer } from '../access/viewer'
import { checkToDo, writeToDoContent, type ToDoContent } from '../templates/toDoContent'
import { firstRow, sql } from '../../db/sql'

/** Plans a to-do with someone, for their owner unless another is named. */
export async function planTask(
  viewer: Viewer,
  prospectId: Id,
  given: ToDoContent & { id: Id; task: ToDoKind; title: string; dueAt: Instant; ownerId: Id | null },
): Promise<{ summary: string }> {
  const { id, task, title, dueAt, ownerId, ...content } = given
  if (ownerId) await mustBeAbleTo(ownerId, task, db())
  await checkToDo(task, content, '', db())
  const about = { id, prospectId, actorId: viewer.id, causedByEventId: null }
  return byHand(viewer, { ...about, kind: 'taskPlanned', task, title, dueAt, ownerId }, (client, { results }) =>
    writeToDoContent(client, id, task, content, results),
  )
}

/** Says that a task is done, with a note if there is one. Done twice is a conflict, and does nothing. */
export async function finishTask(
  viewer: Viewer,
  taskId: Id,
  given: { id: Id; note?: string; listId?: Id },
): Promise<{ summary: string }> {
  const row = await firstRow(
    db().query<{ prospect_id: Id }>(sql`select prospect_id from tasks where id = $1`, [taskId]),
  )
  if (!row) throw notFound('task')
  await mustSee(viewer, row.prospect_id)
  const {
    results: [result],
    before,
    after,
    playbook,
  } = await recordEvents(
    [
      {
        id: given.id,
        kind: 'taskDone',
        prospectId: row.prospect_id,
        actorId: viewer.id,
        causedByEventId: null,
        taskId,
      },
    ],
    {
      touchGoals: (ids) => touchGoals(viewer, ids),
      alsoWrite: async (client, { results: [done] }) => {
        if (done!.problems.length) throw new Refusal('conflict', done!.problems[0]!.message)
        if (given.listId) await markHandled(client, viewer, given.listId, row.prospect_id, given.id)
        const note = given.note?.trim()
        if (note) {
          await client.query(
            sql`
              insert into notes (id, prospect_id, user_id, event_id, at, body)
              values ($1, $2, $3, $4, world_now(), $5)
            `,
            [newId(), row.prospect_id, viewer.id, given.id, note],
          )
        }
      },
    },
  )
  return {
    summary:
      explain(result!.effects, row.prospect_id, before, after, playbook, {
        ...readerOf(viewer, before.now),
      }) || 'Done.',
  }
}
