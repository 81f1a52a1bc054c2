import { existsSync, readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath, pathToFileURL } from 'node:url'
import { Worker } from 'node:worker_threads'

/** What a piece of work in a thread may cost: seconds, and megabytes of memory. */
export interface ThreadLimits {
  seconds: number
  megabytes: number
}

/**
 * The file of a package that `import` finds, looked for upward from this file: a bundle holds only that one of the
 * package's files, and knows no `import.meta.resolve`.
 */
function addressOf(name: string): string {
  for (let folder = dirname(fileURLToPath(import.meta.url)); folder !== dirname(folder); folder = dirname(folder)) {
    const home = join(folder, 'node_modules', name)
    if (!existsSync(join(home, 'package.json'))) continue
    const { exports, module, main } = JSON.parse(readFileSync(join(home, 'package.json'), 'utf8')) as {
      exports?: Export
      module?: string
      main?: string
    }
    const file = [importOf(exports), module, main, 'index.js'].find((one) => one && existsSync(join(home, one)))
    if (file) return pathToFileURL(join(home, file)).href
  }
  throw new Error(`The package ${name} is not there`)
}

type Export = string | { [condition: string]: Export } | undefined

/** What `exports` of a package.json gives to `import` of the package itself. */
function importOf(given: Export): string | undefined {
  if (given === undefined || typeof given === 'string') return given
  return importOf(given['.'] ?? given.import ?? given.default)
}

/**
 * Runs a piece of plain JavaScript in a thread of its own, so that what users send can take no more than its share of
 * time and memory and stops nothing else. The script is text, so that it is found from wherever the program was bundled
 * to: the body of an async function of `data` and `load(name)`, for the packages named, that returns the result.
 * Rejects where it fails or exceeds its limits.
 */
export function runInThread<T>(
  script: string,
  data: unknown,
  packages: readonly string[],
  limits: ThreadLimits,
): Promise<T> {
  const addresses = Object.fromEntries(packages.map((name) => [name, addressOf(name)]))
  const text = `const { parentPort, workerData } = require('node:worker_threads')
    const load = name => import(workerData.addresses[name]).then(found => found.default ?? found)
    const work = async (data) => { ${script} }
    const fail = (error) => { setImmediate(() => { throw error }) }
    work(workerData.data).then(result => parentPort.postMessage(result), fail)`
  return new Promise((resolve, reject) => {
    const thread = new Worker(text, {
      eval: true,
      workerData: { data, addresses },
      resourceLimits: { maxOldGenerationSizeMb: limits.megabytes, maxYoungGenerationSizeMb: 32 },
    })
    const timer = setTimeout(
      () => finish(() => reject(new Error(`This took longer than ${limits.seconds} seconds`))),
      limits.seconds * 1_000,
    )
    const finish = (end: () => void) => {
      clearTimeout(timer)
      end()
      void thread.terminate()
    }
    thread.once('message', (result: T) => finish(() => resolve(result)))
    thread.once('error', (error) => finish(() => reject(error)))
    thread.once('exit', () => finish(() => reject(new Error('This could not be read'))))
  })
}
