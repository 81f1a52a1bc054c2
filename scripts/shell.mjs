import { spawn, spawnSync } from 'node:child_process'

/** Runs a command to its end; gives its exit code and output. Nothing goes through a shell. */
export function run(command, args, options = {}) {
  const done = spawnSync(command, args, { encoding: 'utf8', maxBuffer: 64 << 20, ...options })
  return {
    code: done.error ? 127 : (done.status ?? 1),
    output: `${done.stdout ?? ''}${done.stderr ?? ''}`.trim(),
    stdout: done.stdout ?? '',
  }
}

/** Runs a command that prints for itself; gives its exit code. */
export function show(command, args, options = {}) {
  return new Promise((resolve) => {
    const child = spawn(command, args, { stdio: 'inherit', ...options })
    child.on('error', () => resolve(127))
    child.on('exit', (code) => resolve(code ?? 1))
  })
}

/** Runs a command beside others; gives its exit code and output at its end. */
export function collect(command, args) {
  return new Promise((resolve) => {
    const child = spawn(command, args, { stdio: ['ignore', 'pipe', 'pipe'] })
    let output = ''
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (part) => (output += part))
    child.on('error', () => resolve({ code: 127, output }))
    child.on('close', (code) => resolve({ code: code ?? 1, output: output.trim() }))
  })
}

/** Whether a program is on the PATH or at one of the places given; gives where. */
export function find(program, places = []) {
  for (const place of places) if (run('test', ['-x', place]).code === 0) return place
  const found = run('sh', ['-c', `command -v ${program}`])
  return found.code === 0 ? found.output.split('\n')[0] : null
}

export const isRoot = () => process.getuid?.() === 0
