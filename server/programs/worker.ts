import { checkEnvironment } from '../environment'
import { closePool } from '../db/pool'
import { startWorker } from '../jobs/worker'
import { log } from '../log'

const problems = checkEnvironment()
if (problems.length) {
  for (const problem of problems) console.error(problem)
  process.exit(1)
}
const worker = await startWorker()
log.info('The worker has started')
let ending = false
const end = async () => {
  if (ending) return
  ending = true
  // What hangs is cut off: everything under way can be taken up by the next worker.
  setTimeout(() => process.exit(0), 5_000).unref()
  await worker.stop()
  await closePool()
  process.exit(0)
}
process.on('SIGINT', () => void end())
process.on('SIGTERM', () => void end())
process.on('disconnect', () => void end())
