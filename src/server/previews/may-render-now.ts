import { sql } from 'drizzle-orm'
import type { Connection } from '../platform/database'
import type { QueueName } from '../platform/queue'

/** Wishes of somebody who waits for a picture have at least this priority. */
const WAITED_FOR = 20

/** What must be done before pictures of a queue are rendered that nobody waits for. */
const FIRST = {
  'render-draft': ['measure-item'],
  'render-final': ['measure-item', 'render-draft'],
  'render-mock-up': ['measure-item', 'render-draft'],
  'copy-for-screens': ['measure-item', 'render-draft'],
} satisfies Partial<Record<QueueName, QueueName[]>>

/**
 * Renderings leave the processor to a delivery that is being measured, so that a thousand things are looked at within minutes; but what
 * somebody waits for is rendered all the same. What is in line says so, not what the threads have in hand: between two items these have
 * nothing waiting for a moment, and a rendering that begins then takes a core from the next items.
 */
export async function mayRenderNow(
  db: Connection,
  queue: keyof typeof FIRST,
  { unasked }: { unasked: boolean },
): Promise<boolean> {
  const waiting = (name: QueueName) =>
    sql`select from pgboss.job where name = ${name} and state < 'active' and start_after < now()`
  const { rows } = await db.execute<{ may: boolean }>(sql`
    select ${unasked} and not exists (${sql.join(FIRST[queue].map(waiting), sql` union all `)}) or exists (${waiting(queue)} and priority >= ${WAITED_FOR}) as may`)
  return rows[0].may
}
