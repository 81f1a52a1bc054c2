import { spawn } from 'node:child_process'

/** The built web program on a port of its own, run with the flags this program has, answering; `end` stops it. */
export async function startWeb(port: number, env: Record<string, string> = {}): Promise<{ url: string; end(): void }> {
  const web = spawn(process.execPath, [...process.execArgv, '.output/server/index.mjs'], {
    env: { ...process.env, HOST: '127.0.0.1', PORT: String(port), NODE_ENV: 'production', ...env },
    stdio: ['ignore', 'ignore', 'inherit'],
  })
  const url = `http://127.0.0.1:${port}`
  for (let tries = 0; tries < 200; tries++) {
    const up = await fetch(`${url}/api/health`, { signal: AbortSignal.timeout(1_000) }).then(
      (response) => response.ok,
      () => false,
    )
    if (up) return { url, end: () => web.kill('SIGKILL') }
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  web.kill('SIGKILL')
  throw new Error('The web program does not answer')
}
