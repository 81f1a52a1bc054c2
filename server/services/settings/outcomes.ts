import type { Action } from '#core/actions/registry'
import type { CountsAs, OutcomeUse, RequiredInput } from '#core/enumerations'
import type { Id } from '#core/instant'
import { newId } from '#shared/newId'
import { db, transaction } from '../../db/pool'
import { playbookChanged } from '../../engine/playbook'
import { notFound } from '../access/errors'
import { checkActions, fault, referable } from '../actions/checkActions'
import { sql } from '../../db/sql'

interface OutcomeBody {
  name: string
  countsAs: CountsAs
  usedFor: OutcomeUse[]
  requiredInputs: RequiredInput[]
  requiredFields: string[]
  reasons: string[]
  actions: Action[]
  leavesMessage: boolean
}

/** The outcomes that are offered, in order, each with what its actions refer to that is not there any more. */
export async function listOutcomes() {
  const [{ rows }, refer] = await Promise.all([
    db().query<OutcomeBody & { id: Id; position: number }>(
      sql`
        select id, position, name, counts_as as "countsAs", required_inputs as "requiredInputs",
          required_fields as "requiredFields", reasons, actions, leaves_message as "leavesMessage",
          used_for as "usedFor"
        from outcomes
        where archived_at is null
        order by position, name
      `,
    ),
    referable(),
  ])
  return {
    names: refer.names,
    outcomes: rows.map((outcome) => ({
      ...outcome,
      faults: outcome.actions.flatMap((action) => fault(action, refer) ?? []),
    })),
  }
}

/** Adds an outcome, last in the order. */
export async function addOutcome(body: OutcomeBody): Promise<{ id: Id }> {
  await checkActions(body.actions, body.requiredInputs)
  const id = newId()
  await transaction(async (client) => {
    await client.query(
      sql`
        insert into outcomes (
          id, name, position, counts_as, required_inputs, reasons, actions, required_fields, leaves_message,
          used_for
        )
        values ($1, $2, (select coalesce(max(position) + 1, 0) from outcomes), $3, $4, $5, $6, $7, $8, $9)
      `,
      [
        id,
        body.name,
        body.countsAs,
        body.requiredInputs,
        body.reasons,
        JSON.stringify(body.actions),
        body.requiredFields,
        body.leavesMessage,
        [...new Set(body.usedFor)],
      ],
    )
    await playbookChanged(client)
  })
  return { id }
}

/** Changes an outcome or puts it away. What was logged with it keeps what it did. */
export async function editOutcome(id: Id, body: OutcomeBody & { position: number; archived: boolean }): Promise<void> {
  await checkActions(body.actions, body.requiredInputs)
  await transaction(async (client) => {
    const { rowCount } = await client.query(
      sql`
        update outcomes
        set
          name = $2, position = $3, counts_as = $4, required_inputs = $5, reasons = $6, actions = $7,
          archived_at = case when $8 then coalesce(archived_at, now()) end, required_fields = $9,
          leaves_message = $10, used_for = $11
        where id = $1
      `,
      [
        id,
        body.name,
        body.position,
        body.countsAs,
        body.requiredInputs,
        body.reasons,
        JSON.stringify(body.actions),
        body.archived,
        body.requiredFields,
        body.leavesMessage,
        [...new Set(body.usedFor)],
      ],
    )
    if (!rowCount) throw notFound('outcome')
    await playbookChanged(client)
  })
}

/** Puts the outcomes in an order: those named, in theirs, then the rest as they were. */
export async function orderOutcomes(ids: readonly Id[]): Promise<void> {
  await transaction(async (client) => {
    await client.query(
      sql`
        update outcomes o
        set position = n.place - 1
        from (
          select id, row_number() over (order by array_position($1::uuid[], id), position, name) as place
          from outcomes
          where archived_at is null
        ) n
        where o.id = n.id
      `,
      [ids],
    )
    await playbookChanged(client)
  })
}
