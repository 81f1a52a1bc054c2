import { limitStatements } from '../db/pool'
import { endStreams } from '../http/eventStream'

/** How long someone is kept waiting for one statement, in milliseconds. */
const WEB_STATEMENT_MS = 20_000

/**
 * Ends the web process with the program that started it: a channel that breaks means that nobody is left to stop us.
 * Started by hand there is no channel, and nothing is listened for. Asked to end, it does so without waiting for those
 * who look at changes.
 */
export default () => {
  limitStatements(WEB_STATEMENT_MS)
  for (const signal of ['SIGTERM', 'SIGINT'] as const) process.once(signal, endStreams)
  if (process.connected) process.once('disconnect', () => process.exit(0))
}
