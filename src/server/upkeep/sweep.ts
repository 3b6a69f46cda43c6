import { sql } from 'drizzle-orm'
import { MAP_ROLES } from '#core/material/texture-set'
import { RENDERER_REVISION } from '#core/render/pictures/preview'
import { isDrawnRole } from '#files/items/item-source'
import { OPENED_SIDES } from '#shared/picture-widths'
import { requestChecks } from '../library/request-checks'
import type { Context } from '../platform/context'
import type { Connection } from '../platform/database'
import type { JobQueue, Jobs, QueueName } from '../platform/queue'
import { FINALS_PRIORITY, requestPreviews } from '../previews/previews'
import { resumeRerenders } from '../previews/rerenders'
import { items } from '../tables/library.table'

/** Files that pages open as pictures. */
const OPENED_ROLES = ['environment', 'model', ...MAP_ROLES.filter(isDrawnRole)]

/**
 * Things that say that they wait for a worker, and for which no job is in line or under way. Jobs are put in line in the transaction that
 * wants them, so there are none of these but what an earlier release, or a database brought back from a copy, left behind; and pictures
 * of a renderer before this one. One statement for each kind, however large the library is; what other workers do is not touched.
 */
export async function sweep({ db, queue }: Pick<Context, 'db' | 'queue'>): Promise<void> {
  await db.transaction(async tx => {
    await resend(
      tx,
      queue,
      'fetch-feed',
      'batchId',
      sql`
      select distinct b.id from batches b join feed_takes t on t.batch_id = b.id where b.state = 'receiving'`,
    )
    await resend(tx, queue, 'sort-batch', 'batchId', sql`select id from batches where state = 'sorting'`)
    await resend(tx, queue, 'measure-item', 'batchItemId', sql`select id from batch_items where state = 'measuring'`)
    await resend(tx, queue, 'write-export', 'exportId', sql`select id from exports where state in ('waiting', 'writing')`)
    await resend(tx, queue, 'reduce-picture', 'id', sql`select id from own_pictures where state = 'reducing'`)
    await resumeRerenders(tx, queue)
    // What a colour map was measured by an earlier release knows nothing yet of what it looks like.
    await requestChecks(
      tx,
      queue,
      sql`kind = 'material' and exists (select from facts f where f.version_id = ${items.currentVersionId} and f.name = 'meanColor')
        and not exists (select from facts f where f.version_id = ${items.currentVersionId} and f.name = 'appearance')`,
    )
    const { rows: unseen } = await tx.execute<{ inputKey: string; category: string }>(sql`
      select v.input_key as "inputKey", i.category::text as category
      from items i join versions v on v.id = i.current_version_id
      where i.state <> 'withdrawn'
        and not exists (select from previews p where p.input_key = v.input_key and p.renderer_revision = ${RENDERER_REVISION})
      order by i.code`)
    await requestPreviews(
      tx,
      queue,
      unseen.map(u => ({ ...u, quality: 'draft' })),
    )
    const { rows: unfinished } = await tx.execute<{ inputKey: string; category: string }>(sql`
      select v.input_key as "inputKey", i.category::text as category
      from items i join versions v on v.id = i.approved_version_id
      where i.state = 'approved' and not exists (
        select from previews p
        where p.input_key = v.input_key and p.quality = 'final' and p.renderer_revision = ${RENDERER_REVISION})
      order by i.code`)
    await requestPreviews(
      tx,
      queue,
      unfinished.map(u => ({ ...u, quality: 'final' })),
      FINALS_PRIORITY,
    )
    // Of what was taken in by an earlier release; what does not read is tried at every start.
    const { rows: uncopied } = await tx.execute<{ inputKey: string }>(sql`
      select distinct v.input_key as "inputKey"
      from items i join versions v on v.id = i.current_version_id join version_files f on f.version_id = v.id
      where i.state <> 'withdrawn' and f.role = any(${sql.param(OPENED_ROLES)}::text[]) and not exists (
        select from screen_copies s where s.source_hash = f.hash and s.longer_px = ${OPENED_SIDES.map[0]})`)
    await queue.send(tx, 'copy-for-screens', uncopied)
  })
}

async function resend<Q extends QueueName>(
  tx: Connection,
  queue: JobQueue,
  name: Q,
  field: keyof Jobs[Q] & string,
  waiting: ReturnType<typeof sql>,
): Promise<void> {
  const { rows } = await tx.execute<{ id: number }>(sql`
    select w.id from (${waiting}) w
    where not exists (
      select from pgboss.job j
      where j.name = ${name} and j.state in ('created', 'retry', 'active') and (j.data ->> ${field})::int = w.id)
    order by w.id`)
  await queue.send(
    tx,
    name,
    rows.map(({ id }) => ({ [field]: id }) as unknown as Jobs[Q]),
  )
}
