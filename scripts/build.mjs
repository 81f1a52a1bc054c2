import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fail, say } from './log.mjs'
import { run } from './shell.mjs'

const SOURCES = [
  'app',
  'core',
  'shared',
  'server',
  'standins',
  'demo',
  'public',
  'scripts',
  'nuxt.config.ts',
  'package.json',
  'package-lock.json',
]

/** A digest of everything a build is made from. */
function digestOf(paths) {
  const hash = createHash('sha256')
  const visit = (path) => {
    if (!existsSync(path)) return
    if (statSync(path).isDirectory()) for (const name of readdirSync(path).sort()) visit(join(path, name))
    else hash.update(path).update(readFileSync(path))
  }
  paths.forEach(visit)
  return hash.digest('hex')
}

/** Whether what was made last is still what would be made now; `remember` notes that it is. */
function stamp(file, digest) {
  return {
    fresh: existsSync(file) && readFileSync(file, 'utf8') === digest,
    remember: () => {
      mkdirSync(dirname(file), { recursive: true })
      writeFileSync(file, digest)
    },
  }
}

/** Installs the npm packages of the lock file unless they are there. */
export function ensurePackagesInstalled() {
  const mark = stamp('node_modules/.uphill', digestOf(['package-lock.json']))
  if (mark.fresh) return
  const { packages } = JSON.parse(readFileSync('package-lock.json', 'utf8'))
  say(`Installing ${Object.keys(packages).length - 1} npm packages, which takes one to three minutes …`)
  const done = run('npm', ['install', '--no-save', '--no-audit', '--no-fund'])
  if (done.code !== 0) {
    fail(
      `The npm packages could not be installed: ${done.output
        .split('\n')
        .filter((line) => /ERR|error/i.test(line))
        .slice(-3)
        .join(' ')}`,
    )
  }
  mark.remember()
}

/** Builds the web program and the programs beside it unless nothing has changed since. */
export function ensureBuilt() {
  const mark = stamp('.output/made-from', digestOf(SOURCES))
  if (mark.fresh && existsSync('.output/server/index.mjs') && existsSync('.output/programs/worker.mjs')) return
  say('Building …')
  const env = { ...process.env, NODE_ENV: 'production', NUXT_TELEMETRY_DISABLED: '1' }
  const web = run('npx', ['nuxt', 'build'], { env })
  if (web.code !== 0) fail(`The build failed:\n${web.output.split('\n').slice(-20).join('\n')}`)
  const programs = run('node', ['scripts/bundle.mjs'], { env })
  if (programs.code !== 0) fail(`The build failed:\n${programs.output.split('\n').slice(-20).join('\n')}`)
  mark.remember()
}
