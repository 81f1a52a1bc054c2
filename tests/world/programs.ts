import { spawn, type ChildProcess } from 'node:child_process'
import { createServer } from 'node:net'

/** Where the set-up of the server tests puts the bundled programs. */
export const PROGRAMS = 'node_modules/.cache/uphill-programs'

const children: ChildProcess[] = []

export const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

export const freePort = () =>
  new Promise<number>((resolve) => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number }
      probe.close(() => resolve(port))
    })
  })

/** Starts one of the programs as a process of its own. */
export function start(program: string, env: Record<string, string>): ChildProcess {
  const child = spawn(process.execPath, [`${PROGRAMS}/${program}.mjs`], {
    env: { ...process.env, ...env },
    stdio: ['ignore', 'ignore', 'ignore'],
  })
  children.push(child)
  return child
}

/** Ends every program that was started, but the one named, the ungentle way. */
export function killAll(but?: ChildProcess): void {
  for (const child of children) if (child !== but) child.kill('SIGKILL')
}

/** Looks again and again until what is looked for is there, or `ms` have passed; gives what was seen last. */
export async function until<T>(look: () => Promise<T>, good: (seen: T) => boolean, ms = 30_000): Promise<T> {
  const end = Date.now() + ms
  for (;;) {
    const seen = await look()
    if (good(seen) || Date.now() > end) return seen
    await pause(50)
  }
}
