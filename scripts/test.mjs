import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { ensureBuilt, ensurePackagesInstalled } from './build.mjs'
import { clusterFolder, startCluster } from './database.mjs'
import { ensurePackages, ensureSpace } from './prerequisites.mjs'
import { say } from './log.mjs'
import { collect, show } from './shell.mjs'
import { makeTemplate } from './world.mjs'

/** npm test: types, format, lint, tests of core, server and browser; its last line is "N passed, N failed". */
ensureSpace(clusterFolder('test'), 5_000)
ensurePackages(['postgres', 'chromium'])
ensurePackagesInstalled()
rmSync('test-results', { recursive: true, force: true })
mkdirSync('test-results', { recursive: true })
let passed = 0
let failed = 0

/** Runs checks one after the other; what each printed is shown at its end. */
async function check(checks) {
  for (const [what, command, args] of checks) {
    const { code, output } = await collect(command, args)
    say([`— ${what}`, output].filter(Boolean).join('\n'))
    if (code === 0) passed++
    else failed++
  }
}
/** Runs a test runner and reads what it wrote down; a run that died without a word, or ran nothing, is a failure. */
async function runTests(args, env, file, read) {
  const code = await show('npx', args, { env: { ...process.env, ...env } })
  try {
    const results = read(JSON.parse(readFileSync(file, 'utf8')))
    passed += results.passed
    failed += results.failed || Number(code !== 0 || results.passed === 0)
  } catch {
    failed++
  }
}

/** Shows what was on the page at the end of the first two browser tests that failed. */
function showPages(folder) {
  if (!existsSync(folder)) return
  const failures = readdirSync(folder, { recursive: true }).filter((path) => path.endsWith('error-context.md'))
  for (const path of failures.slice(0, 2)) {
    const [, page = ''] = /```yaml\n(.*?)\n```/s.exec(readFileSync(`${folder}/${path}`, 'utf8')) ?? []
    say(`— on the page at the end of ${path}\n${page.replace(/ \[(ref|cursor)=\w+\]/g, '')}`)
  }
}

// Each of them keeps one core busy.
await Promise.all([
  check([['types', process.execPath, ['scripts/typecheck.mjs']]]),
  check([
    ['format', 'npx', ['prettier', '--check', '--log-level', 'warn', '.']],
    ['lint', 'npx', ['eslint', '.']],
    ['unused code', 'npx', ['knip']],
  ]),
])
ensureBuilt()
const cluster = await startCluster('test', { noFsync: true })
say('— core, server and commands')
await runTests(
  ['vitest', 'run', '--reporter=default', '--reporter=json', '--outputFile.json=test-results/vitest.json'],
  {},
  'test-results/vitest.json',
  (results) => ({
    passed: results.numPassedTests,
    failed:
      results.numFailedTests +
      results.testResults.filter((file) => file.status === 'failed' && !file.assertionResults.length).length,
  }),
)
say('— browser')
await runTests(
  ['playwright', 'test'],
  { WORLD_TEMPLATE: await makeTemplate('test') },
  'test-results/playwright.json',
  (results) => ({ passed: results.stats.expected, failed: results.stats.unexpected + results.stats.flaky }),
)
showPages('test-results/browser')
// A run's databases take gigabytes.
cluster.remove()
say(`${passed} passed, ${failed} failed`)
process.exit(failed ? 1 : 0)
