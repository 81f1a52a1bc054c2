import { build } from 'esbuild'

/**
 * Bundles the programs that run beside the web process. Packages stay outside: they are on disk anyway.
 * Usage: node scripts/bundle.mjs [folder]
 */
const folder = process.argv[2] ?? '.output/programs'
await build({
  entryPoints: {
    worker: 'server/programs/worker.ts',
    migrate: 'server/programs/migrate.ts',
    seed: 'demo/seed.ts',
    admin: 'server/programs/admin.ts',
    check: 'server/programs/check.ts',
    mail: 'standins/mail/main.ts',
    lines: 'standins/lines/main.ts',
    texts: 'standins/texts/main.ts',
  },
  outdir: folder,
  outExtension: { '.js': '.mjs' },
  bundle: true,
  splitting: true,
  platform: 'node',
  target: 'node20',
  format: 'esm',
  packages: 'external',
  logLevel: 'warning',
  sourcemap: true,
})
