import { createRequire } from 'node:module'
import { Worker } from 'node:worker_threads'

/** What a piece of work in a thread may cost: seconds, and megabytes of memory. */
export interface ThreadLimits { seconds: number, megabytes: number }

/**
 * Runs a piece of plain JavaScript in a thread of its own, so that what users send can take no more than its share of time
 * and memory and stops nothing else. The script is text, so that it is found from wherever the program was bundled to; it
 * has `data`, `load(name)` for the packages named, and `done(result)`. Rejects where it fails or exceeds its limits.
 */
export function runInThread<T>(script: string, data: unknown, packages: readonly string[], limits: ThreadLimits): Promise<T> {
  const require = createRequire(import.meta.url)
  const paths = Object.fromEntries(packages.map(name => [name, require.resolve(name)]))
  const text = `const { parentPort, workerData } = require('node:worker_threads')
    const { data, paths } = workerData
    const load = name => require(paths[name])
    const done = result => parentPort.postMessage(result)
    ${script}`
  return new Promise((resolve, reject) => {
    const thread = new Worker(text, { eval: true, workerData: { data, paths }, resourceLimits: { maxOldGenerationSizeMb: limits.megabytes, maxYoungGenerationSizeMb: 32 } })
    const timer = setTimeout(() => finish(() => reject(new Error(`This took longer than ${limits.seconds} seconds`))), limits.seconds * 1_000)
    const finish = (end: () => void) => {
      clearTimeout(timer)
      end()
      void thread.terminate()
    }
    thread.once('message', (result: T) => finish(() => resolve(result)))
    thread.once('error', error => finish(() => reject(error)))
    thread.once('exit', () => finish(() => reject(new Error('This could not be read'))))
  })
}
