import { expect, test as base } from '@playwright/test'
import { endPrograms } from '../../scripts/processes.mjs'
import { freePorts, startWorld } from '../../scripts/world.mjs'

/** A running Uphill with its stand-ins: where it is, and what its programs were given. */
export interface World {
  url: string
  settings: Record<string, string>
}

/** What each test has, whether it asks for it or not. */
interface Given {
  noScriptErrors: undefined
  closedAfterwards: undefined
  world: World
  seedData: boolean
}

let running: { file: string; world: World } | null = null

/**
 * The world of a file: a copy of the sample data, or an installation without any. What ran for the file before is
 * ended.
 */
async function worldOf(file: string, seedData: boolean): Promise<World> {
  if (running?.file === file) return running.world
  if (running) await endPrograms()
  const started = await startWorld({
    kind: 'test',
    ports: await freePorts(),
    noFsync: true,
    database: `browser_${Date.now()}`,
    seedData,
    ...(seedData && { template: process.env.WORLD_TEMPLATE }),
    env: { RING_MS: '300', ...(!seedData && { UPHILL_DEMO: '' }) },
  })
  const world = { url: started.url, settings: started.settings as Record<string, string> }
  running = { file, world }
  return world
}

/**
 * A test in the world of its file, during which no screen may break: whatever the browser says of errors in our own
 * code fails it. With `seedData: false` the world is an installation without data.
 */
export const test = base.extend<Given>({
  seedData: [true, { option: true }],
  world: [async ({ seedData }, use, { file }) => use(await worldOf(file, seedData)), { auto: true, timeout: 120_000 }],
  baseURL: async ({ world }, use) => use(world.url),
  // What a test asks for by itself says where it comes from, as a browser does: writes without that are blocked.
  extraHTTPHeaders: async ({ world }, use) => use({ origin: world.url }),
  // What a test opened beside its own page would go on asking a world that has ended.
  closedAfterwards: [
    async ({ browser, context }, use) => {
      await use(undefined)
      for (const other of browser.contexts()) if (other !== context) await other.close()
    },
    { auto: true },
  ],
  noScriptErrors: [
    async ({ context }, use) => {
      const broken: string[] = []
      context.on('weberror', (error) => broken.push(error.error().message))
      context.on('console', (message) => {
        if (message.type() === 'error' && /\b(Type|Range|Reference|Syntax)Error\b/.test(message.text())) {
          broken.push(message.text())
        }
      })
      await use(undefined)
      expect(broken).toEqual([])
    },
    { auto: true },
  ],
})
