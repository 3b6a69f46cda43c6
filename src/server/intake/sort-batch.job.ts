import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { and, eq, inArray, ne } from 'drizzle-orm'
import { sniffType } from '#core/codecs/sniff'
import { toFailure } from '#core/findings/failure'
import { findCategory } from '#core/standard/categories'
import { unpackArchive } from '#files/reading/archive'
import { readHead } from '#files/reading/source-file'
import type { Recognition } from '#files/recognition/recognize-delivery'
import { followRetired, loadRetired } from '../house/categories'
import { computeInputKey } from '../items/input-key'
import type { Connection } from '../platform/database'
import { publish } from '../platform/notify'
import { rememberFile, toSourceFiles } from '../platform/storage/stored-files'
import type { WorkContext } from '../platform/work-context'
import { feeds, feedTakes } from '../tables/feed.table'
import { batches, batchFiles, batchItems } from '../tables/intake.table'
import { findRemembered, rememberedPlaces } from './places'
import { loadRoleWords } from './regroup/role-words'

/** Unpacks archives, sorts the files of a batch into items, and sends each to be measured. Safe to run again at any point. */
export async function sortBatchJob(context: WorkContext, { batchId }: { batchId: number }): Promise<void> {
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
  const made = await db.transaction(async tx => {
    // Whoever comes second finds the state changed and has nothing to add.
    const [held] = await tx.select({ state: batches.state }).from(batches).where(eq(batches.id, batchId)).for('update')
    if (held.state !== 'sorting') return []
    await recordOutcomes(recognition)
    const ids: number[] = []
    for (const item of recognition.items) {
      const files = item.files.map(f => ({
        path: f.file.path,
        hash: hashOf.get(f.file.path)!,
        role: f.role,
        byContentOnly: f.byContentOnly,
        handednessHint: f.handednessHint,
      }))
      const { kind, name, category, categoryConfidence, widthMm, constants, place, tags, given } = item
      const [row] = await tx
        .insert(batchItems)
        .values({
          batchId,
          kind,
          name,
          category,
          categoryConfidence,
          widthMm,
          constants,
          place,
          tags,
          givenFacts: given,
          files,
          inputKey: computeInputKey({ files, widthMm, constants }),
        })
        .returning({ id: batchItems.id })
      ids.push(row.id)
    }
    await tx.update(batches).set({ state: 'open' }).where(eq(batches.id, batchId))
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId })
    return ids

    async function recordOutcomes({ items, leftOver, failures }: Recognition): Promise<void> {
      const inItems = items.flatMap(i => i.files.map(f => f.file.path))
      if (inItems.length > 0)
        await tx
          .update(batchFiles)
          .set({ outcome: 'inItem' })
          .where(and(eq(batchFiles.batchId, batchId), inArray(batchFiles.path, inItems)))
      for (const { path, reason } of leftOver)
        await tx
          .update(batchFiles)
          .set({ outcome: 'leftOver', code: reason })
          .where(and(eq(batchFiles.batchId, batchId), eq(batchFiles.path, path)))
      for (const { path, code, message } of failures)
        await tx
          .update(batchFiles)
          .set({ outcome: 'failed', code, message })
          .where(and(eq(batchFiles.batchId, batchId), eq(batchFiles.path, path)))
    }
  })
  for (const batchItemId of made) await queue.send('measure-item', { batchItemId })
}

/** What is known beyond the files: a feed's own words for its things, and where this supplier's places went before. */
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
    item.place = offered.category
    item.tags = offered.tags
    if (item.kind === 'material') item.widthMm ??= offered.widthMm ?? null
    // A list of files of one thing has one thing in it: what the supplier calls it is its name.
    if (items.filter(i => i.files[0]?.file.path.split('/')[0] === offerId).length === 1) item.name = offered.title
  }
  const remembered = await rememberedPlaces(db, batch)
  const retired = await loadRetired(db)
  for (const item of items) {
    item.category = followRetired(item.category, retired)
    const known = findRemembered(remembered, item.kind, item.place)
    if (known && findCategory(known)?.kind === item.kind) {
      item.category = known
      item.categoryConfidence = 0.98
    }
  }
}

const MOST_NESTED = 4

/** Puts the content of each zip into the batch under the archive's own name; how many there were. */
async function unpackArchives({ db, storage }: WorkContext, batchId: number): Promise<number> {
  let count = 0
  const rows = await db
    .select()
    .from(batchFiles)
    .where(and(eq(batchFiles.batchId, batchId), eq(batchFiles.outcome, 'received')))
  for (const row of rows) {
    if (row.hash === null) continue
    const path = await storage.localPath(row.hash)
    if (row.size === 0 || sniffType(await readHead(path)) !== 'zip') continue
    count++
    const folder = await mkdtemp(join(tmpdir(), 'muscovite-'))
    const stem = row.path.replace(/\.zip$/i, '')
    try {
      const { files, failures } = await unpackArchive(path, folder)
      for (const file of files) {
        const stored = await storage.takeFile(file.diskPath)
        await rememberFile(db, storage, stored, file.path)
        await db
          .insert(batchFiles)
          .values({ batchId, path: `${stem}/${file.path}`, ...stored })
          .onConflictDoNothing()
      }
      for (const failure of failures)
        await db
          .insert(batchFiles)
          .values({
            batchId,
            path: `${stem}/${failure.path}`,
            size: 0,
            outcome: 'failed',
            code: failure.code,
            message: failure.message,
          })
          .onConflictDoNothing()
      await db.update(batchFiles).set({ outcome: 'unpacked' }).where(eq(batchFiles.id, row.id))
    } catch (error) {
      await db
        .update(batchFiles)
        .set({ outcome: 'failed', ...toFailure(error) })
        .where(eq(batchFiles.id, row.id))
    } finally {
      await rm(folder, { recursive: true, force: true })
    }
  }
  return count
}
