import pino from 'pino'

/**
 * The log of a program: one JSON object a line on standard output. It holds ids, codes, routes and times, no names, no
 * addresses, nothing that users wrote. LOG_LEVEL sets how much is said; tests say nothing.
 */
export const log = pino({
  level: process.env.LOG_LEVEL ?? (process.env.VITEST ? 'silent' : 'info'),
  base: { pid: process.pid },
  timestamp: pino.stdTimeFunctions.isoTime,
  formatters: { level: (label) => ({ level: label }) },
})

/** An error as the log may hold it: what kind it is and where it happened; values in its message are left out. */
export function loggable(error: unknown): Record<string, unknown> {
  if (!(error instanceof Error)) return { message: withoutValues(String(error)) }
  const { code } = error as { code?: unknown }
  const places = (error.stack ?? '')
    .split('\n')
    .filter((line) => /^\s+at /.test(line))
    .slice(0, 8)
    .map((line) => line.trim())
  return { name: error.name, ...(typeof code === 'string' && { code }), message: withoutValues(error.message), places }
}

/** A message without quoted values, addresses and numbers of people. */
function withoutValues(message: string): string {
  return message
    .split('\n')[0]!
    .slice(0, 500)
    .replace(/"[^"]*"|'[^']*'|“[^”]*”/g, '"…"')
    .replace(/[^\s@<>]+@[^\s@<>]+/g, '…@…')
    .replace(/\+?\d[\d\s().-]{6,}\d/g, '…')
}
