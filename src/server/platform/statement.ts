import { createHash } from 'node:crypto'
import type { SQL } from 'drizzle-orm'
import { PgDialect } from 'drizzle-orm/pg-core'
import type pg from 'pg'

/**
 * A statement with a fixed text: parsed once on each connection and planned once. For what every page asks for; where the best plan
 * depends on the values, as in a search by words, an unnamed one is faster.
 */
export const prepare =
  <Row, Values extends readonly unknown[]>(name: string, text: string) =>
  async (pool: pg.Pool, ...values: Values): Promise<Row[]> =>
    (await pool.query({ name, text, values: values as unknown as unknown[] })).rows as Row[]

const dialect = new PgDialect()
const names = new Map<string, string>()

/** The same for a statement that has a few shapes, by which filters are set, say. Each shape is prepared when it first occurs. */
export async function runPrepared<Row>(pool: pg.Pool, statement: SQL): Promise<Row[]> {
  const { sql: text, params } = dialect.sqlToQuery(statement)
  let name = names.get(text)
  if (name === undefined) {
    name = `shape-${createHash('sha256').update(text).digest('hex').slice(0, 24)}`
    names.set(text, name)
  }
  return (await pool.query({ name, text, values: params })).rows as Row[]
}
