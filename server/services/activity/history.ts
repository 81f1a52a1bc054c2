import { manages, onlyCalls } from '#core/roles'
import { momentInWords, type Reader } from '#core/engine/explain'
import { causeInWords, describeEffect } from '#core/engine/describeEffect'
import { FINDS_IN_WORDS } from '#core/engine/state/causes'
import type { Effect } from '#core/engine/state/effects'
import { eventKind } from '#core/events/registry'
import type { Id } from '#core/instant'
import { merge } from '#core/text/merge'
import type { HistoryEntry } from '#shared/api/events/history'
import { readMailParts } from '../../channels/mail/mailParts'
import { db } from '../../db/pool'
import { currentPlaybook } from '../../engine/playbook'
import { undo as takeBack } from '../../engine/undo'
import { limitedTo, mustSee, visible } from '../access/access'
import type { Changes } from '../../engine/eventLog'
import { changesInWords, FIELD_WORDS, namesFor } from './changesInWords'
import { effectsWhere, UNDONE, type LoggedEffect } from './logged'
import { notFound, Refusal } from '../access/errors'
import { readerOf, type Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

interface Row {
  id: Id
  at: number
  kind: string
  by: string | null
  outcome: string | null
  list: string | null
  /** The kind of the task that was done. */
  task: string | null
  dialer: string | null
  block: string | null
  form: string | null
  /** What was sent with it. */
  answers: { label: string; value: string }[] | null
  counts_as: string | null
  payload: Record<string, unknown>
  /** What someone wrote with it. */
  texts: { reason?: string; override?: string; said?: string; changes?: Changes } | null
  /** What a bulk action changed of them. */
  many: Changes | null
  note: string | null
  subject: string | null
  /** The mail to many whose subject is still a template: it is filled in when it leaves. */
  unfilled: Id | null
  reply: string | null
  undone: boolean
  recording: HistoryEntry['recording']
  /** It happened to this row, not to one that was merged into it. */
  own: boolean
  /** It happened to this person, or to one who was merged into them; else to a colleague. */
  theirs: boolean
  /** The colleague to whom it happened, where the viewer may see them. */
  colleague: string | null
  effects: LoggedEffect[]
}

/** Which fields were edited, in words; custom fields by their number. */
function editedFields({ kind, payload }: Row): string | null {
  const fields = payload.fields
  if (kind !== 'prospectEdited' || !Array.isArray(fields)) return null
  const words = fields.map(
    (field) =>
      FIELD_WORDS[field as string] ??
      (/^[0-9a-f-]{36}$/.test(field as string) ? 'a custom field' : String(field).replaceAll('_', ' ')),
  )
  const said = [...new Set(words.filter(Boolean))].join(', ')
  return said ? said.charAt(0).toUpperCase() + said.slice(1) : null
}

/** How it went, and why something was done, as someone said. */
function reasonsOf({ texts, payload }: Row, reader: Reader): string | null {
  const details = (payload.details ?? {}) as { quality?: string; succeeded?: boolean; calledAt?: number }
  const { quality, succeeded, calledAt } = details
  const went = { true: 'Succeeded', false: 'Did not succeed' }[String(succeeded)]
  const parts = [
    calledAt && `Called by another dialer: ${momentInWords(calledAt, reader)}`,
    quality && `How it went: ${quality}`,
    went,
    texts?.reason && `Reason: ${texts.reason}`,
    texts?.override && `Gate overridden: ${texts.override}`,
  ].filter(Boolean)
  return parts.length ? parts.join('\n') : null
}

/** A cause with what was found, in words, as it stands beside the log. */
function withFound(cause: Effect['cause'], said: string | undefined): Effect['cause'] {
  return said && FINDS_IN_WORDS.has(cause.rule) && !cause.values ? { ...cause, said } : cause
}

/** What happened, in words; of what happened to a colleague, with whom. */
function titleOf({ kind, payload, outcome, task, list, block, dialer, form, theirs, colleague }: Row): string {
  const plain = kind === 'taskDone' && task === 'reply' ? 'Reply handled' : (eventKind(kind)?.title ?? kind)
  const usual = payload.outcomeId ? `${plain}: ${outcome ?? 'deleted outcome'}` : plain
  const named = usual
    .replace(/\ba list$/, list ? `“${list}”` : '$&')
    .replace(/\banother dialer$/, dialer ? `“${dialer}”` : '$&')
    .replace(/^Form sent$/, form ? `Form sent: ${form}` : '$&')
    .replace(/\ba call block$/, block ? `the call block “${block}”` : '$&')
  const title = kind === 'changedWithMany' && payload.type === 'undo' ? 'Bulk action undone' : named
  return theirs ? title : `${title} (with ${colleague ?? 'a colleague'})`
}

/** Every touch and change of a person with its cause, newest first, those included that began with a colleague. */
export async function history(viewer: Viewer, prospectId: Id, limit: number): Promise<HistoryEntry[]> {
  await mustSee(viewer, prospectId)
  const book = await currentPlaybook(db())
  const clock = await firstRow(db().query<{ now: number }>(sql`select ms(world_now()) as now`))
  const { rows } = await db().query<Row>(
    sql`
      with recursive them as (
        select $1::uuid as id
        union
        select p.id
        from prospects p
          join them on p.merged_into = them.id
      ),
      mine as (
        select h.id
        from events h
          join them on them.id = h.prospect_id
        union
        select e.event_id
        from effects e
          join them on them.id = e.prospect_id
      )
      select
        h.id, ms(h.at) as at, h.kind, u.name as by, h.payload, x.texts, b.changes as many, o.name as outcome,
        l.name as list, d.kind as task, k.name as block, w.dialer, f.name as form, z.answers,
        o.counts_as, n.body as note,
        case when h.kind = 'emailClicked' then m.clicked_url else coalesce(m.subject, s.body) end as subject,
        case when m.kind = 'bulk' and m.header_id is null then m.id end as unfilled,
        (
          select r.body
          from replies r
          where r.message_id = (h.payload ->> 'messageId')::uuid and h.kind = 'emailReplied'
          order by abs(extract(epoch from r.received_at - h.at))
          limit 1
        ) as reply,
        ${UNDONE} as undone,
        (
          select json_build_object('callId', c.id, 'seconds', r.seconds)
          from calls c
            join call_recordings r on r.call_id = c.id and r.delete_at > world_now()
          where c.logged_by = h.id
          order by c.started_at desc
          limit 1
        ) as recording,
        ${effectsWhere('e.prospect_id in (select id from them) or e.prospect_id is null')} as effects,
        h.prospect_id = $1 as own,
        h.prospect_id is null or h.prospect_id in (select id from them) as theirs,
        (
          select btrim(o.first_name || ' ' || o.last_name)
          from prospects o
          where o.id = h.prospect_id and ${visible('o', '$3')}
        ) as colleague
      from mine
        join events h on h.id = mine.id
        left join users u on u.id = h.actor_id
        left join outcomes o on o.id = (h.payload ->> 'outcomeId')::uuid
        left join tasks d on h.kind = 'taskDone' and d.id = (h.payload ->> 'taskId')::uuid
        left join lists l on l.id = (h.payload ->> 'listId')::uuid
        left join call_blocks k on k.id = (h.payload ->> 'blockId')::uuid
        left join forms f on f.id = h.form_id
        left join form_submissions z on h.kind = 'formSent' and z.id = h.id
        left join call_exports w on w.id = (h.payload ->> 'exportId')::uuid
        left join lateral (select string_agg(body, E'\\n') as body from notes where event_id = h.id) n on true
        left join email_messages m on m.id = (h.payload ->> 'messageId')::uuid
        left join text_messages s on s.id = (h.payload ->> 'messageId')::uuid
        left join event_texts x on x.event_id = h.id
        left join bulk_people b on h.kind = 'changedWithMany'
          and b.action_id = (h.payload ->> 'actionId')::uuid
          and b.prospect_id = h.prospect_id
      order by h.at desc, h.position desc
      limit $2
    `,
    [prospectId, limit, limitedTo(viewer)],
  )
  const unfilled = rows.flatMap((row) => row.unfilled ?? [])
  const parts = unfilled.length ? await readMailParts(db(), unfilled) : new Map<Id, never>()
  for (const row of rows) {
    const mail = row.unfilled && parts.get(row.unfilled)
    if (mail) row.subject = merge(mail.subject, mail.values).text
  }
  const names = await namesFor(rows.map((row) => row.texts?.changes ?? row.many ?? {}))
  const reader = readerOf(viewer, clock!.now)
  return rows.map((row) => ({
    // Of what happened to a colleague, only what it changed here is shown.
    id: row.id,
    at: row.at,
    kind: row.kind,
    by: row.by,
    note: row.theirs ? row.note : null,
    undone: row.undone,
    recording: row.theirs ? row.recording : null,
    knot: row.undone || !row.theirs ? null : (eventKind(row.kind)?.knot ?? null),
    title: titleOf(row),
    body: !row.theirs
      ? null
      : (row.reply ??
        (row.answers?.length ? row.answers.map(({ label, value }) => `${label}: ${value}`).join('\n') : null) ??
        row.subject ??
        changesInWords(row.texts?.changes ?? row.many, names) ??
        editedFields(row) ??
        reasonsOf(row, reader)),
    changes: row.effects.map((effect) => ({
      summary: describeEffect(effect as Effect & LoggedEffect, book, reader),
      cause: causeInWords(withFound(effect.cause, row.texts?.said), book),
    })),
    // What someone did before they were merged can be taken back once the merge is.
    canUndo: Boolean(eventKind(row.kind)?.undoable) && !row.undone && row.own,
  }))
}

/** Takes back what happened, for anyone who did it or a manager. `id` is the new event's own. */
export async function undo(viewer: Viewer, id: Id, targetId: Id): Promise<{ undone: number; unchanged: string[] }> {
  const target = await firstRow(
    db().query<{ prospect_id: Id; actor_id: Id | null; kind: string }>(
      sql`select prospect_id, actor_id, kind from events where id = $1`,
      [targetId],
    ),
  )
  if (!target) throw notFound('event')
  // A caller who has done a to-do has none with the person any more, and may still take it back.
  if (!onlyCalls(viewer) || target.actor_id !== viewer.id) await mustSee(viewer, target.prospect_id)
  if (!eventKind(target.kind)?.undoable) throw new Refusal('refused', 'This cannot be undone')
  if (target.actor_id !== viewer.id && !manages(viewer)) {
    throw new Refusal('not_allowed', 'Only the user who did this, or a manager, can undo it')
  }
  const { effects, skipped: unchanged } = await takeBack(id, targetId, viewer.id)
  return { undone: effects.length, unchanged }
}
