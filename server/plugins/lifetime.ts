import { limitStatements } from '../db/pool'

/** How long someone is kept waiting for one statement, in milliseconds. */
const WEB_STATEMENT_MS = 20_000

/**
 * Ends the web process with the program that started it: a channel that breaks means that nobody is left to stop us.
 * Started by hand there is no channel, and nothing is listened for.
 */
export default () => {
  limitStatements(WEB_STATEMENT_MS)
  if (process.connected) process.once('disconnect', () => process.exit(0))
}
