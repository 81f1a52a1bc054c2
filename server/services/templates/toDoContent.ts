import type { ToDoKind } from '#core/enumerations'
import type { Id } from '#core/instant'
import type { DomainEvent } from '#core/engine/state/events'
import type { Effect } from '#core/engine/state/effects'
import type { Db } from '../../db/pool'
import { sql } from '../../db/sql'
import { Refusal } from '../access/errors'
import { bothForms } from './richText'
import { emailProblems } from './templates'

/** What a to-do that is planned says when it is due. */
export interface ToDoContent {
  subject: string
  body: string
  html: string | null
  attachments: Id[]
}

/** A to-do of which nothing is said but its title. */
export const NO_CONTENT: ToDoContent = { subject: '', body: '', html: null, attachments: [] }

/** Only emails have a subject, formatting and files; the plain text of formatting is made of it. */
function contentFor(kind: ToDoKind, { subject, body, html, attachments }: ToDoContent): ToDoContent {
  return kind === 'email' ? bothForms({ subject, body, html, attachments }) : { ...NO_CONTENT, body }
}

/** The kind of the task that an effect makes. */
/** Throws where a merge field or a file of a to-do is wrong; fields are named under `path`. */
export async function checkToDo(kind: ToDoKind, content: ToDoContent, path: string, client: Db): Promise<void> {
  const { faults, problems } = await emailProblems(contentFor(kind, content), client)
  const found = [
    ...faults.map(({ field, line, message }) => ({ field, message: `Line ${line}: ${message}` })),
    ...problems,
  ].map(({ field, message }) => ({ field: path + field, message }))
  if (found.length) throw new Refusal('invalid', found[0]!.message, found)
}

/**
 * Writes what planned to-dos say, once for all that are planned together, and which of them say it. `id` is that of the
 * event or the bulk action by which they are planned.
 */
export async function writeToDoContent(
  client: Db,
  id: Id,
  kind: ToDoKind,
  content: ToDoContent,
  results: readonly { event: DomainEvent; effects: readonly Effect[] }[],
): Promise<void> {
  const taskIds = results.flatMap(({ event, effects }) =>
    effects.flatMap((effect) =>
      event.kind === 'taskPlanned' && effect.kind === 'createTask' && effect.after?.kind === kind ? [effect.id] : [],
    ),
  )
  const { subject, body, html, attachments } = contentFor(kind, content)
  await client.query(
    sql`
      insert into task_contents (id, subject, body, html, attachments)
      values ($1, $2, $3, $4, $5)
      on conflict (id) do nothing
    `,
    [id, subject, body, html, attachments],
  )
  await client.query(
    sql`
      update tasks
      set content_id = $1
      where id = any($2::uuid[])
    `,
    [id, taskIds],
  )
}
