import { measureBlock } from './block'
import { measureCompany } from './company'
import { measureDesk } from './desk'
import { measureDue } from './due'
import { measureForecast } from './forecast'
import { measureImport, measureMillionRows } from './import'
import { measureLines } from './lines'
import { measureLists } from './lists'
import { measureMail } from './mail'
import { line, type Measured } from './measure'
import { measureOutcome } from './outcome'
import { measureQueue } from './queue'
import { measureTable } from './table'

const PARTS: Record<string, () => Promise<Measured | string | (Measured | string)[]>> = {
  import: measureImport,
  million: measureMillionRows,
  outcome: measureOutcome,
  queue: measureQueue,
  lines: measureLines,
  lists: measureLists,
  mail: measureMail,
  desk: measureDesk,
  block: measureBlock,
  company: measureCompany,
  due: measureDue,
  forecast: measureForecast,
  table: measureTable,
}
const asked = process.argv.slice(2).filter((name) => name in PARTS)
for (const [name, measure] of Object.entries(PARTS)) {
  if (asked.length && !asked.includes(name)) continue
  try {
    const measured = await measure()
    for (const one of [measured].flat()) console.log(typeof one === 'string' ? one : line(one))
  } catch (error) {
    console.error(`${name} could not be measured:`, error)
    process.exitCode = 1
  }
}
process.exit()
