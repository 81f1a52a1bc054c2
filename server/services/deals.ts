import { randomUUID } from 'node:crypto'
import type { Id } from '#core/instant'
import { transaction } from '../db/pool'
import { mustSee } from './access'
import { readCustom } from './customFields'
import { notFound } from './errors'
import type { Viewer } from './sessions'

/** Corrects what is known of a deal: its name, its value in the team's currency, own fields. How it stands is not among it. */
export async function editDeal(viewer: Viewer, id: Id, edit: { name?: string, value?: number | null, custom?: Record<string, unknown> }): Promise<void> {
  await transaction(async (client) => {
    const { rows: [deal] } = await client.query<{ prospect_id: Id }>('select prospect_id from deals where id = $1', [id])
    if (!deal) throw notFound('deal')
    await mustSee(viewer, deal.prospect_id, client)
    await client.query('select from prospects where id = $1 for no key update', [deal.prospect_id])
    const custom = edit.custom && await readCustom('deal', edit.custom, client)
    await client.query(`update deals set name = coalesce($2, name), value = case when $3 then $4::numeric else value end, custom = jsonb_strip_nulls(custom || $5) where id = $1`, [id, edit.name ?? null, edit.value !== undefined, edit.value ?? null, JSON.stringify(custom ?? {})])
    await client.query(`insert into happenings (id, at, kind, prospect_id, actor_id, data) values ($1, world_now(), 'dealEdited', $2, $3, $4)`, [randomUUID(), deal.prospect_id, viewer.id, JSON.stringify({ dealId: id, fields: [...Object.keys(edit).filter(key => key !== 'custom'), ...Object.keys(custom ?? {})] })])
  })
}
