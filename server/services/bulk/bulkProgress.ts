import { EMAIL_TYPES } from '#core/enumerations'
import { breadthOfEvent, joined } from '#core/engine/breadth'
import { react } from '#core/engine/react'
import { whyNoMailOfMany, whyNotEnroll, whyNotPlan } from '#core/engine/moves/stops'
import type { Playbook } from '#core/engine/state/playbook'
import { companyOf, fullName, openEnrollments, type Prospect, type EngineState } from '#core/engine/state/engineState'
import type { Id } from '#core/instant'
import type { BulkAction } from '#shared/api/bulk'
import { newId } from '#shared/newId'
import { MERGE_COLUMNS, mergeValues, readMergeNames, type MergeRow } from '../../db/mergeFields'
import { db, type Db } from '../../db/pool'
import { recordEvents, type NewEvent } from '../../engine/recordEvents'
import { loadAsked } from '../../engine/loadAsked'
import { manages } from '#core/roles'
import { mergeFieldsInWords } from '#core/text/mergeFields'
import { mustSeeCadence } from '../access/owned'
import { mustBeAbleTo } from '../access/access'
import { checkActionsWithoutCall } from '../actions/checkActions'
import { emailProblems, fillEmail } from '../templates/templates'
import { checkToDo, writeToDoContent } from '../templates/toDoContent'
import type { PlainAction } from './plainAction'
import { Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/** Changes of people's progress: each goes through the engine, for one person as for many. */
export type ProgressAction = Exclude<BulkAction, PlainAction>

/** How many are looked at or changed in one go. */
export const SET = 500

/** Checks what an action names. Throws at the part that is wrong. */
export async function checkProgress(viewer: Viewer, action: ProgressAction, client: Db): Promise<void> {
  if (action.type === 'enroll') {
    await mustSeeCadence(viewer, action.cadenceId, false, client)
  }
  if (action.type === 'stage') {
    const stage = await firstRow(
      client.query(sql`select from stages where id = $1 and archived_at is null`, [action.to]),
    )
    if (!stage) {
      throw new Refusal('invalid', 'There is no such stage', [
        { field: 'action.to', message: 'There is no such stage' },
      ])
    }
  }
  if (action.type === 'actions') {
    if (!manages(viewer)) {
      throw new Refusal('not_allowed', 'Only a manager can do this with many at once', [
        { field: 'action.type', message: 'Only a manager can do this with many at once' },
      ])
    }
    await checkActionsWithoutCall(action.actions, 'action.actions')
  }
  if (action.type === 'plan') {
    if (action.ownerId) await mustBeAbleTo(action.ownerId, action.task, client)
    await checkToDo(action.task, action, 'action.', client)
  }
  if (action.type === 'email') {
    const { faults: broken, problems } = await emailProblems(action, client)
    const faults = [
      ...broken.map(({ field, line, message }) => ({ field, message: `Line ${line}: ${message}` })),
      ...problems,
    ].map(({ field, message }) => ({ field: `action.${field}`, message }))
    if (faults.length) throw new Refusal('invalid', faults.map((fault) => fault.message).join('. '), faults)
  }
}

/** Why the action leaves someone out before the engine is asked, as SQL over the filter's tables. */
export function progressReason(action: ProgressAction, parameter: (value: unknown) => string): string {
  return action.type === 'email'
    ? sql`
      case
        when not ${parameter(action.kind)}::text = any(p.email_types) then
          ${parameter(`takes no ${EMAIL_TYPES[action.kind]} email`)}::text
      end
    `
    : 'null::text'
}

/** What must be known to say whom an action leaves out. */
const breadthOf = (action: ProgressAction) => (book: Playbook) => {
  if (action.type === 'actions') return breadthOfEvent({ kind: 'actionsRun', actions: action.actions }, book)
  return action.type === 'enroll' ? breadthOfEvent({ kind: 'enrolled', cadenceId: action.cadenceId }, book) : joined([])
}

/** Why the engine would leave someone out now; null for those whom it would touch. */
function why(action: ProgressAction, state: EngineState, prospect: Prospect, book: Playbook): string | null {
  switch (action.type) {
    case 'enroll': {
      const cadence = book.cadences[action.cadenceId]
      return cadence ? whyNotEnroll(state, book, prospect, cadence) : 'The cadence no longer exists'
    }
    case 'leaveCadences':
      if (leaving(action, state, prospect).length) return null
      return action.cadenceId ? 'is not in it' : 'is in no cadence'
    case 'stage': {
      if (prospect.stageId === action.to) return 'is there already'
      const event = {
        id: 'look',
        at: state.now,
        prospectId: prospect.id,
        actorId: null,
        causedByEventId: null,
        kind: 'stageMoved' as const,
        to: action.to,
        reason: action.reason,
        note: null,
        override: action.override,
      }
      return react(event, state, book, () => 'new').problems[0]?.message ?? null
    }
    case 'work':
      return prospect.status === action.status ? 'is so already' : null
    case 'stop':
      return (action.channel === 'email' || prospect.stopCall) && (action.channel === 'call' || prospect.stopEmail)
        ? 'is stopped already'
        : null
    case 'actions': {
      const about = { id: 'look', at: state.now, actorId: null, causedByEventId: null }
      const { actions } = action
      const event = { ...about, kind: 'actionsRun' as const, prospectId: prospect.id, actionId: 'look', actions }
      let made = 0
      return react(event, state, book, () => `new-${made++}`).problems[0]?.message ?? null
    }
    case 'plan':
      return whyNotPlan(state, prospect, action.task)
    case 'email':
      return whyNoMailOfMany(state, prospect)
  }
}

/** A reason without the names in it, so that those who are left out for one reason stand together. */
function inGeneral(reason: string | null, state: EngineState, prospect: Prospect): string | null {
  const company = companyOf(state, prospect)
  const named =
    company && reason?.startsWith(`${company.name} `)
      ? `Their company ${reason.slice(company.name.length + 1)}`
      : reason
  const own = `${fullName(prospect)} is `
  return named?.startsWith(own) ? `Is ${named.slice(own.length)}` : named
}

function leaving(action: Extract<ProgressAction, { type: 'leaveCadences' }>, state: EngineState, prospect: Prospect) {
  return openEnrollments(state, prospect.id).filter(
    (enrollment) => !action.cadenceId || enrollment.cadenceId === action.cadenceId,
  )
}

/** Of an email to many: who lacks a value that it needs, with the reason; it could not go to them. */
async function lackingIn(action: ProgressAction, ids: readonly Id[], client: Db): Promise<Map<Id, string>> {
  if (action.type !== 'email') return new Map()
  const own = await readMergeNames(client)
  const { rows } = await client.query<MergeRow & { id: Id; sender: string }>(
    sql`
      select p.id, ${MERGE_COLUMNS}
      from prospects p
        left join companies c on c.id = p.company_id
        cross join team t
      where p.id = any($1::uuid[])
    `,
    [ids],
  )
  return new Map(
    rows.flatMap((row) => {
      const values = mergeValues(row, { name: 'sender' }, own)
      const missing = [...fillEmail(action, values).missing]
      return missing.length ? [[row.id, `lacks ${mergeFieldsInWords(missing, 'and')}`]] : []
    }),
  )
}

/** Looks at people as they are now: why each is left out, or null. */
export async function lookAt(
  action: ProgressAction,
  ids: readonly Id[],
  client: Db = db(),
): Promise<Map<Id, string | null>> {
  const found = new Map<Id, string | null>()
  for (let from = 0; from < ids.length; from += SET) {
    const { state, playbook: book } = await loadAsked(client, ids.slice(from, from + SET), breadthOf(action))
    const lacking = await lackingIn(action, Object.keys(state.prospect), client)
    for (const prospect of Object.values(state.prospect)) {
      found.set(
        prospect.id,
        inGeneral(why(action, state, prospect, book), state, prospect) ?? lacking.get(prospect.id) ?? null,
      )
    }
  }
  return found
}

/** What became of someone: why they were left out, or the events it was done by. */
export interface Became {
  reason: string | null
  events: Id[]
}

/**
 * Lets it happen to a set of people, in one transaction; `settle` is called inside it with what became of each.
 */
export async function tellMany(
  actionId: Id,
  action: ProgressAction,
  userId: Id,
  ids: readonly Id[],
  settle: (client: Db, became: Map<Id, Became>) => Promise<void>,
): Promise<void> {
  const { state, playbook: book } = await loadAsked(db(), ids, breadthOf(action))
  const lacking = await lackingIn(action, ids, db())
  const events: NewEvent[] = []
  const before = new Map<Id, string>()
  for (const id of ids) {
    const prospect = state.prospect[id]
    const reason = prospect
      ? (inGeneral(why(action, state, prospect, book), state, prospect) ?? lacking.get(id) ?? null)
      : 'no longer exists'
    if (reason) before.set(id, reason)
    else events.push(...tellings(actionId, action, userId, state, prospect!))
  }
  const all = (results: readonly { event: { id: Id; prospectId: Id }; problems: readonly { message: string }[] }[]) => {
    const became = new Map<Id, Became>([...before].map(([id, reason]) => [id, { reason, events: [] }]))
    for (const { event, problems } of results) {
      const one = became.get(event.prospectId) ?? { reason: null, events: [] }
      became.set(
        event.prospectId,
        problems.length ? { ...one, reason: problems[0]!.message } : { ...one, events: [...one.events, event.id] },
      )
    }
    return became
  }
  await recordEvents(events, {
    extraIds: ids,
    alsoWrite: async (client, { results }) => {
      if (action.type === 'email') {
        const sent = results.flatMap(({ event, problems }) =>
          event.kind === 'emailWritten' && !problems.length ? [event.messageId] : [],
        )
        await client.query(
          sql`
            update email_messages
            set subject = $2, body = $3, email_type = $4, html = $5, attachments = $6
            where id = any($1::uuid[])
          `,
          [sent, action.subject, action.body, action.kind, action.html, action.attachments],
        )
      }
      if (action.type === 'plan') await writeToDoContent(client, actionId, action.task, action, results)
      await settle(client, all(results))
    },
  })
}

function tellings(
  actionId: Id,
  action: ProgressAction,
  userId: Id,
  state: EngineState,
  prospect: Prospect,
): NewEvent[] {
  const about = { prospectId: prospect.id, actorId: userId, causedByEventId: null }
  const id = newId()
  switch (action.type) {
    case 'enroll':
      return [{ ...about, id, kind: 'enrolled', cadenceId: action.cadenceId, startAt: action.startAt ?? null }]
    case 'leaveCadences':
      return leaving(action, state, prospect).map((enrollment) => ({
        ...about,
        id: newId(),
        kind: 'unenrolled',
        enrollmentId: enrollment.id,
      }))
    case 'stage':
      return [
        {
          ...about,
          id,
          kind: 'stageMoved',
          to: action.to,
          reason: action.reason,
          note: null,
          override: action.override,
        },
      ]
    case 'work':
      return [{ ...about, id, kind: 'prospectStatusSet', to: action.status, reason: action.reason ?? null }]
    case 'actions':
      return [{ ...about, id, kind: 'actionsRun', actionId, actions: action.actions }]
    case 'stop':
      return [{ ...about, id, kind: 'stopSet', channel: action.channel, on: true }]
    case 'plan':
      return [
        {
          ...about,
          id,
          kind: 'taskPlanned',
          task: action.task,
          title: action.title,
          dueAt: action.dueAt,
          ownerId: action.ownerId,
        },
      ]
    case 'email':
      return [
        {
          ...about,
          id,
          kind: 'emailWritten',
          messageId: newId(),
          taskId: null,
          many: { sendAt: action.sendAt ?? state.now },
        },
      ]
  }
}

/** How many readers an email is shown for before it goes. */
const EXAMPLES = 10

/** For mail: how many of those who would get it are customers, and the mail as the first of them would read it. */
export async function mailToMany(viewer: Viewer, action: Extract<BulkAction, { type: 'email' }>, ids: readonly Id[]) {
  const counted = await firstRow(
    db().query<{ customers: number }>(
      sql`
        select count(*) filter (where c.status = 'customer') as customers
        from prospects p
          left join companies c on c.id = p.company_id
        where p.id = any($1::uuid[])
      `,
      [ids],
    ),
  )
  const { rows } = await db().query<MergeRow & { id: Id; name: string }>(
    sql`
      select p.id, btrim(p.first_name || ' ' || p.last_name) as name, ${MERGE_COLUMNS}
      from prospects p
        left join companies c on c.id = p.company_id
        cross join team t
      where p.id = any($1::uuid[])
      order by array_position($1::uuid[], p.id)
    `,
    [ids.slice(0, EXAMPLES)],
  )
  const counts = { customers: counted!.customers, prospects: ids.length - counted!.customers }
  const own = await readMergeNames(db())
  const examples = rows.map((row) => {
    const values = mergeValues(row, viewer, own)
    const { missing: _missing, ...filled } = fillEmail(action, values)
    return { id: row.id, name: row.name, ...filled }
  })
  return { ...counts, examples }
}
