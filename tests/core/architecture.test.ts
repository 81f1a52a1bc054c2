import { readdirSync, readFileSync } from 'node:fs'
import { dirname, join, normalize } from 'node:path'
import { expect, it } from 'vitest'

const ROOT = new URL('../../', import.meta.url).pathname
const ALIASES = { '#core/': 'core/', '#shared/': 'shared/', '~/': 'app/' }
const FOLDERS = ['core', 'shared', 'server', 'app', 'standins', 'demo', 'bench', 'tests']

const files = FOLDERS.flatMap((folder) =>
  readdirSync(join(ROOT, folder), { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name).slice(ROOT.length)),
)
const known = new Set(files)

/** The file of ours that an import names; null for a package. */
function target(specifier: string, from: string): string | null {
  const alias = Object.entries(ALIASES).find(([prefix]) => specifier.startsWith(prefix))
  if (!alias && !specifier.startsWith('.')) return null
  const path = alias
    ? alias[1] + specifier.slice(alias[0].length)
    : normalize(join(dirname(from), specifier)).replace(/\/$/, '')
  return ['', '.ts', '.vue', '/index.ts'].map((end) => path + end).find((one) => known.has(one)) ?? null
}

/** What each file, or with `folders` each folder, imports. */
function importsOf(folders: boolean): Map<string, Set<string>> {
  const graph = new Map<string, Set<string>>()
  for (const file of files.filter((name) => /\.(ts|vue)$/.test(name) && !name.startsWith('tests/'))) {
    for (const [, specifier] of readFileSync(join(ROOT, file), 'utf8').matchAll(/ from '([^']+)'/g)) {
      const to = target(specifier!, file)
      if (!to) continue
      const [a, b] = folders ? [dirname(file), dirname(to)] : [file, to]
      if (a !== b) graph.set(a, (graph.get(a) ?? new Set()).add(b))
    }
  }
  return graph
}

/** A way round in a circle, if there is one. */
function circle(graph: ReadonlyMap<string, ReadonlySet<string>>): string[] | null {
  const done = new Set<string>()
  const follow = (node: string, way: readonly string[]): string[] | null => {
    if (way.includes(node)) return [...way.slice(way.indexOf(node)), node]
    if (done.has(node)) return null
    for (const next of graph.get(node) ?? []) {
      const found = follow(next, [...way, node])
      if (found) return found
    }
    done.add(node)
    return null
  }
  for (const node of graph.keys()) {
    const found = follow(node, [])
    if (found) return found
  }
  return null
}

it('no file imports itself by way of others', () => expect(circle(importsOf(false))).toBeNull())
it('no folder imports itself by way of others', () => expect(circle(importsOf(true))).toBeNull())
it('a circle is found where there is one', () => {
  expect(
    circle(
      new Map([
        ['a', new Set(['b'])],
        ['b', new Set(['c'])],
        ['c', new Set(['b'])],
      ]),
    ),
  ).toEqual(['b', 'c', 'b'])
})
it('no folder holds more than 18 files', () => {
  const counts = new Map<string, number>()
  for (const file of files) counts.set(dirname(file), (counts.get(dirname(file)) ?? 0) + 1)
  // Migrations are a sequence that only grows.
  counts.delete('server/db/migrations')
  expect([...counts].filter(([, count]) => count > 18)).toEqual([])
})
