import { TOUCH_KINDS, type ListKind, type TouchUnit } from '#core/enumerations'
import type { Filter } from '#core/filter/filter'
import type { Id } from '#core/instant'
import { inWords as interval } from '#core/queue/touchGoal'
import type { List } from '#shared/api/lists'
import type { Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { logEvent, logTexts, type Changes } from '../../engine/eventLog'
import type { Viewer } from '../access/viewer'
import { inWords, type FilterWorld } from './filters'

interface Settings {
  kind: ListKind
  name: string
  filter: Filter | null
  columns: List['columns']
  sort: List['sort']
  visibility: List['visibility']
  named: string
  team: string | null
  view: string
  every: number | null
  unit: TouchUnit
  touchKinds: (keyof typeof TOUCH_KINDS)[]
}

const VISIBLE_TO: Record<List['visibility'], string> = {
  me: 'the owner',
  named: 'people by name',
  team: 'a team',
  everyone: 'everyone',
}

/** The settings of a list as people read them, by their names; before it is there, and after it was deleted, none. */
export type ListInWords = Readonly<Record<string, string | null>>

/** A list's settings as people read them, as they are at this moment. */
export async function listInWords(client: Db, listId: Id, world: FilterWorld): Promise<ListInWords> {
  const list = await firstRow(
    client.query<Settings>(
      sql`
        select
          l.kind, l.name, l.filter, l.columns, l.sort, l.visibility, l.team, l.default_view as view,
          l.touch_every as every, l.touch_unit as unit, l.touch_kinds as "touchKinds",
          (
            select string_agg(u.name, ', ' order by u.name)
            from list_shares s
              join users u on u.id = s.user_id
            where s.list_id = l.id
          ) as named
        from lists l
        where l.id = $1
      `,
      [listId],
    ),
  )
  if (!list) return {}
  const label = (key: string) => world.fields.get(key)?.label ?? key
  const { visibility, named, team, sort, every, unit } = list
  return {
    name: list.name,
    filter: list.filter && inWords(list.filter, world),
    visible_to: { ...VISIBLE_TO, named: named || VISIBLE_TO.named, team: team ?? VISIBLE_TO.team }[visibility],
    columns: list.columns.map(({ key }) => label(key)).join(', ') || null,
    order: sort && `${label(sort.field)}, ${sort.down ? 'descending' : 'ascending'}`,
    default_view: list.view,
    touch_goal:
      every === null
        ? null
        : `${interval({ amount: every, unit })}, by ${list.touchKinds.map((kind) => TOUCH_KINDS[kind]).join(', ')}`,
  }
}

/** Logs that a list was added, edited or deleted, with what its settings were and are beside the log. */
export async function logList(
  client: Db,
  viewer: Viewer,
  { id, kind }: { id: Id; kind: ListKind },
  { was, is }: { was: ListInWords; is: ListInWords },
): Promise<void> {
  const keys = [...new Set([...Object.keys(was), ...Object.keys(is)])]
  const changed = keys.filter((key) => (was[key] ?? null) !== (is[key] ?? null))
  const [isNew, isDeleted] = [!Object.keys(was).length, !Object.keys(is).length]
  if (!changed.length) return
  const changes: Changes = Object.fromEntries(changed.map((key) => [key, [was[key] ?? null, is[key] ?? null]]))
  const about = { prospectId: null, listId: id, actorId: viewer.id }
  const what = () => {
    if (isNew) return { kind: 'listAdded', payload: { kind } } as const
    return isDeleted
      ? ({ kind: 'listDeleted' } as const)
      : { kind: 'listEdited' as const, payload: { fields: changed } }
  }
  await logTexts(client, await logEvent(client, { ...about, ...what() }), null, { changes })
}
