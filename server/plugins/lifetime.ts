/**
 * Ends the web process with the program that started it: a channel that breaks means that nobody is left to stop us.
 * Started by hand there is no channel, and nothing is listened for.
 */
export default () => {
  if (process.connected) process.once('disconnect', () => process.exit(0))
}
