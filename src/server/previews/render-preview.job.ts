import { eq } from 'drizzle-orm'
import { FileError } from '#core/findings/failure'
import { RENDERER_REVISION } from '#core/render/pictures/preview'
import { loadRigRevision } from '../house/rig-book'
import { findVersionSource, openSource, type VersionSource } from '../items/version-source'
import { publish } from '../platform/notify'
import type { PreviewJob } from '../platform/queue'
import { storeBytes } from '../platform/storage/stored-files'
import type { WorkContext } from '../platform/work-context'
import { batches, batchItems } from '../tables/intake.table'
import { previews } from '../tables/library.table'
import { PREVIEW_SEED, putCheapFinalsFirst, withoutPreview } from './previews'
import { finishRerenderItem } from './rerenders'

/** Renders a picture and keeps it under its key; done twice, the second result is dropped. */
export async function renderPreviewJob(context: WorkContext, job: PreviewJob): Promise<void> {
  const { rerender } = job
  if (!rerender) return renderOne(context, job)
  const finish = (state: 'done' | 'failed') =>
    context.db.transaction(tx => finishRerenderItem(tx, context.queue, rerender, state))
  try {
    if ((await withoutPreview(context.db, [job])).length > 0) await renderOne(context, job)
    await finish('done')
  } catch (error) {
    if (!(error instanceof FileError)) throw error
    await finish('failed')
  }
}

/** Sooner nothing can be said of how long it takes. */
const LEAST_SHARE = 0.02

async function renderOne(context: WorkContext, job: PreviewJob): Promise<void> {
  const { db } = context
  const rig = await loadRigRevision(db, job.rig, job.revision)
  const subject = (await findVersionSource(context, job.inputKey)) ?? (await findBatchItem(context, job))
  // Nobody has these inputs, or this rig, any more: the row was edited while the job waited.
  if (!subject || !rig) return
  const { source, category: _, ...concerned } = subject
  const begun = performance.now()
  const tell = (share: number, error: number | null = null) => {
    const secondsLeft = share > LEAST_SHARE ? ((performance.now() - begun) / 1000) * (1 / share - 1) : null
    return publish(db, { topic: 'preview', inputKey: job.inputKey, share, error, secondsLeft, ...concerned })
  }
  let told = 0
  let furthest = 0
  const { bytes, linear, reduced, stats } = await context.previewPool.run(
    'preview',
    { source, rig, quality: job.quality, seed: PREVIEW_SEED },
    {
      onProgress: (share, error) => {
        if (share >= 1 || performance.now() - told < 1000) return
        told = performance.now()
        // What is expected changes with what is seen; a bar that goes back says nothing.
        furthest = Math.max(furthest, share)
        tell(furthest, error).catch(() => {})
      },
    },
  )
  const stored = await storeBytes(context, bytes, 'image/webp')
  const storedLinear = await storeBytes(context, linear, 'image/x-exr')
  const storedReduced = []
  for (const r of reduced) storedReduced.push({ width: r.width, hash: (await storeBytes(context, r.bytes, 'image/webp')).hash })
  const { width, height, samples, achievedError, convergedShare, fireflyShare, seconds } = stats
  const { backdropAlbedo, contrast, coverage } = stats
  await db
    .insert(previews)
    .values({
      inputKey: job.inputKey,
      rig: rig.name,
      rigRevision: rig.revision,
      rendererRevision: RENDERER_REVISION,
      quality: job.quality,
      seed: PREVIEW_SEED,
      hash: stored.hash,
      linearHash: storedLinear.hash,
      reduced: storedReduced,
      width,
      height,
      samples,
      achievedError,
      convergedShare,
      fireflyShare,
      backdropAlbedo,
      contrast,
      coverage,
      seconds,
    })
    .onConflictDoNothing()
  if (job.quality === 'draft') await putCheapFinalsFirst(db, [job.inputKey])
  await tell(1)
}

async function findBatchItem({ db, storage }: WorkContext, { inputKey }: PreviewJob): Promise<VersionSource | null> {
  const [row] = await db
    .select({ item: batchItems, libraryId: batches.libraryId })
    .from(batchItems)
    .innerJoin(batches, eq(batches.id, batchItems.batchId))
    .where(eq(batchItems.inputKey, inputKey))
    .limit(1)
  if (!row) return null
  return {
    libraryId: row.libraryId,
    itemId: null,
    batchId: row.item.batchId,
    category: row.item.category,
    source: await openSource({ db, storage }, row.item, row.item.files),
  }
}
