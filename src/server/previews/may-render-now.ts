import { sql } from 'drizzle-orm'
import type { QueueName } from '../platform/queue'
import type { WorkContext } from '../platform/work-context'

/** Wishes of somebody who waits for a picture have at least this priority. */
const WAITED_FOR = 20

/**
 * Renderings leave the processor to a delivery that is being measured, so that a thousand things are looked at within minutes; but what
 * somebody waits for is rendered all the same.
 */
export async function mayRenderNow(
  { db, intakePool }: Pick<WorkContext, 'db' | 'intakePool'>,
  queue: QueueName,
): Promise<boolean> {
  if (intakePool.waiting === 0) return true
  const { rows } = await db.execute<{ wanted: boolean }>(sql`
    select exists (
      select from pgboss.job where name = ${queue} and state < 'active' and start_after < now() and priority >= ${WAITED_FOR}) as wanted`)
  return rows[0].wanted
}
