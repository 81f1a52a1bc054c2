import { breadthOfEvent } from '#core/engine/breadth'
import { whyNotEnroll } from '#core/engine/moves/stops'
import { explain } from '#core/engine/explain'
import { fullName } from '#core/engine/state/engineState'
import type { Id, Instant } from '#core/instant'
import { MERGE_COLUMNS, mergeValues, readMergeNames, type MergeRow } from '../../db/mergeFields'
import { allottedVersion, textOfVersion, type Versioned } from '#core/cadence/versions'
import { newId } from '#shared/newId'
import { fillEmail } from '../templates/templates'
import { db } from '../../db/pool'
import { recordEvents, type NewEvent, type RecordHooks } from '../../engine/recordEvents'
import { loadAsked } from '../../engine/loadAsked'
import { mustSeeCadence } from '../access/owned'
import { limitedTo, mustSee, visible } from '../access/access'
import { notFound, refusedBy } from '../access/errors'
import { readerOf, type Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/** How many are enrolled in one transaction, and how many refusals are listed by name. */
const SET = 500
const LISTED = 200

/** Who is meant, as far as the viewer may see them. */
async function meant(viewer: Viewer, who: { prospectIds?: Id[]; importId?: Id }): Promise<Id[]> {
  const { rows } = await db().query<{ id: Id }>(
    sql`
      select p.id
      from prospects p
      where ${visible('p', '$1')}
        and ($2::uuid[] is null or p.id = any($2::uuid[]))
        and ($3::uuid is null or p.import_id = $3::uuid)
      order by p.created_at, p.id
    `,
    [limitedTo(viewer), who.prospectIds ?? null, who.importId ?? null],
  )
  return rows.map((row) => row.id)
}

/** Enrolls people, in sets; who may not be is listed with the reason. With `dryRun` nothing is done but the telling. */
export async function enroll(
  viewer: Viewer,
  cadenceId: Id,
  who: { prospectIds?: Id[]; importId?: Id },
  dryRun: boolean,
) {
  await mustSeeCadence(viewer, cadenceId)
  const ids = await meant(viewer, who)
  const ahead = dryRun ? await lookAhead(viewer, cadenceId, ids) : { senders: [], missing: [] }
  const refused: { prospectId: Id; name: string; why: string }[] = []
  let enrolled = 0
  for (let from = 0; from < ids.length; from += SET) {
    const set = ids.slice(from, from + SET)
    enrolled += dryRun ? await look(cadenceId, set, refused) : await enrollSet(viewer, cadenceId, set, refused)
  }
  return { enrolled, ...ahead, refused: refused.slice(0, LISTED), refusedCount: refused.length }
}

/** For so many people it is looked up what their email lacks. */
const LOOKED_UP = 1_000

interface StepText extends Versioned {
  subject: string
  body: string
  html: string | null
}
interface SenderRow {
  id: Id
  name: string
  people: number
  unowned: number
}

/** Whose email and calls they will be, and which values the emails need and some do not have. */
async function lookAhead(viewer: Viewer, cadenceId: Id, ids: readonly Id[]) {
  const { rows: senders } = await db().query<SenderRow>(
    sql`
      select u.id, u.name, count(*)::int as people, count(*) filter (where p.owner_id is null)::int as unowned
      from prospects p
        join users u on u.id = coalesce(p.owner_id, $2)
      where p.id = any($1::uuid[])
      group by u.id
      order by 3 desc, u.name
    `,
    [ids, viewer.id],
  )
  const { rows: steps } = await db().query<StepText>(
    sql`
      select id, subject, body, html, weight, versions
      from cadence_steps
      where cadence_id = $1 and kind = 'email' and archived_at is null
    `,
    [cadenceId],
  )
  const customFields = await readMergeNames(db())
  const { rows: people } = await db().query<MergeRow & { id: Id }>(
    sql`
      select p.id, ${MERGE_COLUMNS}
      from prospects p
        left join companies c on c.id = p.company_id
        cross join team t
      where p.id = any($1::uuid[])
      limit ${LOOKED_UP}
    `,
    [ids],
  )
  const lacking = new Map<string, number>()
  for (const person of people) {
    const values = mergeValues(person, viewer, customFields)
    const missing = new Set(
      steps.flatMap((step) => fillEmail(textOfVersion(step, allottedVersion(step, person.id)), values).missing),
    )
    for (const field of missing) lacking.set(field, (lacking.get(field) ?? 0) + 1)
  }
  return {
    senders,
    missing: [...lacking].map(([field, count]) => ({ field, people: count })).sort((a, b) => b.people - a.people),
  }
}

async function look(
  cadenceId: Id,
  ids: readonly Id[],
  refused: { prospectId: Id; name: string; why: string }[],
): Promise<number> {
  const event = { kind: 'enrolled', cadenceId } as const
  const { state, playbook: book } = await loadAsked(db(), ids, (one) => breadthOfEvent(event, one))
  const cadence = book.cadences[cadenceId]
  if (!cadence) throw notFound('cadence')
  let may = 0
  for (const prospect of Object.values(state.prospect)) {
    const why = whyNotEnroll(state, book, prospect, cadence)
    if (why) refused.push({ prospectId: prospect.id, name: fullName(prospect), why })
    else may++
  }
  return may
}

async function enrollSet(
  viewer: Viewer,
  cadenceId: Id,
  ids: readonly Id[],
  refused: { prospectId: Id; name: string; why: string }[],
): Promise<number> {
  const events = ids.map((prospectId): NewEvent => ({
    id: newId(),
    kind: 'enrolled',
    prospectId,
    actorId: viewer.id,
    causedByEventId: null,
    cadenceId,
  }))
  const { results, before } = await recordEvents(events)
  for (const { event, problems } of results) {
    if (problems.length) {
      refused.push({
        prospectId: event.prospectId,
        name: fullName(before.prospect[event.prospectId]!),
        why: problems[0]!.message,
      })
    }
  }
  return results.filter((result) => !result.problems.length).length
}

/** Lets one thing happen to one person by someone's hand, and says what it did. Throws what the engine refuses. */
export async function byHand(
  viewer: Viewer,
  event: NewEvent,
  alsoWrite?: RecordHooks['alsoWrite'],
): Promise<{ summary: string }> {
  await mustSee(viewer, event.prospectId)
  const {
    results: [result],
    before,
    after,
    playbook: book,
  } = await recordEvents([event], {
    alsoWrite: async (client, outcome) => {
      const { problems } = outcome.results[0]!
      if (problems.length) throw refusedBy(problems)
      await alsoWrite?.(client, outcome)
    },
  })
  return {
    summary: explain(result!.effects, event.prospectId, before, after, book, readerOf(viewer, before.now)) || 'Done.',
  }
}

/** What can be done by hand with someone who is in a cadence. */
type EnrollmentChange =
  | { kind: 'unenrolled' }
  | { kind: 'stepSkipped' }
  | { kind: 'enrollmentMoved'; stepId: Id | null; dueAt: Instant | null }

/** Takes someone out of a cadence, leaves out the step they are at, or moves them within it. */
export async function changeEnrollment(
  viewer: Viewer,
  change: EnrollmentChange,
  id: Id,
  enrollmentId: Id,
): Promise<{ summary: string }> {
  const row = await firstRow(
    db().query<{ prospect_id: Id }>(sql`select prospect_id from enrollments where id = $1`, [enrollmentId]),
  )
  if (!row) throw notFound('enrollment')
  const about = { id, prospectId: row.prospect_id, actorId: viewer.id, causedByEventId: null }
  return byHand(viewer, { ...about, ...change, enrollmentId })
}
