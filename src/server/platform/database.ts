import { join } from 'node:path'
import { type SQL, type SQLWrapper, sql } from 'drizzle-orm'
import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres'
import { migrate } from 'drizzle-orm/node-postgres/migrator'
import pg from 'pg'

export type Database = NodePgDatabase
/** The database or a transaction in it: what a function takes that must run inside its caller's transaction. */
export type Connection = Pick<Database, 'select' | 'selectDistinct' | 'insert' | 'update' | 'delete' | 'execute'>

// Sums and counts come as bigint; all of ours fit a double.
pg.types.setTypeParser(20, Number)

export interface OpenDatabase {
  db: Database
  pool: pg.Pool
  close: () => Promise<void>
}

export function openDatabase(url: string, connections = 10): OpenDatabase {
  const pool = new pg.Pool({ connectionString: url, max: connections })
  // A connection that breaks while idle is replaced by the pool; without a listener it would end the process.
  pool.on('error', () => {})
  // The same for one that is in use and waits for us: what is asked of it next fails, and says so there.
  pool.on('connect', client => client.on('error', () => {}))
  return { db: drizzle(pool), pool, close: () => pool.end() }
}

export const migrateDatabase = (db: Database, root: string): Promise<void> =>
  migrate(db, { migrationsFolder: join(root, 'src/server/tables/migrations') })

/**
 * Condition: a column has one of some values. They go along as one parameter: a statement takes 65,535 at most, and a delivery may have
 * more files than that.
 */
export const isOneOf = (column: SQLWrapper, values: readonly (string | number)[]): SQL =>
  sql`${column} = any(${sql.param([...values])})`

/** Rows in portions that one statement takes, whatever they hold. */
export function* inChunks<T>(rows: readonly T[], size = 1000): Generator<T[]> {
  for (let at = 0; at < rows.length; at += size) yield rows.slice(at, at + size)
}
