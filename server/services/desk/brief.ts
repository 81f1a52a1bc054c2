import { breadthOfActions, breadthOnTheWay, joined, type Breadth } from '#core/engine/breadth'
import { momentInWords } from '#core/engine/explain'
import { planFrom } from '#core/cadence/plan'
import { senderPlace } from '#core/calendar/sendingWindow'
import { cadenceOf } from '#core/engine/moves/progress'
import { stepsFrom, stepsTo } from '#core/cadence/route'
import { useOf } from '#core/engine/taskOutcome'
import { placeOf, type EngineState } from '#core/engine/state/engineState'
import type { Playbook } from '#core/engine/state/playbook'
import type { Knot } from '#core/queue/thread'
import { whyInWords } from '#core/queue/why'
import type { CustomMergeField } from '#core/text/merge'
import { MERGE_FIELDS } from '#core/text/mergeFields'
import type { Id, Instant } from '#core/instant'
import type { Brief, SlopeStep } from '#shared/api/desk/desk'
import { readMergeNames } from '../../db/mergeFields'
import { db } from '../../db/pool'
import { load } from '../../engine/load'
import { withFacts } from '../../engine/facts'
import { currentPlaybook, latestPlaybook, playbook } from '../../engine/playbook'
import { mustSee } from '../access/access'
import { contentOf, scriptOfBlock } from './content'
import { choices, COLLEAGUES_SHOWN, offered, taskForCall } from './outcomeChoices'
import { callWithoutOutcome } from './outcomes'
import { meetingOf } from './meetings'
import { missingIn } from '../email/messages'
import { notesOf } from '../prospects/notes'
import { env } from '../../environment'
import { textsOf } from '../texts/send'
import { lastFormOf } from '../forms/lastForm'
import { touchGoals } from '../lists/touchGoals'
import { describe } from '../prospects/prospects'
import { readerOf, type Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

const WORDS: Record<string, string> = {
  email: 'Email sent',
  reply: 'Replied',
  call: 'Call',
  task: 'Task done',
  meeting: 'Meeting',
  text: 'Text',
  social: 'Social touch',
  visit: 'Visit',
}

interface Touched {
  at: Instant
  kind: Knot['kind']
  outcome: string | null
  opened: boolean | null
  enrollmentId: Id | null
  stepId: Id | null
}

async function touchesOf(prospectId: Id): Promise<Touched[]> {
  const { rows } = await db().query<Touched>({
    name: 'touches-of',
    text: sql`
      select
        ms(t.at) as at, t.kind, o.name as outcome, m.opened_at is not null as opened,
        t.enrollment_id as "enrollmentId", t.step_id as "stepId"
      from touches t
        left join outcomes o on o.id = t.outcome_id
        left join email_messages m on m.id = t.message_id
      where t.prospect_id = $1
      order by t.at desc
      limit 200
    `,
    values: [prospectId],
  })
  return rows
}

const inWords = (touch: Touched) => {
  const plain = touch.kind === 'email' && touch.opened ? 'Email, opened' : WORDS[touch.kind]!
  return touch.outcome ? `${plain}, ${touch.outcome.toLowerCase()}` : plain
}

/**
 * The climb of the person's open enrollment (the task's own first): what was done with what came of it, what is now,
 * what is ahead with real dates.
 */
function slopeOf(
  prospectId: Id,
  enrollmentId: Id | null,
  state: EngineState,
  book: Playbook,
  touches: readonly Touched[],
  viewer: Viewer,
): Brief['slope'] {
  const mine = Object.values(state.enrollment).filter((row) => row.prospectId === prospectId && row.status !== 'ended')
  const enrollment = mine.find((row) => row.id === enrollmentId) ?? mine[0]
  const cadence = enrollment && cadenceOf({ playbook: book }, enrollment)
  if (!enrollment || !cadence) return null
  const prospect = state.prospect[prospectId]!
  const step = cadence.steps.find(({ id }) => id === enrollment.stepId)
  const where = {
    teamHours: book.callHours,
    place: placeOf(prospect),
    sender: senderPlace(book, prospect.ownerId ?? enrollment.byId),
    holidays: book.holidays,
  }
  // The way behind a branch that lies ahead is not known yet: the one for everyone else is drawn.
  const route = step ? stepsFrom(cadence, step) : []
  const next = route[1]
  const ahead = next ? planFrom(cadence, next.id, Math.max(state.now, enrollment.dueAt ?? 0), where) : []
  const before = step ? stepsTo(cadence, step).slice(0, -1) : []
  const done = cadence.steps.filter(
    (one) => before.includes(one) || touches.some((row) => row.enrollmentId === enrollment.id && row.stepId === one.id),
  )
  const passed = done.filter((one) => one.kind !== 'branch' && !route.includes(one))
  const here = passed.length
  const steps = [...passed, ...route].map((step, index): SlopeStep => {
    const base = { stepId: step.id, kind: step.kind, name: step.name }
    const touch = touches.find((row) => row.enrollmentId === enrollment.id && row.stepId === step.id)
    if (index < here) {
      return {
        ...base,
        status: touch ? 'done' : 'left',
        at: touch?.at ?? null,
        summary: touch ? inWords(touch) : 'left out',
      }
    }
    if (index === here) {
      const mail = Object.values(state.emailMessage).find(
        (row) => row.enrollmentId === enrollment.id && row.stepId === step.id && row.status === 'queued',
      )
      const at = enrollment.dueAt ?? mail?.sendAt ?? null
      const isAhead = at !== null && at > state.now
      const moment = isAhead ? momentInWords(at, readerOf(viewer, state.now)) : 'now'
      return {
        ...base,
        status: 'now',
        at: at ?? state.now,
        summary: enrollment.status === 'paused' ? 'waits for your call back' : moment,
      }
    }
    const planned = ahead.find((row) => row.stepId === step.id)
    return { ...base, status: 'ahead', at: planned?.at ?? null, summary: planned?.moved ?? null }
  })
  return { cadence: cadence.name, steps }
}

/** Everything needed to work one person. `taskId` names the piece of work; without it, what a call now would answer. */
export async function brief(
  viewer: Viewer,
  prospectId: Id,
  taskId: Id | null,
  madeAs: 'elsewhere' | 'incoming' | null = null,
  blockId: Id | null = null,
): Promise<Brief> {
  await mustSee(viewer, prospectId)
  const [{ state: loaded, playbookVersion, unread }, goals, called] = await Promise.all([
    loadWithColleagues(prospectId),
    touchGoals(viewer, [prospectId]),
    callWithoutOutcome(viewer, prospectId),
  ])
  const book = await playbook(db(), playbookVersion)
  const state = { ...(await withFacts(db(), loaded, [prospectId], breadthOfOutcomes(book), book)), touchGoals: goals }
  const open = taskId ?? taskForCall(prospectId, state, book)
  const task = open ? (state.task[open] ?? null) : null
  const live = task?.status === 'open' && task.prospectId === prospectId ? task : null
  const origin = madeAs ?? (called && 'here')
  // Once there was a call, or in a block of calls, what came of it is asked, whatever else is to do with them.
  const work = origin || blockId ? 'call' : useOf(live?.kind ?? null)
  const touches = await touchesOf(prospectId)
  const slope = slopeOf(prospectId, live?.enrollmentId ?? null, state, book, touches, viewer)
  const step = slope && live?.stepId ? slope.steps.findIndex((row) => row.stepId === live.stepId) + 1 : null
  const attempts = Object.values(state.touch).filter(
    (row) => row.prospectId === prospectId && row.countsAs === 'attempt',
  ).length
  const everReached = Object.values(state.touch).some(
    (row) => row.prospectId === prospectId && row.countsAs === 'conversation',
  )
  const [prospect, content, notes, mail, held, texts, form] = await Promise.all([
    describe(viewer, prospectId, state, book),
    blockId ? scriptOfBlock(blockId, prospectId, viewer) : contentOf(live, prospectId, viewer),
    notesOf(viewer, prospectId),
    mailOf(prospectId),
    heldMail(live?.messageId ?? null),
    textsOf(prospectId),
    lastFormOf(prospectId),
  ])
  return {
    prospect,
    script: content.script,
    message: content.message,
    notes,
    mail,
    texts,
    form,
    textGateway: env().textGateway !== null,
    held,
    slope,
    now: state.now,
    task: live && { id: live.id, kind: live.kind, title: live.title, dueAt: live.dueAt, messageId: live.messageId },
    why: live
      ? whyInWords(
          {
            kind: live.kind,
            title: live.title,
            dueAt: live.dueAt,
            step,
            steps: slope?.steps.length ?? null,
            attempts,
            everReached,
          },
          state.now,
        )
      : 'nothing is due',
    touches: touches.map((row) => ({ at: row.at, kind: row.kind, summary: inWords(row) })),
    work,
    outcomes: choices({ prospectId, taskId: live?.id ?? null, use: work, call: origin }, state, book, viewer, unread),
    meeting: live?.kind === 'meeting_result' ? meetingOf(prospectId, live.dueAt, state, book, viewer) : null,
    call: called && { id: called.id, startedAt: called.startedAt },
  }
}

/** What must be known to say what each outcome would do. */
function breadthOfOutcomes(book: Playbook): Breadth {
  const actions = offered(book).flatMap((outcome) => outcome.actions)
  return joined([breadthOfActions(actions, book), breadthOnTheWay(book)])
}

/** The person with their colleagues, but for those beyond what is shown: `unread` says how many these are. */
async function loadWithColleagues(prospectId: Id) {
  const there = await firstRow(
    db().query<{ ids: Id[]; count: number }>({
      name: 'with-colleagues',
      text: sql`
        with there as materialized (
          select o.id
          from prospects p
            join prospects o on o.company_id = p.company_id
          where p.id = $1 and o.id <> p.id and o.merged_into is null
        )
        select
          (select count(*) from there) as count,
          array(select id from there order by id limit ${COLLEAGUES_SHOWN}) as ids
      `,
      values: [prospectId],
    }),
  )
  // Outcomes that ask for tags, lists or fields, or change them, are shown with what they do.
  const book = latestPlaybook() ?? (await currentPlaybook(db()))
  const { records } = breadthOfOutcomes(book)
  const loaded = await load(db(), [prospectId, ...there!.ids], [], { colleagues: false, records })
  return { ...loaded, unread: there!.count - there!.ids.length }
}

async function mailOf(prospectId: Id): Promise<Brief['mail']> {
  const { rows } = await db().query<Brief['mail'][number]>(
    sql`
      select *
      from (
        select
          id, 'out' as direction, ms(coalesce(sent_at, send_at)) as at, coalesce(subject, '') as subject,
          coalesce(body, '') as body, opened_at is not null as opened
        from email_messages
        where prospect_id = $1 and status in ('sent', 'unconfirmed')
        union all
        select id, 'in', ms(received_at), subject, body, true
        from replies
        where prospect_id = $1
      ) m
      order by at desc
      limit 30
    `,
    [prospectId],
  )
  return rows
}

async function heldMail(messageId: Id | null): Promise<Brief['held']> {
  if (!messageId) return null
  const row = await firstRow(
    db().query<Omit<NonNullable<Brief['held']>, 'missing'>>(
      sql`
        select m.id, coalesce(m.subject, s.subject, '') as subject, coalesce(m.last_error, '') as "lastError", m.status
        from email_messages m
          left join cadence_steps s on s.id = m.step_id
        where m.id = $1 and m.status in ('held', 'unconfirmed', 'failed')
      `,
      [messageId],
    ),
  )
  if (!row) return null
  const own = await readMergeNames(db())
  const missing = row.status === 'held' ? await missingIn(messageId) : []
  return {
    ...row,
    missing: missing.map((name) => ({
      name,
      label: own.get(name)?.name ?? MERGE_FIELDS[name as keyof typeof MERGE_FIELDS] ?? name.replaceAll('_', ' '),
      field: fieldOf(name, own),
    })),
  }
}

const PERSON_FIELDS: Readonly<Record<string, string>> = {
  first_name: 'firstName',
  last_name: 'lastName',
  title: 'title',
  city: 'city',
}

/**
 * Where a merge field of a person is filled in: their own, or "custom:" and the id of a custom field; null where it is
 * none of theirs.
 */
function fieldOf(name: string, own: ReadonlyMap<string, CustomMergeField>): string | null {
  const custom = own.get(name)
  if (custom) return custom.of === 'prospect' ? `custom:${custom.id}` : null
  return PERSON_FIELDS[name] ?? null
}
