import type { Effect } from '#core/engine/state/effects'
import type { Id } from '#core/instant'
import { sql } from '../../db/sql'

/** An effect as the activity reads it from the log. */
export type LoggedEffect = Pick<Effect, 'kind' | 'entity' | 'id' | 'before' | 'after' | 'cause'> & {
  prospectId: Id | null
}

/** Whether the event `h` was undone. */
export const UNDONE = sql`
  exists (select from events x where x.kind = 'undone' and x.payload ->> 'targetId' = h.id::text)
`

/** The effects `e` of the event `h` for which a condition holds, as a JSON array in their order. */
export const effectsWhere = (condition: string) => sql`
  (
    select coalesce(
      json_agg(
        json_build_object(
          'kind', e.kind, 'entity', e.entity, 'id', e.entity_id, 'before', e.before, 'after', e.after,
          'cause', e.cause, 'prospectId', e.prospect_id
        ) order by e.seq
      ), '[]'
    )
    from effects e
    where e.event_id = h.id and (${condition})
  )
`
