import { stringify } from 'csv-stringify/sync'
import type { z } from 'zod'
import { phoneFor, whyNotInBlock } from '#core/blocks/whoFits'
import { exportJson, exportRows, type ExportedPerson } from '#core/dialing/exportFile'
import { CSV } from '#core/imports/columns'
import type { Id } from '#core/instant'
import { parsePhone } from '#core/text/phone'
import type { CallExport, addExport as addEndpoint } from '#shared/api/blocks/otherDialers'
import { newId } from '#shared/newId'
import { breaksUnique, db, transaction, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { logForEach } from '../../engine/eventLog'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { mustEditBlock, mustSeeBlock } from '../blocks/access'
import { sayBlockChanged } from '../blocks/changes'
import { leaveOut, readWorked, rulesOf } from '../blocks/next'
import { peopleOf, readCandidates, type CandidateRow } from '../blocks/people'
import { addTag } from '../fields/tags'

type Asked = Omit<z.output<typeof addEndpoint.body>, 'id'>

/** How many are looked at together. */
const SET = 1_000

/** Who of a block is still to call, and with nobody: they can be handed to another dialer. */
async function toHandOver(client: Db, blockId: Id): Promise<Id[]> {
  const block = await readWorked(blockId, client)
  const people = await peopleOf(client, blockId, block.sort, block.pass)
  return people
    .filter((one) => one.bead.open && one.dialer === null && (one.takenBy === null || one.stale))
    .map(({ prospectId }) => prospectId)
}

/** The exports of a block, the newest first, and how many could be handed over now. */
export async function listExports(viewer: Viewer, blockId: Id) {
  await mustSeeBlock(viewer, blockId)
  const { rows } = await db().query<CallExport>(
    sql`
      select
        x.id, x.dialer, x.campaign, x.caller_numbers as "callerNumbers", x.message,
        json_build_object('id', u.id, 'name', u.name) as "exportedBy", ms(x.exported_at) as "exportedAt",
        ms(x.ended_at) as "endedAt", p.people, p.back, r.waiting, r.logged, r.known, r.unreadable
      from call_exports x
        join users u on u.id = x.exported_by
        cross join lateral (
          select count(*)::int as people, count(result_at)::int as back
          from call_export_people
          where export_id = x.id
        ) p
        cross join lateral (
          select
            count(*) filter (where status = 'waiting')::int as waiting,
            count(*) filter (where status = 'logged')::int as logged,
            count(*) filter (where status = 'known')::int as known,
            count(*) filter (where status = 'unreadable')::int as unreadable
          from call_results
          where export_id = x.id
        ) r
      where x.block_id = $1
      order by x.exported_at desc, x.id
    `,
    [blockId],
  )
  const { rows: used } = await db().query<{ dialer: string }>(
    sql`
      select dialer
      from call_exports
      group by 1
      order by max(exported_at) desc
      limit 20
    `,
  )
  const ids = await toHandOver(db(), blockId)
  return { exports: rows, toExport: ids.length, dialers: used.map(({ dialer }) => dialer) }
}

/** The numbers to call from, in E.164; throws at the first that is none. */
async function readCallerNumbers(numbers: readonly string[]): Promise<string[]> {
  const team = await firstRow(db().query<{ country: string }>(sql`select country from team`))
  return numbers.map((text, index) => {
    const number = parsePhone(text, team!.country)?.number
    const message = 'Enter a valid phone number'
    if (!number) throw new Refusal('invalid', message, [{ field: `callerNumbers.${index}`, message }])
    return number
  })
}

/** Puts tags on people, by name; each change of a person is an event. */
async function tagAll(client: Db, viewer: Viewer, ids: readonly Id[], names: readonly string[]): Promise<void> {
  for (const name of [...new Set(names)].sort()) {
    const { id } = await addTag(name, client)
    const { rows } = await client.query<{ id: Id }>(
      sql`
        insert into prospect_tags (prospect_id, tag_id)
        select p.id, $2
        from unnest($1::uuid[]) as p(id)
        on conflict do nothing
        returning prospect_id as id
      `,
      [ids, id],
    )
    const payload = { added: [id], removed: 0 }
    const tagged = rows.map((row) => row.id)
    await logForEach(client, tagged, { kind: 'tagsChanged', actorId: viewer.id, payload })
  }
}

/**
 * Hands those of a block who are still to call to another dialer: nobody here calls them until a result comes back or
 * the export is ended. Who may not be called is left out of the block, with the reason. Asked twice with the same id,
 * it is done once.
 */
export async function addExport(viewer: Viewer, blockId: Id, { id, ...asked }: Asked & { id: Id }) {
  await mustEditBlock(viewer, blockId)
  const callerNumbers = await readCallerNumbers(asked.callerNumbers)
  try {
    return await transaction(async (client) => {
      const row = await firstRow(
        client.query<{ campaign: string; closed: boolean }>(
          sql`select campaign, closed_at is not null as closed from call_blocks where id = $1 for no key update`,
          [blockId],
        ),
      )
      if (row!.closed) throw new Refusal('refused', 'This call block is closed')
      const rules = rulesOf(await readWorked(blockId, client))
      const ids = await toHandOver(client, blockId)
      const fit: { one: CandidateRow; phoneId: Id }[] = []
      const reasons = new Map<Id, string>()
      for (let from = 0; from < ids.length; from += SET) {
        for (const one of await readCandidates(client, ids.slice(from, from + SET), blockId)) {
          const why = whyNotInBlock(one, rules)
          const phone = phoneFor(one.phones, rules)
          if (why === null && phone) fit.push({ one, phoneId: phone.id })
          else reasons.set(one.id, why ?? 'No number to call')
        }
      }
      if (!fit.length) throw new Refusal('refused', 'Nobody of this call block is left to hand over')
      await leaveOut(client, blockId, reasons)
      await client.query(
        sql`
          insert into call_exports (id, block_id, dialer, campaign, caller_numbers, message, exported_by, exported_at)
          values ($1, $2, $3, $4, $5, $6, $7, world_now())
        `,
        [id, blockId, asked.dialer, row!.campaign, callerNumbers, asked.message, viewer.id],
      )
      const people = fit.map(({ one }) => one.id)
      await client.query(
        sql`
          insert into call_export_people (id, export_id, prospect_id, phone_id, number, position)
          select u.id, $1, u.prospect_id, n.id, n.number, u.place
          from unnest($2::uuid[], $3::uuid[], $4::uuid[]) with ordinality as u(id, prospect_id, phone_id, place)
            join phones n on n.id = u.phone_id
        `,
        [id, people.map(() => newId()), people, fit.map(({ phoneId }) => phoneId)],
      )
      await client.query(
        sql`
          update call_block_people
          set export_id = $2, taken_by = null, taken_at = null
          where block_id = $1 and prospect_id = any($3::uuid[])
        `,
        [blockId, id, people],
      )
      await logForEach(client, people, {
        kind: 'sentToDialer',
        actorId: viewer.id,
        payload: { blockId, exportId: id },
      })
      await tagAll(client, viewer, people, asked.tags)
      await sayBlockChanged(blockId, client)
      return { id, people: people.length, skipped: reasons.size }
    })
  } catch (error) {
    if (!breaksUnique(error, 'call_exports_pkey')) throw error
    throw new Refusal('already_done', 'They have been handed over already')
  }
}

/** The block an export belongs to; throws not_found where the viewer does not see it. */
export async function blockOfExport(viewer: Viewer, exportId: Id, mustEdit: boolean): Promise<Id> {
  const row = await firstRow(
    db().query<{ blockId: Id }>(sql`select block_id as "blockId" from call_exports where id = $1`, [exportId]),
  )
  if (!row) throw notFound('export')
  await (mustEdit ? mustEditBlock : mustSeeBlock)(viewer, row.blockId)
  return row.blockId
}

/** The people of an export as a file: those who have not been erased since. */
export async function exportFile(viewer: Viewer, exportId: Id, format: 'csv' | 'json'): Promise<string> {
  await blockOfExport(viewer, exportId, true)
  const about = await firstRow(
    db().query<{ campaign: string; callerNumbers: string[]; message: string }>(
      sql`select campaign, caller_numbers as "callerNumbers", message from call_exports where id = $1`,
      [exportId],
    ),
  )
  const { rows: people } = await db().query<ExportedPerson>(
    sql`
      select
        x.id, x.number, p.first_name as "firstName", p.last_name as "lastName", p.title, c.name as company,
        p.time_zone as "timeZone"
      from call_export_people x
        join prospects p on p.id = x.prospect_id
        left join companies c on c.id = p.company_id
      where x.export_id = $1 and x.number <> ''
      order by x.position
    `,
    [exportId],
  )
  const whole = { ...about!, people }
  return format === 'csv' ? `\uFEFF${stringify(exportRows(whole), CSV)}` : exportJson(whole)
}

/** Those of an export without a result are called here again. */
export async function endExport(viewer: Viewer, exportId: Id): Promise<{ people: number }> {
  await blockOfExport(viewer, exportId, true)
  return transaction(async (client) => {
    await client.query(sql`update call_exports set ended_at = coalesce(ended_at, world_now()) where id = $1`, [
      exportId,
    ])
    const { rowCount } = await client.query(
      sql`
        update call_block_people
        set export_id = null
        where export_id = $1
      `,
      [exportId],
    )
    return { people: rowCount ?? 0 }
  })
}
