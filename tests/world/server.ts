import { createServer, type Server } from 'node:http'
import { createApp, createRouter, toNodeListener, type EventHandler } from 'h3'

const routes = import.meta.glob<{ default: EventHandler }>(
  ['../../server/api/**/*.ts', '../../server/routes/**/*.ts'],
  { eager: true },
)

/** Every route file as method and address, as the framework reads their names. */
export function routeFiles(): { method: string; path: string; handler: EventHandler }[] {
  return Object.entries(routes).map(([file, module]) => {
    const name = file.replace('../../server/', '/').replace('/routes/', '/').replace(/\.ts$/, '')
    const [, path, method] = /^(.*?)(?:\.(get|post|put|patch|delete))?$/.exec(name)!
    return {
      method: method ?? 'all',
      path: path!
        .replace(/\/index$/, '')
        .replace(/\[\.\.\.\w+\]/, '**')
        .replace(/\[(\w+)\]/g, '{$1}'),
      handler: module.default,
    }
  })
}

/** The routes behind a real HTTP server on loopback, without the interface. */
export async function serve(): Promise<{ url: string; close(): Promise<void> }> {
  const router = createRouter()
  for (const { method, path, handler } of routeFiles()) {
    const address = path.replace(/\{(\w+)\}/g, ':$1')
    if (method === 'all') router.use(address, handler)
    else router[method as 'get'](address, handler)
  }
  const server: Server = createServer(toNodeListener(createApp().use(router)))
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const address = server.address()
  return {
    url: `http://127.0.0.1:${typeof address === 'object' ? address!.port : 0}`,
    close: () => new Promise((ended) => server.close(() => ended())),
  }
}
