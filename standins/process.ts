/** Ends this program when it is told to, or when the program that started it is gone. */
export function exitWithParent(): void {
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => process.exit(0))
  process.on('disconnect', () => process.exit(0))
}
