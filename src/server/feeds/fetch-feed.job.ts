import { randomUUID } from 'node:crypto'
import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { toFailure } from '#core/findings/failure'
import { severalAtOnce } from '#core/several-at-once'
import type { OfferedFile } from '#shared/contracts/offer.contract'
import { addBatchFile, sortBatch } from '../intake/batches'
import { claimFiles } from '../intake/claim-files'
import { publish } from '../platform/notify'
import type { WorkContext } from '../platform/work-context'
import { feeds, feedTakes } from '../tables/feed.table'
import { batches, batchFiles } from '../tables/intake.table'
import { people } from '../tables/people.table'
import { fetchOffered, type RetryPolicy } from './feed-client'

const AT_ONCE = 3

/**
 * Fetches what a batch took from a feed, then has it sorted. What arrived before a worker was killed is not fetched again; a file that
 * does not arrive is noted with the reason, and the others go on.
 */
export async function fetchFeedJob(
  context: WorkContext,
  { batchId }: { batchId: number },
  retryPolicy?: RetryPolicy,
): Promise<void> {
  const { db } = context
  const [batch] = await db.select().from(batches).where(eq(batches.id, batchId))
  if (batch?.state !== 'receiving') return
  const [person] = await db.select().from(people).where(eq(people.id, batch.personId))
  const takes = await db
    .select({ take: feedTakes, url: feeds.url })
    .from(feedTakes)
    .innerJoin(feeds, eq(feeds.id, feedTakes.feedId))
    .where(eq(feedTakes.batchId, batchId))
  const here = new Set(
    (await db.select({ path: batchFiles.path }).from(batchFiles).where(eq(batchFiles.batchId, batchId))).map(r => r.path),
  )
  const wanted = takes
    .flatMap(({ take, url }) =>
      take.files.map(file => ({
        file,
        path: `${take.offerId}/${file.path}`,
        address: `${url}/files/${take.offerId}/${take.version}/${file.path.split('/').map(encodeURIComponent).join('/')}`,
      })),
    )
    .filter(w => !here.has(w.path))
  await mkdir(context.temporaryFolder, { recursive: true })
  await severalAtOnce(wanted, AT_ONCE, async ({ file, path, address }) => {
    await takeOne(file, path, address)
    await publish(db, { topic: 'batch', libraryId: batch.libraryId, batchId })
  })
  await sortBatch(context, person, batchId)

  async function takeOne(file: OfferedFile, path: string, address: string): Promise<void> {
    const known = await claimFiles(context, person, batchId, { files: [{ path, hash: file.sha256, size: file.size }] })
    if (known.length > 0) return
    const temporary = join(context.temporaryFolder, randomUUID())
    try {
      await fetchOffered(context.fetchOutside, address, file, temporary, retryPolicy)
      await addBatchFile(context, person, batchId, path, temporary)
    } catch (error) {
      const { code, message } = toFailure(error)
      await db.insert(batchFiles).values({ batchId, path, size: 0, outcome: 'failed', code, message }).onConflictDoNothing()
    } finally {
      await rm(temporary, { force: true })
    }
  }
}
