import pg from 'pg'

/** What a query can be sent through: the pool, or one connection inside a transaction. */
export interface Db {
  query<R extends pg.QueryResultRow = pg.QueryResultRow>(text: string, values?: unknown[]): Promise<pg.QueryResult<R>>
  query<R extends pg.QueryResultRow = pg.QueryResultRow>(config: pg.QueryConfig): Promise<pg.QueryResult<R>>
}

// bigint comes from ms() and count(*): both stay far below 2^53.
pg.types.setTypeParser(pg.types.builtins.INT8, Number)

let pool: pg.Pool | null = null

/** Opens a pool. A lost connection is reported to `complain` and replaced; it never ends the process. */
export function openPool(url: string, size = 10, complain: (error: Error) => void = () => {}): pg.Pool {
  const opened = new pg.Pool({ connectionString: url, max: size, connectionTimeoutMillis: 5_000, idleTimeoutMillis: 30_000 })
  opened.on('error', complain)
  opened.on('connect', client => client.on('error', complain))
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

const RETRIED = new Set(['40001', '40P01'])

/**
 * Runs `work` in one transaction on one connection. Serialization failures and deadlocks are tried again, up to five
 * times, so `work` must do nothing outside the database. Any other error rolls back and is thrown on.
 */
export async function transaction<T>(work: (client: pg.PoolClient) => Promise<T>, on: pg.Pool = db()): Promise<T> {
  for (let attempt = 1; ; attempt++) {
    const client = await on.connect()
    let broken: Error | undefined
    try {
      await client.query('begin')
      const result = await work(client)
      await client.query('commit')
      return result
    }
    catch (error) {
      await client.query('rollback').catch((lost: Error) => { broken = lost })
      if (attempt < 5 && RETRIED.has((error as { code?: string }).code ?? '')) continue
      throw error
    }
    finally {
      client.release(broken)
    }
  }
}

/** Whether an error is PostgreSQL saying that a unique rule `name` was about to be broken. */
export function breaksUnique(error: unknown, name: string): boolean {
  const { code, constraint } = error as { code?: string, constraint?: string }
  return code === '23505' && constraint === name
}

/** Whether an error means that the database could not be reached at all. */
export function isUnreachable(error: unknown): boolean {
  const { code, message } = error as { code?: string, message?: string }
  return ['ECONNREFUSED', 'ECONNRESET', 'EPIPE', '57P01', '57P02', '57P03', '08006', '08003', '08001'].includes(code ?? '')
    || /Connection terminated|timeout exceeded when trying to connect|Client has encountered a connection error/.test(message ?? '')
}
