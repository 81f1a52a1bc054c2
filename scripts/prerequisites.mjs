import { existsSync, readdirSync, statfsSync } from 'node:fs'
import { fail, say } from './log.mjs'
import { find, isRoot, run } from './shell.mjs'

/** The folder with PostgreSQL's server programs, or null. */
export function postgresFolder() {
  const base = '/usr/lib/postgresql'
  const versions = existsSync(base) ? readdirSync(base).filter((name) => existsSync(`${base}/${name}/bin/initdb`)) : []
  const newest = versions.sort((a, b) => Number(b) - Number(a))[0]
  if (newest) return `${base}/${newest}/bin`
  const found = find('initdb')
  return found ? found.replace(/\/initdb$/, '') : null
}

/** Where Chromium is, or null. */
export const chromium = () => find('chromium', ['/usr/bin/chromium'])

const NEEDS = {
  postgres: {
    there: () => postgresFolder() !== null,
    packages: ['postgresql', 'postgresql-contrib'],
    what: 'PostgreSQL',
  },
  chromium: { there: () => chromium() !== null, packages: ['chromium', 'fonts-liberation'], what: 'Chromium' },
}

/**
 * Makes sure that what is named (postgres, chromium) is on the machine: installs it as root, else says the exact
 * command.
 */
export function ensurePackages(names) {
  const missing = names.filter((name) => !NEEDS[name].there())
  if (!missing.length) return
  const packages = missing.flatMap((name) => NEEDS[name].packages)
  const what = missing.map((name) => NEEDS[name].what).join(' and ')
  const command = `apt-get update && apt-get install -y --no-install-recommends ${packages.join(' ')}`
  if (!isRoot()) fail(`${what} is not on this machine and this user may not install it. Run: sudo sh -c '${command}'`)
  say(`Installing ${what} …`)
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  // A cluster of Debian's own is not wanted: ours has its own folder and port.
  run('sh', [
    '-c',
    'mkdir -p /etc/postgresql-common && grep -qs create_main_cluster /etc/postgresql-common/createcluster.conf || echo "create_main_cluster = false" >> /etc/postgresql-common/createcluster.conf',
  ])
  const update = run('apt-get', ['update'], { env })
  const install = run('apt-get', ['install', '-y', '--no-install-recommends', ...packages], { env })
  if (install.code !== 0 || names.some((name) => !NEEDS[name].there())) {
    fail(
      `${what} could not be installed. Run this and look at what it says: ${command}\n${(update.code ? update.output : install.output).split('\n').slice(-3).join('\n')}`,
    )
  }
}

/** Ends with a sentence where the disk that holds `folder` has less than `megabytes` left. */
export function ensureSpace(folder, megabytes) {
  let at = folder
  while (!existsSync(at)) at = at.replace(/\/[^/]*$/, '') || '/'
  const { bavail, bsize } = statfsSync(at)
  const free = Math.floor((bavail * bsize) / 1e6)
  if (free < megabytes) {
    fail(`The disk is full: ${free} MB are left at ${at}, ${megabytes} MB are needed. Make room and start again.`)
  }
}
