/** Ends this program on a signal, or when the program that started it has ended. */
export function exitWithParent(): void {
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => process.exit(0))
  process.on('disconnect', () => process.exit(0))
}
