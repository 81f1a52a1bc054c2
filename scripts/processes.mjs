import { spawn } from 'node:child_process'
import { createServer } from 'node:net'
import { fail } from './log.mjs'

/**
 * What every program of ours is run with. Answers and files make many short-lived objects: with more room for the young
 * (in MB) these are gone before they would have to be moved.
 */
export const PROGRAM_FLAGS = ['--enable-source-maps', '--max-semi-space-size=32']

const children = new Map()
let ending = false

/**
 * Starts a Node program beside this one. It is detached, with a channel to us, and ends by itself when we are gone. Its
 * errors are passed on with its name before them; where it ends unasked, `onEnd` is called.
 */
export function startProgram(
  name,
  file,
  env,
  onEnd = (code) => stopAll(`The ${name} program ended unexpectedly (exit ${code}).`),
) {
  ending = false
  const child = spawn(process.execPath, [...PROGRAM_FLAGS, file], {
    env: { ...process.env, ...env },
    detached: true,
    stdio: ['ignore', 'pipe', 'pipe', 'ipc'],
  })
  children.set(name, child)
  const pass = (stream) =>
    stream.on('data', (data) =>
      String(data)
        .split('\n')
        .filter(Boolean)
        .forEach((line) => process.env.UPHILL_QUIET || process.stderr.write(`[${name}] ${line}\n`)),
    )
  pass(child.stderr)
  if (process.env.UPHILL_LOG) child.stdout.pipe(process.stdout, { end: false })
  else if (process.env.UPHILL_VERBOSE) pass(child.stdout)
  else child.stdout.resume()
  child.on('exit', (code) => {
    if (children.get(name) === child) children.delete(name)
    if (!ending) onEnd(code)
  })
  return child
}

/**
 * How long a program has to live before its restarts are counted from nothing again, and the longest wait before a
 * restart (ms).
 */
const STEADY = 60_000
const LONGEST_WAIT = 30_000

/**
 * Keeps a program running: where it ends, it is started again after a wait that doubles with every end in a row. Other
 * programs go on meanwhile. `report` is called for each end.
 */
export function superviseProgram(name, file, env, report = () => {}) {
  let ends = 0
  const start = () => {
    const startedAt = Date.now()
    startProgram(name, file, env, (code) => {
      if (Date.now() - startedAt > STEADY) ends = 0
      const wait = Math.min(LONGEST_WAIT, 500 * 2 ** ends++)
      report(`The ${name} program ended (exit ${code}). It is started again in ${wait / 1_000} s.`)
      setTimeout(() => {
        if (!ending) start()
      }, wait)
    })
  }
  start()
}

/** Ends every program that was started here and nothing else. */
export async function endPrograms() {
  ending = true
  const open = [...children.values()]
  await Promise.all(
    open.map(
      (child) =>
        new Promise((resolve) => {
          if (child.exitCode !== null) return resolve()
          child.once('exit', resolve)
          child.kill('SIGINT')
          setTimeout(() => {
            child.kill('SIGKILL')
            resolve()
          }, 6_000).unref()
        }),
    ),
  )
}

async function stopAll(sentence) {
  await endPrograms()
  fail(sentence)
}

/** Whether nobody listens on the port on loopback. */
export function portIsFree(port) {
  return new Promise((resolve) => {
    const probe = createServer()
    probe.once('error', () => resolve(false))
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)))
  })
}

/** Asks an address until it answers well; gives whether it did within the time. */
export async function answers(url, ms = 30_000) {
  for (const until = Date.now() + ms; Date.now() < until;) {
    const response = await fetch(url, { signal: AbortSignal.timeout(2_000) }).catch(() => null)
    if (response?.ok) return true
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  return false
}
