import { manages, onlyCalls } from '#core/roles'
import { ofProspect, type EngineState } from '#core/engine/state/engineState'
import type { ToDoKind } from '#core/enumerations'
import type { Id } from '#core/instant'
import { db, type Db } from '../../db/pool'
import { notFound, Refusal } from './errors'
import type { Viewer } from './viewer'
import { firstRow, sql } from '../../db/sql'

/**
 * The condition under which a viewer sees a person: everyone's for managers and teams that share all, else their own
 * and those nobody owns. `alias` is the prospects table, `parameter` stands for the viewer's id or, who sees all, null.
 */
export function visible(alias: string, parameter: string): string {
  const isVisible = `${alias}.owner_id is null or ${alias}.owner_id = ${parameter}::uuid`
  return `(${alias}.merged_into is null and (${parameter}::uuid is null or ${isVisible}))`
}

/** The condition under which a viewer sees a company: where they see someone, or where nobody is yet. */
export function companyVisible(alias: string, parameter: string): string {
  return sql`
    (
      not exists (select from prospects p where p.company_id = ${alias}.id)
        or exists (select from prospects p where p.company_id = ${alias}.id and ${visible('p', parameter)})
    )
  `
}

/** The value that goes with `visible`. */
export function limitedTo(viewer: Viewer): Id | null {
  return viewer.seesAll ? null : viewer.id
}

/**
 * Throws not_found unless the viewer may see the person: also who has an open task with them, or calls them in a block.
 */
export async function mustSee(viewer: Viewer, prospectId: Id, client: Db = db()): Promise<void> {
  const row = await firstRow(
    client.query({
      name: 'must-see',
      text: sql`
        select
        from prospects p
        where p.id = $1
          and (
            -- Callers see nobody just because nobody owns them.
            (${visible('p', '$2')} and (not $3 or p.owner_id is not null))
              or (
                p.merged_into is null
                  and (
                    exists (select from tasks t where t.prospect_id = p.id and t.owner_id = $2 and t.status = 'open')
                      or exists (
                        select
                        from call_block_people b
                          join call_blocks k on k.id = b.block_id and k.closed_at is null
                          join call_block_callers u on u.block_id = b.block_id and u.user_id = $2
                        where b.prospect_id = p.id and b.removed_at is null
                      )
                  )
              )
          )
      `,
      values: [prospectId, limitedTo(viewer), onlyCalls(viewer)],
    }),
  )
  if (!row) throw notFound('person')
}

/** Throws at the field unless the user is there and let in: a former user owns nothing new. */
export async function mustBeOnTeam(userId: Id, client: Db): Promise<void> {
  const row = await firstRow(client.query(sql`select from users where id = $1 and active`, [userId]))
  if (!row) {
    throw new Refusal('invalid', 'There is no such user on the team', [
      { field: 'ownerId', message: 'There is no such user on the team' },
    ])
  }
}

/** As `mustBeOnTeam`, of who is to do a to-do: callers send no emails and no texts. */
export async function mustBeAbleTo(userId: Id, task: ToDoKind, client: Db): Promise<void> {
  await mustBeOnTeam(userId, client)
  if (task === 'call' || task === 'task') return
  const caller = await firstRow(client.query(sql`select from users where id = $1 and role = 'caller'`, [userId]))
  if (caller) {
    const message = 'Callers send no emails and no texts: choose a rep'
    throw new Refusal('invalid', message, [{ field: 'ownerId', message }])
  }
}

/** As `mustSee`, of a person who has been read already. */
export function mustSeeIn(viewer: Viewer, state: EngineState, prospectId: Id): void {
  const prospect = state.prospect[prospectId]
  const hasTask = () =>
    ofProspect(state, 'task', prospectId).some((task) => task.status === 'open' && task.ownerId === viewer.id)
  const isTheirs = (ownerId: Id | null) => ownerId === viewer.id || (ownerId === null && !onlyCalls(viewer))
  if (!prospect || !(viewer.seesAll || isTheirs(prospect.ownerId) || hasTask())) throw notFound('person')
}

/** Throws where someone who is no manager takes people out of work for good. */
export function mayArchive(viewer: Viewer, to: string): void {
  if (to === 'archived' && !manages(viewer)) throw new Refusal('not_allowed', 'Only a manager can archive people')
}
