import { Socket } from 'node:net'
import pg from 'pg'

/** What a query can be sent through: the pool, or one connection inside a transaction. */
export interface Db {
  query<R extends pg.QueryResultRow = pg.QueryResultRow>(text: string, values?: unknown[]): Promise<pg.QueryResult<R>>
  query<R extends pg.QueryResultRow = pg.QueryResultRow>(config: pg.QueryConfig): Promise<pg.QueryResult<R>>
}

// bigint comes from ms() and count(*): both stay far below 2^53.
pg.types.setTypeParser(pg.types.builtins.INT8, Number)

let pool: pg.Pool | null = null
let statementTimeout: number | undefined

/**
 * How long the statements of this process may take, in milliseconds; they are canceled after that (code 57014). For
 * programs that someone waits for. Called before the pool is opened.
 */
export function limitStatements(ms: number | undefined): void {
  statementTimeout = ms
}

/**
 * A socket that sends together what is written in one turn of the loop. Statements that do not wait for each other then
 * cost one packet, and one waking of the server, instead of one each.
 */
function gatheringSocket(): Socket {
  const socket = new Socket()
  let gathering = false
  // Only once connected: connecting puts the socket's own `write` back.
  socket.once('connect', () => {
    const write = socket.write.bind(socket) as (data: Uint8Array) => boolean
    socket.write = (data: string | Uint8Array) => {
      if (!gathering) {
        gathering = true
        socket.cork()
        process.nextTick(() => {
          gathering = false
          socket.uncork()
        })
      }
      return write(data as Uint8Array)
    }
  })
  return socket
}

/**
 * Opens a pool whose connections send a statement without waiting for the answer to the one before; what must wait
 * awaits it. A lost connection is reported to `complain` and replaced; it never ends the process. COPY needs a
 * connection to itself: `connectForCopy`.
 */
export function openPool(url: string, size = 10, complain: (error: Error) => void = () => {}): pg.Pool {
  const opened = new pg.Pool({
    ...(statementTimeout && { statement_timeout: statementTimeout, idle_in_transaction_session_timeout: 60_000 }),
    connectionString: url,
    max: size,
    connectionTimeoutMillis: 5_000,
    idleTimeoutMillis: 30_000,
    pipeline: true,
    stream: gatheringSocket,
  })
  opened.on('error', complain)
  opened.on('connect', (client) => client.on('error', complain))
  return opened
}

/** The process's pool, opened on first use with DATABASE_URL. Throws where that is missing. */
export function db(): pg.Pool {
  const url = process.env.DATABASE_URL
  if (!url) throw new Error('DATABASE_URL is not set')
  pool ??= openPool(url, Number(process.env.DATABASE_POOL ?? 10))
  return pool
}

/** Closes the process's pool if it was opened; the next use opens another. */
export async function closePool(): Promise<void> {
  const closing = pool
  pool = null
  await closing?.end()
}

/** A connection outside the pool, for streaming with COPY; the caller ends it. */
export async function connectForCopy(): Promise<pg.Client> {
  const client = new pg.Client({ connectionString: process.env.DATABASE_URL, connectionTimeoutMillis: 5_000 })
  client.on('error', () => {})
  await client.connect()
  return client
}

/** What is run once a transaction that is open on a connection is done. */
const afterCommit = new WeakMap<Db, (() => void)[]>()

/**
 * Runs something once the transaction on this connection is done, at once where none is open; never where it failed.
 */
export function whenCommitted(client: Db, run: () => void): void {
  const runs = afterCommit.get(client)
  if (runs) runs.push(run)
  else run()
}

const RETRIED = new Set(['40001', '40P01'])

/** Statements that a transaction sends without waiting; they are waited for with its commit. */
export type Deferred = (statement: Promise<unknown>) => void

/**
 * Runs `work` in one transaction on one connection. Serialization failures and deadlocks are tried again, up to five
 * times, so `work` must do nothing outside the database. Any other error rolls back and is thrown on; where several
 * statements failed because one did, the first. Statements handed to `later` need no waiting: they are on their way,
 * and the commit follows them. With `planned`, named statements are planned once for a connection, whatever their
 * values: for work of many small statements that find rows by their keys.
 */
export async function transaction<T>(
  work: (client: pg.PoolClient, later: Deferred) => Promise<T>,
  { on = db(), planned = false }: { on?: pg.Pool; planned?: boolean } = {},
): Promise<T> {
  for (let attempt = 1; ; attempt++) {
    const client = await on.connect()
    let broken: Error | undefined
    const sent: Promise<unknown>[] = []
    const runs: (() => void)[] = []
    afterCommit.set(client, runs)
    const later: Deferred = (statement) => {
      statement.catch(() => {})
      sent.push(statement)
    }
    try {
      later(client.query(planned ? 'begin; set local plan_cache_mode = force_generic_plan' : 'begin'))
      const result = await work(client, later)
      later(client.query('commit'))
      await Promise.all(sent)
      for (const run of runs) run()
      return result
    } catch (last) {
      await client.query('rollback').catch((lost: Error) => {
        broken = lost
      })
      const failed = (await Promise.allSettled(sent)).find((statement) => statement.status === 'rejected')
      const error: unknown = failed?.reason ?? last
      if (attempt < 5 && RETRIED.has((error as { code?: string }).code ?? '')) continue
      throw error
    } finally {
      afterCommit.delete(client)
      client.release(broken)
    }
  }
}

/** Whether an error is PostgreSQL saying that a unique rule `name` was about to be broken. */
export function breaksUnique(error: unknown, name: string): boolean {
  const { code, constraint } = error as { code?: string; constraint?: string }
  return code === '23505' && constraint === name
}

/** Whether an error means that the database could not be reached at all. */
export function isUnreachable(error: unknown): boolean {
  const { code, message } = error as { code?: string; message?: string }
  return (
    ['ECONNREFUSED', 'ECONNRESET', 'EPIPE', '57P01', '57P02', '57P03', '08006', '08003', '08001'].includes(
      code ?? '',
    ) ||
    /Connection terminated|timeout exceeded when trying to connect|Client has encountered a connection error/.test(
      message ?? '',
    )
  )
}

/**
 * Whether an error says nothing about what was being done: the database was away, or two transactions were in each
 * other's way.
 */
export function isTransient(error: unknown): boolean {
  return RETRIED.has((error as { code?: string }).code ?? '') || isUnreachable(error)
}
