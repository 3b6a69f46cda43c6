import { and, count, desc, eq, sql } from 'drizzle-orm'
import type { BatchSummary, NewBatch } from '#shared/contracts/intake.contract'
import { newBatchSchema } from '#shared/contracts/intake.contract'
import { getLibrary } from '../people/libraries'
import { type Actor, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import type { Connection, Database } from '../platform/database'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notFound, ProblemError } from '../platform/problem'
import { storeFile } from '../platform/storage/stored-files'
import { previewUrl } from '../previews/previews'
import { batches, batchFiles, batchItems } from '../tables/intake.table'
import { previews } from '../tables/library.table'
import { libraries, people } from '../tables/people.table'

export type BatchRow = typeof batches.$inferSelect

/** Anybody may bring a delivery; what becomes of it is the lead's to decide. */
export async function createBatch(context: Context, actor: Actor, given: NewBatch): Promise<number> {
  const { library, title, maker, licence, purpose } = newBatchSchema.parse(given)
  const { id: libraryId } = await getLibrary(context.db, actor, library)
  return context.db.transaction(tx => insertBatch(tx, actor, libraryId, { title, maker, licence, purpose }))
}

/** A new batch of a library that the caller knows the actor to see, in the caller's transaction. */
export async function insertBatch(
  tx: Connection,
  actor: Actor,
  libraryId: number,
  { title, maker, licence, purpose }: Omit<NewBatch, 'library'>,
): Promise<number> {
  const [batch] = await tx
    .insert(batches)
    .values({ libraryId, personId: actor.id, title, maker, licence, purpose })
    .returning({ id: batches.id })
  await recordEvents(tx, [{ personId: actor.id, subject: 'batch', subjectId: batch.id, verb: 'created', after: { title } }])
  await publish(tx, { topic: 'batch', libraryId, batchId: batch.id })
  return batch.id
}

export async function getBatchRow(db: Connection, actor: Actor, id: number): Promise<BatchRow> {
  const [row] = await db
    .select()
    .from(batches)
    .where(and(eq(batches.id, id), mayRead(actor, batches.libraryId)))
  if (!row) throw notFound('This batch')
  return row
}

/** Puts one delivered file into a batch; the file on disk is taken over. A path that was there is replaced. */
export async function addBatchFile(
  context: Context,
  actor: Actor,
  batchId: number,
  path: string,
  diskPath: string,
  hash?: string,
): Promise<void> {
  await getReceivingBatch(context.db, actor, batchId)
  const stored = await storeFile(context, diskPath, path, hash)
  await putBatchFile(context.db, batchId, path, stored)
}

/** A batch that still takes files; throws where it does not. */
export async function getReceivingBatch(db: Connection, actor: Actor, batchId: number): Promise<BatchRow> {
  const batch = await getBatchRow(db, actor, batchId)
  if (batch.state !== 'receiving') throw closedToFiles()
  return batch
}

const closedToFiles = () => new ProblemError('conflict', 'This batch is closed to new files; start another for them.')

/** A stored file under its path in a batch; refused where somebody had it sorted in the meantime, so that no file comes in unseen. */
export async function putBatchFile(
  db: Database,
  batchId: number,
  path: string,
  { hash, size }: { hash: string; size: number },
): Promise<void> {
  await db.transaction(async tx => {
    const [batch] = await tx.select({ state: batches.state }).from(batches).where(eq(batches.id, batchId)).for('share')
    if (batch?.state !== 'receiving') throw closedToFiles()
    await tx
      .insert(batchFiles)
      .values({ batchId, path: cleanPath(path), hash, size })
      .onConflictDoUpdate({ target: [batchFiles.batchId, batchFiles.path], set: { hash, size } })
  })
}

/** Relative and without steps upwards, whatever a browser or a script says. */
const cleanPath = (path: string): string =>
  path
    .replaceAll('\\', '/')
    .split('/')
    .filter(part => part !== '' && part !== '.' && part !== '..')
    .join('/') || 'file'

/**
 * Ends the receiving: from here on the files are sorted into items and measured.
 * @param expected files that their sender knows to have arrived; with fewer the batch stays open
 */
export async function sortBatch(context: Context, actor: Actor, batchId: number, expected = 1): Promise<void> {
  const { libraryId, purpose } = await getBatchRow(context.db, actor, batchId)
  await context.db.transaction(async tx => {
    const [{ state }] = await tx.select({ state: batches.state }).from(batches).where(eq(batches.id, batchId)).for('update')
    if (purpose === 'scene')
      throw new ProblemError('conflict', 'This is a scene that is being audited; it is not sorted into items.')
    if (state === 'open') return
    if (state === 'receiving') {
      const [{ arrived }] = await tx.select({ arrived: count() }).from(batchFiles).where(eq(batchFiles.batchId, batchId))
      if (arrived === 0) throw new ProblemError('badRequest', 'No file has arrived yet; drop some first.')
      if (arrived < expected)
        throw new ProblemError(
          'conflict',
          `Only ${arrived} of ${expected} files have arrived, and they are kept. Send the delivery again; what is here is not sent twice.`,
        )
    }
    if (state !== 'sorting') {
      await tx.update(batches).set({ state: 'sorting', message: null }).where(eq(batches.id, batchId))
      await publish(tx, { topic: 'batch', libraryId, batchId })
    }
    // Asked again while it is being sorted, it waits once more at most.
    await context.queue.send(tx, 'sort-batch', [{ batchId }])
  })
}

export async function listBatches(db: Connection, actor: Actor): Promise<BatchSummary[]> {
  const rows = await selectSummaries(db, actor)
  return rows.map(toSummary)
}

const COVERS = 4
const COVER_ROWS = 12

/** Batches with their figures, of all or of one. */
export const selectSummaries = (db: Connection, actor: Actor, id?: number) =>
  db
    .select({
      batch: batches,
      library: libraries.title,
      person: people.name,
      files: sql<number>`(select count(*)::int from ${batchFiles} f where f.batch_id = ${batches.id} and f.outcome <> 'unpacked')`,
      bytes: sql<number>`(select coalesce(sum(f.size), 0)::bigint from ${batchFiles} f where f.batch_id = ${batches.id} and f.outcome <> 'unpacked')`,
      failed: sql<number>`(select count(*)::int from ${batchFiles} f where f.batch_id = ${batches.id} and f.outcome = 'failed')`,
      waiting: sql<number>`(select count(*)::int from ${batchItems} bi where bi.batch_id = ${batches.id} and bi.state in ('measuring', 'ready', 'failed'))`,
      accepted: sql<number>`(select count(*)::int from ${batchItems} bi where bi.batch_id = ${batches.id} and bi.state = 'accepted')`,
      // Of the first rows alone: a delivery may have thousands.
      pictures: sql<number[]>`array(
        select p.id from (select id, input_key from ${batchItems} bi where bi.batch_id = ${batches.id} order by bi.id limit ${COVER_ROWS}) bi
        cross join lateral (select max(p.id) as id from ${previews} p where p.input_key = bi.input_key) p
        where p.id is not null order by bi.id limit ${COVERS})`,
    })
    .from(batches)
    .innerJoin(libraries, eq(libraries.id, batches.libraryId))
    .innerJoin(people, eq(people.id, batches.personId))
    .where(and(mayRead(actor, batches.libraryId), id === undefined ? eq(batches.purpose, 'delivery') : eq(batches.id, id)))
    .orderBy(desc(batches.id))

export const toSummary = ({
  batch,
  library,
  person,
  pictures,
  ...counts
}: Awaited<ReturnType<typeof selectSummaries>>[number]): BatchSummary => ({
  id: batch.id,
  title: batch.title,
  library,
  maker: batch.maker,
  licence: batch.licence,
  state: batch.state,
  message: batch.message,
  expectedFiles: batch.expectedFiles,
  person,
  createdAt: batch.createdAt.toISOString(),
  covers: pictures.map(previewUrl),
  ...counts,
})
