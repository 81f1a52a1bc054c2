import { ACTIONS, type Action } from '#core/actions/registry'
import type { ActionNames } from '#core/actions/kind/define'
import type { CountsAs, OutcomeUse, RequiredInput } from '#core/enumerations'
import type { Field } from '#core/filter/fields'
import { conditionFault } from '#core/filter/problems'
import type { Id } from '#core/instant'
import { newId } from '#shared/newId'
import { EVERYTHING, readFilterWorld } from '../../db/filterWorld'
import { db, transaction } from '../../db/pool'
import { playbookChanged } from '../../engine/playbook'
import { notFound, Refusal } from '../access/errors'
import { firstRow, sql } from '../../db/sql'

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

const NAMES_SQL = sql`
  select
    (
      select coalesce(json_object_agg(id, name order by position), '{}')
      from stages
      where archived_at is null
    ) as stages,
    (select coalesce(json_object_agg(id, name), '{}') from cadences where status <> 'archived') as cadences,
    (
      select coalesce(json_object_agg(s.id, c.name || ': ' || coalesce(nullif(s.name, ''), s.kind)), '{}')
      from cadence_steps s
        join cadences c on c.id = s.cadence_id
      where s.archived_at is null and c.status <> 'archived'
    ) as steps,
    (select coalesce(json_object_agg(id, name), '{}') from tags) as tags,
    (
      select coalesce(json_object_agg(id, name), '{}')
      from lists
      where kind = 'fixed' and visibility = 'everyone'
    ) as lists,
    (select coalesce(json_object_agg(id, name), '{}') from users where active) as users,
    (select coalesce(json_object_agg(id, name), '{}') from custom_fields where of = 'prospect') as fields
`

/** What actions may refer to, as it is now. */
async function actionNames(): Promise<ActionNames> {
  return (await firstRow(db().query<ActionNames>(NAMES_SQL)))!
}

/** What actions may refer to: things by their names, and what conditions may ask. */
interface Referable {
  names: ActionNames
  filterFields: ReadonlyMap<string, Field>
}

async function referable(): Promise<Referable> {
  const [names, { fields: filterFields }] = await Promise.all([actionNames(), readFilterWorld(db(), EVERYTHING)])
  return { names, filterFields }
}

/** What an action refers to that is not there any more; null where all is. */
function fault(action: Action, { names, filterFields }: Referable): string | null {
  const own = ACTIONS[action.type]?.check?.(action, names)
  if (own || !action.where) return own ?? null
  return conditionFault(action.where, filterFields) ?? null
}

/** What each action refers to that is not there any more, in their order; null where all is. */
export async function actionFaults(actions: readonly Action[]): Promise<(string | null)[]> {
  const refer = await referable()
  return actions.map((action) => fault(action, refer))
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

const ASKS: Record<RequiredInput, string> = {
  callBackAt: 'A call back needs the outcome to ask for its time',
  meeting: 'Booking a meeting needs the outcome to ask for it',
  referral: 'Adding a referral needs the outcome to ask who it is',
  reason: 'This needs the outcome to ask for a reason',
  note: 'This needs the outcome to ask for a note',
}

/** What actions refer to, and what they need the outcome to ask for; what is wrong is said at its field. */
export async function checkActions(
  actions: readonly Action[],
  requiredInputs: readonly RequiredInput[],
): Promise<void> {
  const refer = await referable()
  const problems = actions.flatMap((action, index) => {
    const { needs, mayWait } = ACTIONS[action.type]!
    const lacks = needs && !requiredInputs.includes(needs) ? ASKS[needs] : null
    const waits = action.after && !mayWait ? 'This action cannot wait' : null
    const message = fault(action, refer) ?? lacks ?? waits
    return message ? [{ field: `actions.${index}`, message }] : []
  })
  if (problems.length) throw new Refusal('invalid', problems[0]!.message, problems)
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
