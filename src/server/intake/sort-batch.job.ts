import { randomUUID } from 'node:crypto'
import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { and, eq, ne, sql } from 'drizzle-orm'
import { MEDIA_TYPES } from '#core/codecs/sniff'
import { FileError, toFailure } from '#core/findings/failure'
import { findCategory } from '#core/standard/categories'
import { unpackArchive } from '#files/reading/archive'
import type { Recognition } from '#files/recognition/recognize-delivery'
import type { RecognizedItem } from '#files/recognition/recognized-item'
import { followRetired, loadRetired } from '../house/categories'
import { computeInputKey } from '../items/input-key'
import { type Connection, inChunks } from '../platform/database'
import { withLock } from '../platform/lock'
import { publish } from '../platform/notify'
import type { Jobs } from '../platform/queue'
import { storeHashedFiles, toSourceFiles } from '../platform/storage/stored-files'
import type { WorkContext } from '../platform/work-context'
import { feeds, feedTakes } from '../tables/feed.table'
import { batches, batchFiles, batchItems } from '../tables/intake.table'
import { files } from '../tables/library.table'
import { loadRoleWords } from './regroup/role-words'
import { findRemembered, rememberedSourceFolders } from './source-folders'

/** Unpacks archives, sorts the files of a batch into items, and sends each to be measured. Safe to run again at any point. */
export async function sortBatchJob(context: WorkContext, { batchId }: Jobs['sort-batch']): Promise<void> {
  // Whoever asked a second time meanwhile gets what comes of the first.
  await withLock(context.pool, `sort-batch/${batchId}`, () => sortFiles(context, batchId))
}

async function sortFiles(context: WorkContext, batchId: number): Promise<void> {
  const { db, storage, queue } = context
  const [batch] = await db.select().from(batches).where(eq(batches.id, batchId))
  if (batch?.state !== 'sorting') return
  // An archive in an archive is opened as well, so many deep and no deeper.
  for (let depth = 0; depth < MOST_NESTED; depth++) if ((await unpackArchives(context, batchId)) === 0) break
  const rows = await db
    .select()
    .from(batchFiles)
    .where(and(eq(batchFiles.batchId, batchId), ne(batchFiles.outcome, 'unpacked')))
    .orderBy(batchFiles.path)
  // A file that an archive lists but could not give out has no bytes; it has failed already.
  const present = rows.flatMap(r => (r.hash === null ? [] : [{ path: r.path, hash: r.hash }]))
  const sources = await toSourceFiles(db, storage, present)
  const recognition = await context.intakePool.run('recognize', { files: sources, words: await loadRoleWords(db, batch) })
  await applyKnowledge(db, batch, recognition)
  const hashOf = new Map(present.map(r => [r.path, r.hash]))
  await db.transaction(async tx => {
    // Whoever comes second finds the state changed and has nothing to add.
    const [now] = await tx.select({ state: batches.state }).from(batches).where(eq(batches.id, batchId)).for('update')
    if (now.state !== 'sorting') return
    await recordOutcomes(tx, batchId, recognition)
    for (const chunk of inChunks(recognition.items)) {
      const made = await tx
        .insert(batchItems)
        .values(chunk.map(item => toRow(batchId, item, hashOf)))
        .returning({ id: batchItems.id })
      await queue.send(
        tx,
        'measure-item',
        made.map(({ id }) => ({ batchItemId: id })),
      )
    }
    await tx.update(batches).set({ state: 'open' }).where(eq(batches.id, batchId))
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId })
  })
}

function toRow(batchId: number, item: RecognizedItem, hashOf: ReadonlyMap<string, string>): typeof batchItems.$inferInsert {
  const files = item.files.map(f => ({
    path: f.file.path,
    hash: hashOf.get(f.file.path)!,
    role: f.role,
    byContentOnly: f.byContentOnly,
    handednessHint: f.handednessHint,
  }))
  const { kind, name, category, categoryConfidence, widthMm, constants, sourceFolder, tags, given } = item
  return {
    batchId,
    kind,
    name,
    category,
    categoryConfidence,
    widthMm,
    constants,
    sourceFolder,
    tags,
    givenFacts: given,
    files,
    inputKey: computeInputKey({ files, widthMm, constants }),
  }
}

/** Where each file ended. All in a few statements: a delivery may have a hundred thousand. */
async function recordOutcomes(tx: Connection, batchId: number, { items, leftOver, failures }: Recognition): Promise<void> {
  const rows = [
    ...items.flatMap(i => i.files.map(f => ({ path: f.file.path, outcome: 'inItem', code: null, message: null }))),
    ...leftOver.map(({ path, reason }) => ({ path, outcome: 'leftOver', code: reason, message: null })),
    ...failures.map(({ path, code, message }) => ({ path, outcome: 'failed', code, message })),
  ]
  for (const chunk of inChunks(rows, 20_000))
    await tx.execute(sql`
      update ${batchFiles} f set outcome = o.outcome, code = coalesce(o.code, f.code), message = coalesce(o.message, f.message)
      from jsonb_to_recordset(${JSON.stringify(chunk)}::jsonb) o(path text, outcome text, code text, message text)
      where f.batch_id = ${batchId} and f.path = o.path`)
}

/** What is known beyond the files: a feed's own words for its things, and where this supplier's source folders went before. */
async function applyKnowledge(db: Connection, batch: typeof batches.$inferSelect, { items }: Recognition): Promise<void> {
  const takes = await db
    .select({ offerId: feedTakes.offerId, offer: feeds.offer })
    .from(feedTakes)
    .innerJoin(feeds, eq(feeds.id, feedTakes.feedId))
    .where(eq(feedTakes.batchId, batch.id))
  for (const item of items) {
    const offerId = item.files[0]?.file.path.split('/')[0]
    const offered = takes.find(t => t.offerId === offerId)?.offer?.items.find(i => i.id === offerId)
    if (!offered) continue
    item.sourceFolder = offered.category
    item.tags = offered.tags
    if (item.kind === 'material') item.widthMm ??= offered.widthMm ?? null
    // A list of files of one thing has one thing in it: what the supplier calls it is its name.
    if (items.filter(i => i.files[0]?.file.path.split('/')[0] === offerId).length === 1) item.name = offered.title
  }
  const remembered = await rememberedSourceFolders(db, batch)
  const retired = await loadRetired(db)
  for (const item of items) {
    item.category = followRetired(item.category, retired)
    const known = findRemembered(remembered, item.kind, item.sourceFolder)
    if (known && findCategory(known)?.kind === item.kind) {
      item.category = known
      item.categoryConfidence = 0.98
    }
  }
}

const MOST_NESTED = 4

/** Puts the content of each zip into the batch under the archive's own name; how many there were. */
async function unpackArchives(context: WorkContext, batchId: number): Promise<number> {
  const { db, storage } = context
  const archives = await db
    .select({ id: batchFiles.id, path: batchFiles.path, hash: files.hash })
    .from(batchFiles)
    .innerJoin(files, eq(files.hash, batchFiles.hash))
    .where(and(eq(batchFiles.batchId, batchId), eq(batchFiles.outcome, 'received'), eq(files.mediaType, MEDIA_TYPES.zip)))
  for (const { id, path, hash } of archives) {
    // Beside the store, so that what is unpacked only has to be renamed.
    const folder = join(context.temporaryFolder, `unpack-${randomUUID()}`)
    try {
      await mkdir(folder, { recursive: true })
      const { files: unpacked, failures } = await unpackArchive(await storage.localPath(hash), folder)
      const stem = path.replace(/\.zip$/i, '')
      await storeHashedFiles(context, unpacked)
      const rows = [
        ...unpacked.map(f => ({ batchId, path: `${stem}/${f.path}`, hash: f.hash, size: f.size })),
        ...failures.map(f => ({
          batchId,
          path: `${stem}/${f.path}`,
          size: 0,
          outcome: 'failed' as const,
          code: f.code,
          message: f.message,
        })),
      ]
      for (const chunk of inChunks(rows)) await db.insert(batchFiles).values(chunk).onConflictDoNothing()
      await db.update(batchFiles).set({ outcome: 'unpacked' }).where(eq(batchFiles.id, id))
    } catch (error) {
      if (!(error instanceof FileError)) throw error
      await db
        .update(batchFiles)
        .set({ outcome: 'failed', ...toFailure(error) })
        .where(eq(batchFiles.id, id))
    } finally {
      await rm(folder, { recursive: true, force: true })
    }
  }
  return archives.length
}
