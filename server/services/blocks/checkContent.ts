import { manages } from '#core/roles'
import type { Id } from '#core/instant'
import { templateFaults } from '#core/text/merge'
import { saysNumber } from '#core/text/phoneInText'
import type { z } from 'zod'
import type { editBlock as editEndpoint } from '#shared/api/blocks/blocks'
import { linePool } from '../../channels/phone/dialer'
import { readMergeNames } from '../../db/mergeFields'
import { db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'

/** What a block is, but for who is in it. */
export type Content = Omit<z.output<typeof editEndpoint.body>, 'version'>

interface Problem {
  field: string
  message: string
}

/** Throws what is wrong with a block, each at its field. */
export async function checkContent(viewer: Viewer, content: Content): Promise<void> {
  const problems = templateFaults(content.script, await readMergeNames(db())).map(({ line, message }) => ({
    field: 'script',
    message: `Line ${line}: ${message}`,
  }))
  const { rows } = await db().query<{ id: Id }>(sql`select id from users where id = any($1::uuid[]) and active`, [
    content.callerIds,
  ])
  if (rows.length !== new Set(content.callerIds).size) {
    problems.push({ field: 'callerIds', message: 'Choose callers who are on the team' })
  }
  if (!manages(viewer) && content.callerIds.some((id) => id !== viewer.id)) {
    problems.push({ field: 'callerIds', message: 'Only managers can hand call blocks to others' })
  }
  if (content.lines > 1) problems.push(...(await lineProblems(viewer, content)))
  if (problems.length) throw new Refusal('invalid', problems[0]!.message, problems)
}

/** What keeps a block from dialing several lines: each at its field. */
async function lineProblems(viewer: Viewer, { callBackMessage }: Content): Promise<Problem[]> {
  if (!manages(viewer)) return [{ field: 'lines', message: 'Only managers can turn on several lines' }]
  if (!linePool()) {
    return [{ field: 'lines', message: 'No dialer is connected that can dial several lines (docs/dialer.md)' }]
  }
  const team = await firstRow(db().query<{ country: string }>(sql`select country from team`))
  return saysNumber(callBackMessage, team!.country)
    ? []
    : [{ field: 'callBackMessage', message: 'Say who is calling, with a number to call back' }]
}
