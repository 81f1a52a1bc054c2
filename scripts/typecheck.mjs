import { run } from './shell.mjs'

/**
 * Checks the types of everything: core without any surroundings, the programs with Node's, the interface with the
 * browser's.
 */
run('npx', ['nuxt', 'prepare'])
const checks = [
  ['core', 'tsc', ['-p', 'tsconfig.core.json']],
  ['programs and tests', 'tsc', ['-p', 'tsconfig.programs.json']],
  ['interface', 'vue-tsc', ['--noEmit', '-p', '.nuxt/tsconfig.app.json']],
]
let failed = 0
for (const [what, command, args] of checks) {
  const { code, output } = run('npx', [command, ...args])
  process.stdout.write(`types of ${what}: ${code === 0 ? 'in order' : 'wrong'}\n`)
  if (code !== 0) process.stdout.write(`${output}\n`)
  failed += code === 0 ? 0 : 1
}
process.exit(failed ? 1 : 0)
