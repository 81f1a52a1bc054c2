/** Prints what is being done, for anyone who waits. */
export function say(text) {
  process.stdout.write(`${text}\n`)
}

/** Ends the program with one clear sentence and a non-zero exit. */
export function fail(sentence) {
  process.stderr.write(`${sentence}\n`)
  process.exit(1)
}
