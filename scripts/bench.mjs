import { ensureBuilt, ensurePackagesInstalled } from './build.mjs'
import { startCluster } from './database.mjs'
import { ensurePackages, ensureSpace, postgresFolder } from './prerequisites.mjs'
import { PROGRAM_FLAGS } from './processes.mjs'
import { show } from './shell.mjs'
import { say } from './log.mjs'

/**
 * npm run bench: speed as ratios, each against a baseline measured beside it in the same run. Names of parts narrow it.
 */
ensureSpace('/var/lib', 3_000)
ensurePackages(['postgres', 'chromium'])
ensurePackagesInstalled()
ensureBuilt()
const { build } = await import('esbuild')
await build({
  entryPoints: ['bench/main.ts'],
  outdir: 'node_modules/.cache/uphill-bench',
  outExtension: { '.js': '.mjs' },
  bundle: true,
  platform: 'node',
  target: 'node20',
  format: 'esm',
  packages: 'external',
  logLevel: 'warning',
})
const cluster = await startCluster('bench')
say('Measuring. This takes some minutes; leave the machine alone meanwhile.')
const code = await show(
  process.execPath,
  [...PROGRAM_FLAGS, 'node_modules/.cache/uphill-bench/main.mjs', ...process.argv.slice(2)],
  { env: { ...process.env, BENCH_CLUSTER: cluster.url('NAME'), PG_BIN: postgresFolder() } },
)
cluster.stop()
process.exit(code)
