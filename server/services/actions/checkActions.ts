import { ACTIONS, FORM_ACTIONS, type Action } from '#core/actions/registry'
import type { ActionNames } from '#core/actions/kind/define'
import type { RequiredInput } from '#core/enumerations'
import type { Field } from '#core/filter/fields'
import { conditionFault } from '#core/filter/problems'
import { EVERYTHING, readFilterWorld } from '../../db/filterWorld'
import { db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { Refusal } from '../access/errors'

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

/** Reads what actions may refer to, as it is now. */
export async function referable(): Promise<Referable> {
  const [names, { fields: filterFields }] = await Promise.all([actionNames(), readFilterWorld(db(), EVERYTHING)])
  return { names, filterFields }
}

/** What an action refers to that is not there any more; null where all is. */
export function fault(action: Action, { names, filterFields }: Referable): string | null {
  const own = ACTIONS[action.type]?.check?.(action, names)
  if (own || !action.where) return own ?? null
  return conditionFault(action.where, filterFields) ?? null
}

/** What each action refers to that is not there any more, in their order; null where all is. */
export async function actionFaults(actions: readonly Action[]): Promise<(string | null)[]> {
  const refer = await referable()
  return actions.map((action) => fault(action, refer))
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
  within = 'actions',
): Promise<void> {
  const refer = await referable()
  const problems = actions.flatMap((action, index) => {
    const { needs, mayWait } = ACTIONS[action.type]!
    const lacks = needs && !requiredInputs.includes(needs) ? ASKS[needs] : null
    const waits = action.after && !mayWait ? 'This action cannot wait' : null
    const message = fault(action, refer) ?? lacks ?? waits
    return message ? [{ field: `${within}.${index}`, message }] : []
  })
  if (problems.length) throw new Refusal('invalid', problems[0]!.message, problems)
}

/** As `checkActions`, for actions that no call is needed for: of forms, and for many prospects at once. */
export async function checkActionsWithoutCall(actions: readonly Action[], within = 'actions'): Promise<void> {
  const index = actions.findIndex(({ type }) => !FORM_ACTIONS.includes(type))
  if (index >= 0) {
    const message = 'Only an outcome can do this'
    throw new Refusal('invalid', message, [{ field: `${within}.${index}`, message }])
  }
  await checkActions(actions, [], within)
}
