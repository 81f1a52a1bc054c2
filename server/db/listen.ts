import { EventEmitter } from 'node:events'
import pg from 'pg'
import { log, loggable } from '../log'

/** What is said on the channels of the database, to those in this process who listen; of a lost connection, `null`. */
const heard = new EventEmitter().setMaxListeners(0)
/** How long until a lost connection is tried again, in milliseconds. */
const AGAIN_MS = 1_000

let listening: pg.Client | null = null
const channels = new Set<string>()

async function connect(): Promise<void> {
  const client = new pg.Client({ connectionString: process.env.DATABASE_URL, keepAlive: true })
  listening = client
  client.on('notification', ({ channel, payload }) => heard.emit(channel, payload ?? ''))
  client.on('error', (error) => log.warn({ error: loggable(error) }, 'Listening to the database was interrupted'))
  client.once('end', () => {
    if (listening !== client) return
    listening = null
    setTimeout(() => void connectWhileWanted(), AGAIN_MS).unref()
  })
  await client.connect()
  for (const channel of channels) await client.query(`listen ${pg.escapeIdentifier(channel)}`)
}

async function connectWhileWanted(): Promise<void> {
  if (listening || !channels.size) return
  try {
    await connect()
    // Something may have been said meanwhile.
    for (const channel of channels) heard.emit(channel, null)
  } catch {
    listening = null
    setTimeout(() => void connectWhileWanted(), AGAIN_MS).unref()
  }
}

/**
 * Listens to a channel of the database (LISTEN, NOTIFY), over one connection for the whole process; gives what ends it.
 * `run` is given what was said, or null where something may have been missed.
 */
export function onNotice(channel: string, run: (payload: string | null) => void): () => void {
  heard.on(channel, run)
  const isNew = !channels.has(channel)
  channels.add(channel)
  if (!listening) void connectWhileWanted()
  else if (isNew) void listening.query(`listen ${pg.escapeIdentifier(channel)}`).catch(() => {})
  return () => {
    heard.off(channel, run)
    if (heard.listenerCount(channel)) return
    channels.delete(channel)
    if (channels.size) return
    const client = listening
    listening = null
    void client?.end().catch(() => {})
  }
}
