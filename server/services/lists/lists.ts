import { manages } from '#core/roles'
import type { ListKind } from '#core/enumerations'
import type { Filter } from '#core/filter/filter'
import { filterFrom } from '#core/filter/sql'
import { startOfDay } from '#core/calendar/local'
import type { Id } from '#core/instant'
import type { TouchInterval } from '#core/queue/touchGoal'
import type { List } from '#shared/api/lists'
import { newId } from '#shared/newId'
import { breaksUnique, db, transaction, type Db } from '../../db/pool'
import { playbookChanged } from '../../engine/playbook'
import { limitedTo, visible } from '../access/access'
import { countCompanies } from './companyLists'
import { Refusal } from '../access/errors'
import {
  ask,
  countPeople,
  filterWorld,
  IN_SIGHT,
  inWords,
  problemsOfList,
  readFilter,
  type FilterWorld,
} from './filters'
import { mayEditList, mayReadList, readList } from './listAccess'
import { listInWords, logList } from './listChanges'
import { handledSince } from './listWork'
import { lastCounted, touchGoalCounts } from './touchGoals'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'
import { addToList } from './batches'

/** The lists the viewer sees, in the order they are worked, with their filters in words. */
export async function listLists(viewer: Viewer): Promise<{ lists: List[] }> {
  const world = await filterWorld(viewer)
  const { rows } = await db().query<
    Omit<List, 'sentence' | 'problems' | 'mayEdit'> & { filter: Filter | null; owner_id: Id | null }
  >(
    sql`
      select
        l.id, l.name, l.kind, l.filter, l.columns, l.sort, l.position, l.owner_id, l.visibility, l.team,
        l.default_view as "defaultView",
        case
          when l.touch_every is not null then json_build_object('amount', l.touch_every, 'unit', l.touch_unit)
        end as "touchEvery", l.touch_kinds as "touchKinds", l.version,
        case when u.id is not null then json_build_object('id', u.id, 'name', u.name) end as owner,
        array(select v.user_id from list_shares v where v.list_id = l.id order by v.user_id) as "viewerIds"
      from lists l
        left join users u on u.id = l.owner_id
      where ${mayReadList('l', '$1', '$2')}
      order by l.position, l.id
    `,
    [viewer.id, manages(viewer)],
  )
  return {
    lists: rows.map(({ owner_id: ownerId, ...list }) => ({
      ...list,
      sentence: list.filter ? inWords(list.filter, world) : '',
      problems: problemsOfList(list.filter, world),
      mayEdit: mayEditList(viewer, { owner_id: ownerId }),
    })),
  }
}

/**
 * How many of a list's people the viewer sees, and how many were handled today: touched, or dealt with while it was
 * worked.
 */
export async function countList(viewer: Viewer, id: Id) {
  const list = await readList(viewer, id)
  const world = await filterWorld(viewer)
  const broken = problemsOfList(list.filter as Filter | null, world).length > 0
  const handledToday = await handled(viewer, list.id, list.touch_kinds, world, broken)
  if (broken) return { count: 0, exact: true, removed: 0, handledToday, touchGoal: null, companies: null }
  const counted = await countPeople(ask(viewer, { field: 'lists', test: { op: 'hasAny', values: [id] } }, world))
  const companies = list.default_view === 'companies' ? await countCompanies(viewer, { list: id }) : null
  return { ...counted, handledToday, companies, touchGoal: await touchGoalCounts(viewer, id, world, counted.exact) }
}

/**
 * Dealt with while the list was worked, and not taken back; or called, texted or met today, where that counts for the
 * list, and still on it. Mail that a cadence sends is nobody's doing.
 */
async function handled(
  viewer: Viewer,
  id: Id,
  touchKinds: readonly string[],
  world: FilterWorld,
  broken: boolean,
): Promise<number> {
  const byHand = touchKinds.filter((kind) => kind !== 'email')
  const about = ask(
    viewer,
    broken || !byHand.length ? { any: [] } : { field: 'lists', test: { op: 'hasAny', values: [id] } },
    world,
  )
  const [list, since] = [
    `${about.parameter(id)}::uuid`,
    `${about.parameter(new Date(startOfDay(world.now, world.timeZone)))}::timestamptz`,
  ]
  const row = await firstRow(
    db().query<{ count: number }>(
      sql`
        select count(*) as count
        from (
          select p.id
          from prospects p
          where p.id in (select prospect_id from handled_prospects where list_id = ${list} and at >= ${since})
            and ${handledSince(list, since)}
            and ${visible('p', `${about.parameter(limitedTo(viewer))}::uuid`)}
          union
          select p.id
          from ${filterFrom(about)}
          where ${about.where}${about.showsRemoved ? '' : IN_SIGHT}
            and p.last_touch_at >= ${since}
            and ${byHand.length ? lastCounted(byHand) : 'null'} >= ${since}
        ) handled
      `,
      about.values,
    ),
  )
  return row!.count
}

/** How a list is shown, who sees it and its touch goal. */
interface ListSettings {
  columns?: { key: string; width: number | null }[]
  sort?: { field: string; down: boolean } | null
  visibility?: List['visibility']
  viewerIds?: Id[]
  team?: string | null
  defaultView?: List['defaultView']
  touchEvery?: TouchInterval | null
  touchKinds?: string[]
}

const nameTaken = () =>
  new Refusal('conflict', 'There is already a list with this name', [
    { field: 'name', message: 'There is already a list with this name' },
  ])

/** Makes a list at the end of the order. A rep's lists are their own to see unless they name others. */
export async function addList(
  viewer: Viewer,
  given: { name: string; kind: ListKind; filter?: Filter | string; prospectIds?: Id[] } & ListSettings,
): Promise<{ id: Id }> {
  const id = newId()
  const world = await filterWorld(viewer)
  const filter = given.kind === 'live' ? readFilter(given.filter, world) : null
  const { visibility, team } = await visibilityFor(viewer, given)
  try {
    await transaction(async (client) => {
      await client.query(
        sql`
          insert into lists (
            id, name, kind, filter, columns, sort, position, owner_id, visibility, touch_every, touch_unit,
            touch_kinds, team, default_view, created_at
          )
          values (
            $1, $2, $3, $4, $5, $6, (select coalesce(max(position), -1) + 1 from lists), $7, $8, $9,
            coalesce($10, 'days'), coalesce($11, '{call,text,email,meeting}'::text[]), $12, coalesce($13, 'people'),
            world_now()
          )
        `,
        [
          id,
          given.name,
          given.kind,
          filter && JSON.stringify(filter),
          JSON.stringify(given.columns ?? []),
          given.sort ? JSON.stringify(given.sort) : null,
          viewer.id,
          visibility,
          given.touchEvery?.amount ?? null,
          given.touchEvery?.unit ?? null,
          given.touchKinds ?? null,
          team,
          given.defaultView ?? null,
        ],
      )
      if (given.viewerIds) await setShares(client, id, given.viewerIds)
      const { kind } = given
      await logList(client, viewer, { id, kind }, { was: {}, is: await listInWords(client, id, world) })
    })
  } catch (error) {
    if (breaksUnique(error, 'lists_by_name')) throw nameTaken()
    throw error
  }
  if (given.kind === 'fixed' && (given.filter !== undefined || given.prospectIds?.length)) {
    await addToList(viewer, id, given)
  }
  return { id }
}

/** Who may see a list, checked: reps make lists for themselves, for people they name and for their own team. */
async function visibilityFor(
  viewer: Viewer,
  wanted: ListSettings,
  client: Db = db(),
): Promise<{ visibility: List['visibility']; team: string | null }> {
  const visibility = wanted.visibility ?? (!manages(viewer) ? 'me' : 'everyone')
  if (visibility === 'everyone' && !manages(viewer)) {
    throw new Refusal('not_allowed', 'Only a manager can create lists for everyone', [
      { field: 'visibility', message: 'Only a manager can create lists for everyone' },
    ])
  }
  if (visibility !== 'team') return { visibility, team: null }
  const found = await firstRow(
    client.query<{ team: string }>(
      sql`
        select team
        from users
        where team = $1 and ($2::uuid is null or id = $2)
        limit 1
      `,
      [wanted.team?.trim() ?? '', !manages(viewer) ? viewer.id : null],
    ),
  )
  if (!found) {
    throw new Refusal('invalid', !manages(viewer) ? 'Choose your own team' : 'Choose a team with at least one user', [
      {
        field: 'team',
        message: !manages(viewer) ? 'Choose your own team' : 'Choose a team with at least one user',
      },
    ])
  }
  return { visibility, team: found.team }
}

async function setShares(client: Db, listId: Id, userIds: readonly Id[]): Promise<void> {
  await client.query(sql`delete from list_shares where list_id = $1`, [listId])
  await client.query(
    sql`
      insert into list_shares (list_id, user_id)
      select $1, u.id
      from users u
      where u.id = any($2::uuid[])
    `,
    [listId, userIds],
  )
}

/** Changes a list. Throws a conflict where someone was faster, and at the filter where it would be made of itself. */
export async function editList(
  viewer: Viewer,
  id: Id,
  edit: { version: number; name?: string; filter?: Filter | string } & ListSettings,
): Promise<{ version: number }> {
  try {
    return await transaction(async (client) => {
      const list = await readList(viewer, id, { edit: true, client })
      if (list.version !== edit.version) {
        throw new Refusal('conflict', 'Changed by someone else; showing the latest version', [], {
          version: list.version,
        })
      }
      if (edit.filter !== undefined && list.kind === 'fixed') {
        throw new Refusal('invalid', 'A fixed list has no filter; add people to it', [
          { field: 'filter', message: 'A fixed list has no filter' },
        ])
      }
      const filter = edit.filter === undefined ? undefined : await filterForList(viewer, id, edit.filter, client)
      const world = await filterWorld(viewer, client)
      const was = await listInWords(client, id, world)
      const seen = edit.visibility ? await visibilityFor(viewer, edit, client) : undefined
      const columns: Record<string, unknown> = {
        name: edit.name,
        filter: filter && JSON.stringify(filter),
        columns: edit.columns && JSON.stringify(edit.columns),
        sort: edit.sort === undefined ? undefined : edit.sort && JSON.stringify(edit.sort),
        visibility: seen?.visibility,
        team: seen?.team,
        default_view: edit.defaultView,
        touch_every: edit.touchEvery === undefined ? undefined : (edit.touchEvery?.amount ?? null),
        touch_unit: edit.touchEvery?.unit,
        touch_kinds: edit.touchKinds,
      }
      const set = Object.entries(columns).filter(([, value]) => value !== undefined)
      const after = await firstRow(
        client.query<{ version: number }>(
          sql`
            update lists
            set ${[...set.map(([column], index) => `${column} = $${index + 2}`), 'version = version + 1'].join(', ')}
            where id = $1
            returning version
          `,
          [id, ...set.map(([, value]) => value)],
        ),
      )
      if (edit.viewerIds) await setShares(client, id, edit.viewerIds)
      await logList(client, viewer, list, { was, is: await listInWords(client, id, world) })
      if (edit.name !== undefined) await playbookChanged(client)
      return { version: after!.version }
    })
  } catch (error) {
    if (breaksUnique(error, 'lists_by_name')) throw nameTaken()
    throw error
  }
}

/** Reads a list's new filter, and tries it as if it were kept already: a list made of itself is refused. */
async function filterForList(viewer: Viewer, id: Id, given: Filter | string, client: Db): Promise<Filter> {
  // Two lists that are changed at once could become each other's parts: one waits for the other.
  await client.query(sql`select pg_advisory_xact_lock(hashtext('list filters'))`)
  const world = await filterWorld(viewer, client)
  const filter = readFilter(given, world)
  ask(
    viewer,
    { field: 'lists', test: { op: 'hasAny', values: [id] } },
    { ...world, lists: new Map(world.lists).set(id, { kind: 'live', filter }) },
  )
  return filter
}

/** Removes a list. Lists that speak of it say so from then on. */
export async function removeList(viewer: Viewer, id: Id): Promise<void> {
  await transaction(async (client) => {
    const list = await readList(viewer, id, { edit: true, client })
    const was = await listInWords(client, id, await filterWorld(viewer, client))
    await logList(client, viewer, list, { was, is: {} })
    await client.query(sql`delete from lists where id = $1`, [id])
    await playbookChanged(client)
  })
}

/**
 * Puts lists into the order they are worked in. Where the order the caller saw no longer holds, a conflict, and nothing
 * changes.
 */
export async function orderLists(viewer: Viewer, ids: readonly Id[], before: readonly Id[]): Promise<void> {
  await transaction(async (client) => {
    // Rows that were waited for would come in the order they had before: so a change of order waits first, and reads
    // then.
    await client.query(sql`select pg_advisory_xact_lock(hashtext('list order'))`)
    const { rows } = await client.query<{ id: Id }>(
      sql`
        select l.id
        from lists l
        where ${mayReadList('l', '$1', '$2')}
        order by l.position, l.id
      `,
      [viewer.id, manages(viewer)],
    )
    const current = rows.map((row) => row.id)
    if (current.join() !== before.join()) {
      throw new Refusal('conflict', 'Changed by someone else; showing the latest order', [], { ids: current })
    }
    if (ids.length !== current.length || !current.every((id) => ids.includes(id))) {
      throw new Refusal('invalid', 'These are not the same lists', [
        { field: 'ids', message: 'These are not the same lists' },
      ])
    }
    // They take the places that these lists had among all there are.
    await client.query(
      sql`
        with places as (
          select position, row_number() over (order by position, id) as n
          from lists
          where id = any($1::uuid[])
        )
        update lists l
        set position = places.position
        from unnest($1::uuid[]) with ordinality as wanted(id, n)
          join places using (n)
        where l.id = wanted.id
      `,
      [ids],
    )
  })
}
