import { logForEach } from '../../engine/eventLog'
import type { Id } from '#core/instant'
import { newId } from '#shared/newId'
import { transaction } from '../../db/pool'
import { undo as takeBack, UndoRefused } from '../../engine/undo'
import { mustSee } from '../access/access'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'
import { lockBoth, ROWS, type Moved } from './merges'

interface MergeRow {
  primary_id: Id
  duplicate_id: Id
  moved: Moved
  undone: boolean
}

/** Makes two people of one again: what came goes back, unless it has been changed since, which is said. */
export async function undoMerge(
  viewer: Viewer,
  mergeId: Id,
): Promise<{ primaryId: Id; duplicateId: Id; unchanged: string[] }> {
  const done = await transaction(async (client) => {
    const merge = await firstRow(
      client.query<MergeRow>(
        sql`
          select primary_id, duplicate_id, moved, undone_at is not null as undone
          from merges
          where id = $1
          for update
        `,
        [mergeId],
      ),
    )
    if (!merge) throw notFound('merge')
    const { primary_id: primaryId, duplicate_id: duplicateId, moved } = merge
    await mustSee(viewer, primaryId, client).catch(() => {
      throw new Refusal('refused', 'The prospect they were merged into has been merged since; undo that merge first')
    })
    if (merge.undone) throw new Refusal('conflict', 'This merge has already been undone')
    const { primary } = await lockBoth(client, primaryId, duplicateId)
    const summary: string[] = []
    for (const table of ROWS) {
      const { rowCount } = await client.query(
        sql`
          update ${table}
          set prospect_id = $2
          where prospect_id = $1 and id = any($3::uuid[])
        `,
        [primaryId, duplicateId, moved.rows[table] ?? []],
      )
      if ((rowCount ?? 0) < (moved.rows[table]?.length ?? 0)) summary.push(`Some ${table} are no longer there`)
    }
    await client.query(sql`select count_touches(array[$1, $2]::uuid[])`, [primaryId, duplicateId])
    await client.query(
      sql`
        update tasks
        set status = 'open', done_at = null
        where id = any($1::uuid[]) and status = 'cancelled'
      `,
      [moved.contacted ?? []],
    )
    await client.query(sql`update notes set pinned = true where id = any($1::uuid[])`, [moved.unpinned])
    await client.query(sql`update scheduled_actions a set prospect_id = $1 where ref_id = any($2::uuid[])`, [
      duplicateId,
      [...(moved.rows.enrollments ?? []), ...(moved.rows.email_messages ?? []), ...(moved.rows.delayed_actions ?? [])],
    ])
    await client.query(sql`delete from prospect_tags where prospect_id = $1 and tag_id = any($2::uuid[])`, [
      primaryId,
      moved.tags.given,
    ])
    await client.query(
      sql`
        insert into prospect_tags (prospect_id, tag_id)
        select $1, id
        from tags
        where id = any($2::uuid[])
        on conflict do nothing
      `,
      [duplicateId, moved.tags.had],
    )
    await client.query(sql`delete from list_members where prospect_id = $1 and list_id = any($2::uuid[])`, [
      primaryId,
      moved.members.given,
    ])
    await client.query(
      sql`
        insert into list_members (list_id, prospect_id, batch_id)
        select l.id, $1, m.batch_id
        from jsonb_to_recordset($2) as m(list_id uuid, batch_id uuid)
          join lists l on l.id = m.list_id
          left join list_batches a on a.id = m.batch_id
        where m.batch_id is null or a.id is not null
        on conflict do nothing
      `,
      [duplicateId, JSON.stringify(moved.members.had)],
    )
    const back = Object.entries(moved.fields).filter(([name, { after }]) => {
      const same = primary[name] === after
      if (!same) summary.push(`${name.replaceAll('_', ' ').replace(' id', '')} has been changed since and stays`)
      return same
    })
    const custom = Object.entries(moved.custom)
      .filter(([key, value]) => JSON.stringify(primary.custom[key]) === JSON.stringify(value))
      .map(([key]) => key)
    await client.query(
      sql`
        update prospects
        set ${[...back.map(([name], index) => `${name} = $${index + 3}`), 'custom = custom - $2::text[]', 'version = version + 1'].join(', ')}
        where id = $1
      `,
      [primaryId, custom, ...back.map(([, { before }]) => before)],
    )
    await client.query(
      sql`
        update prospects
        set merged_into = null, company_id = $2, version = version + 1
        where id = $1
      `,
      [duplicateId, moved.companyId],
    )
    await client.query(sql`update merges set undone_at = world_now() where id = $1`, [mergeId])
    await logForEach(client, [primaryId, duplicateId], {
      kind: 'mergeUndone',
      actorId: viewer.id,
      payload: { mergeId },
    })
    return { primaryId, duplicateId, unchanged: summary, unenrolled: moved.unenrolled }
  })
  for (const event of done.unenrolled) {
    await takeBack(newId(), event, viewer.id).catch((error: unknown) => {
      if (!(error instanceof UndoRefused)) throw error
      done.unchanged.push('They stay out of a cadence that both were in')
    })
  }
  return { primaryId: done.primaryId, duplicateId: done.duplicateId, unchanged: done.unchanged }
}
