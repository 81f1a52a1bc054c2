import { randomUUID } from 'node:crypto'
import { db } from '../server/db/pool'
import { sql } from '../server/db/sql'
import type { Viewer } from '../server/services/access/viewer'
import { addExport } from '../server/services/otherDialers/exports'
import { logResults } from '../server/services/otherDialers/logResults'
import { addResults } from '../server/services/otherDialers/results'
import { makeBlock } from './blocks'
import { stopClock } from './clock'

const DAY = 86_400_000
const DIALER = 'Northgate'

/** A block that was sent to another dialer the day before; some results are back, and one of them cannot be read. */
export async function addOtherDialer(manager: Viewer, callers: readonly Viewer[], start: number): Promise<void> {
  await stopClock(start - DAY)
  const { id } = await makeBlock(manager, callers, { name: 'Asked for a sample', count: 12 })
  const exportId = randomUUID()
  await addExport(manager, id, {
    id: exportId,
    dialer: DIALER,
    callerNumbers: ['(607) 555-0140', '(607) 555-0141'],
    message: 'This is Thornwick Sensing. You asked us for a sample logger; call us at (607) 555-0140.',
    tags: [`At ${DIALER}`],
  })
  await stopClock(start)
  const { rows } = await db().query<{ id: string }>(
    sql`select id from call_export_people where export_id = $1 order by position`,
    [exportId],
  )
  const calledAt = (minutes: number) => new Date(start - 18 * 3_600_000 + minutes * 60_000).toISOString()
  const results = [
    { outcome: 'No answer' },
    { outcome: 'Interested', note: 'Has two walk-in coolers; asked for a price' },
    { outcome: 'Left voicemail' },
    { outcome: 'Rang out twice' },
    { outcome: 'No answer' },
    { outcome: 'Busy' },
  ]
  await addResults(
    manager,
    exportId,
    results.map((result, index) => ({
      number: '',
      note: '',
      callBackAt: '',
      reason: '',
      ...result,
      id: rows[index]?.id ?? '',
      caller: 'Pat Ostrander',
      calledAt: calledAt(index * 4),
    })),
    'northgate-results.csv',
  )
  await logResults(exportId)
}
