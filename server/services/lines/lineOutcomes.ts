import { LINE_RESULTS, type LineResult } from '#core/enumerations'
import type { Id } from '#core/instant'
import { db, transaction, type Db } from '../../db/pool'
import { sql } from '../../db/sql'
import { Refusal } from '../access/errors'

/** The outcome that is logged for each result; null where none is chosen, or the one that was is archived. */
export type LineOutcomes = Record<LineResult, Id | null>

/** What is logged by itself where a call of several lines ends without a person. */
export async function getLineOutcomes(client: Db = db()): Promise<LineOutcomes> {
  const { rows } = await client.query<{ result: LineResult; outcomeId: Id }>({
    name: 'line-outcomes',
    text: sql`
      select l.result, l.outcome_id as "outcomeId"
      from line_outcomes l
        join outcomes o on o.id = l.outcome_id and o.archived_at is null
    `,
  })
  const none = Object.fromEntries(Object.keys(LINE_RESULTS).map((result) => [result, null])) as LineOutcomes
  return Object.assign(none, Object.fromEntries(rows.map(({ result, outcomeId }) => [result, outcomeId])))
}

/** Changes them. Throws at its field for an outcome that asks for something, or that is not there any more. */
export async function editLineOutcomes(given: LineOutcomes): Promise<void> {
  const chosen = Object.entries(given).filter((entry): entry is [LineResult, Id] => entry[1] !== null)
  const { rows } = await db().query<{ id: Id; needsInput: boolean }>(
    sql`
      select id, cardinality(required_inputs) + cardinality(required_fields) > 0 as "needsInput"
      from outcomes
      where id = any($1::uuid[]) and archived_at is null
    `,
    [chosen.map(([, id]) => id)],
  )
  const needsInput = new Map(rows.map((row) => [row.id, row.needsInput]))
  const problems = chosen.flatMap(([field, id]) => {
    if (!needsInput.has(id)) return [{ field, message: 'This outcome has been archived. Choose another' }]
    return needsInput.get(id)
      ? [{ field, message: 'This outcome asks for something that nobody can fill in here' }]
      : []
  })
  if (problems.length) throw new Refusal('invalid', problems[0]!.message, problems)
  await transaction(async (client) => {
    await client.query(sql`delete from line_outcomes`)
    await client.query(
      sql`
        insert into line_outcomes (result, outcome_id)
        select *
        from unnest($1::text[], $2::uuid[])
      `,
      [chosen.map(([result]) => result), chosen.map(([, id]) => id)],
    )
  })
}

/** What keeps calls of several lines from being logged, in words; null where every result has its outcome. */
export function outcomesFault(outcomes: LineOutcomes): string | null {
  const missing = (Object.keys(LINE_RESULTS) as LineResult[]).filter((result) => outcomes[result] === null)
  if (!missing.length) return null
  const named = missing.map((result) => LINE_RESULTS[result]).join('; ')
  return `Choose the outcome that is logged for: ${named} (Settings, Calls)`
}
