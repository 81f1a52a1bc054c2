import { logEvent } from '../../engine/eventLog'
import type { Id } from '#core/instant'
import { newId } from '#shared/newId'
import { playbookChanged } from '../../engine/playbook'
import { breaksUnique, db, transaction, type Db } from '../../db/pool'
import { limitedTo, mustSee, visible } from '../access/access'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/** The tags by name, each with how many people the viewer sees who have it. */
export async function listTags(viewer: Viewer) {
  const { rows } = await db().query<{ id: Id; name: string; people: number }>(
    sql`
      select
        t.id, t.name,
        (
          select count(*)
          from prospect_tags x
            join prospects p on p.id = x.prospect_id
          where x.tag_id = t.id and ${visible('p', '$1')}
        ) as people
      from tags t
      order by lower(t.name)
    `,
    [limitedTo(viewer)],
  )
  return { tags: rows }
}

/** Makes a tag, or gives back the one of that name, whatever its case. */
export async function addTag(name: string, client: Db = db()): Promise<{ id: Id; known: boolean }> {
  const id = newId()
  const row = await firstRow(
    client.query<{ id: Id }>(
      sql`
        insert into tags (id, name, created_at)
        values ($1, $2, world_now())
        on conflict (lower(name)) do update set name = tags.name
        returning id
      `,
      [id, name.replace(/\s+/g, ' ')],
    ),
  )
  const known = row!.id !== id
  // Actions speak of tags by the names that the playbook holds.
  if (!known) await playbookChanged(client)
  return { id: row!.id, known }
}

async function mustBe(id: Id, client: Db): Promise<void> {
  const { rowCount } = await client.query(sql`select from tags where id = $1 for update`, [id])
  if (!rowCount) throw notFound('tag')
}

/** Gives a tag another name. Two tags of one name are to be merged instead. */
export async function renameTag(id: Id, name: string): Promise<void> {
  try {
    await transaction(async (client) => {
      const { rowCount } = await client.query(sql`update tags set name = $2 where id = $1`, [id, name])
      if (!rowCount) throw notFound('tag')
      await playbookChanged(client)
    })
  } catch (error) {
    if (breaksUnique(error, 'tags_by_name')) {
      throw new Refusal('conflict', 'There is already a tag with this name. Merge them instead', [
        { field: 'name', message: 'There is already a tag with this name. Merge them instead' },
      ])
    }
    throw error
  }
}

/**
 * Merges a tag into another. Filters that ask for the one that is gone say so from then on. Gives how many people had
 * it.
 */
export async function mergeTag(id: Id, into: Id): Promise<{ people: number }> {
  if (id === into) {
    throw new Refusal('invalid', 'Choose another tag', [{ field: 'into', message: 'Choose another tag' }])
  }
  return transaction(async (client) => {
    for (const one of [id, into].sort()) await mustBe(one, client)
    const { rowCount } = await client.query(
      sql`
        insert into prospect_tags (prospect_id, tag_id)
        select prospect_id, $2
        from prospect_tags
        where tag_id = $1
        on conflict do nothing
      `,
      [id, into],
    )
    const had = await firstRow(
      client.query<{ count: number }>(sql`select count(*) as count from prospect_tags where tag_id = $1`, [id]),
    )
    await client.query(sql`delete from tags where id = $1`, [id])
    // Outcomes that changed it change the other one, and lists that asked for it ask for that.
    await client.query(
      sql`
        update outcomes
        set actions = replace(actions::text, $1, $2)::jsonb
        where actions::text like '%' || $1 || '%'
      `,
      [id, into],
    )
    await playbookChanged(client)
    await client.query(
      sql`
        update lists
        set filter = replace(filter::text, $1, $2)::jsonb, version = version + 1
        where filter::text like '%' || $1 || '%'
      `,
      [id, into],
    )
    return { people: had!.count || rowCount || 0 }
  })
}

/** Removes a tag from everyone. */
export async function removeTag(id: Id): Promise<{ people: number }> {
  return transaction(async (client) => {
    await mustBe(id, client)
    const had = await firstRow(
      client.query<{ count: number }>(sql`select count(*) as count from prospect_tags where tag_id = $1`, [id]),
    )
    await client.query(sql`delete from tags where id = $1`, [id])
    await playbookChanged(client)
    return { people: had!.count }
  })
}

/**
 * Puts tags on a person and takes others off, by name; gives those they have then. What was done is kept in the
 * event log.
 */
export async function setTags(
  viewer: Viewer,
  prospectId: Id,
  add: readonly string[],
  remove: readonly string[],
): Promise<{ tags: { id: Id; name: string }[] }> {
  return transaction(async (client) => {
    await mustSee(viewer, prospectId, client)
    const ids: Id[] = []
    for (const name of [...new Set(add)].sort()) ids.push((await addTag(name, client)).id)
    await client.query(
      sql`
        insert into prospect_tags (prospect_id, tag_id)
        select $1, id
        from unnest($2::uuid[]) as t(id)
        on conflict do nothing
      `,
      [prospectId, ids],
    )
    await client.query(
      sql`
        delete from prospect_tags x
        using tags t
        where x.prospect_id = $1
          and t.id = x.tag_id
          and lower(t.name) = any(select lower(name) from unnest($2::text[]) as n(name))
      `,
      [prospectId, remove],
    )
    await logEvent(client, {
      kind: 'tagsChanged',
      prospectId,
      actorId: viewer.id,
      payload: { added: ids, removed: remove.length },
    })
    return { tags: await tagsOf(prospectId, client) }
  })
}

/** A person's tags, by name. */
async function tagsOf(prospectId: Id, client: Db = db()): Promise<{ id: Id; name: string }[]> {
  const { rows } = await client.query<{ id: Id; name: string }>(
    sql`
      select t.id, t.name
      from prospect_tags x
        join tags t on t.id = x.tag_id
      where x.prospect_id = $1
      order by lower(t.name)
    `,
    [prospectId],
  )
  return rows
}
