import { and, desc, eq, inArray, type SQL, type SQLWrapper, sql } from 'drizzle-orm'
import { RENDERER_REVISION } from '#core/render/pictures/preview'
import type { QualityName, Rig } from '#core/render/rigs/rig'
import type { Preview } from '#shared/contracts/items.contract'
import { loadRigBook, type RigBook } from '../house/rig-book'
import { type Actor, visibleLibraries } from '../platform/access'
import type { Connection } from '../platform/database'
import { notFound } from '../platform/problem'
import { hurryJob, type JobQueue, type PreviewJob, RENDER_QUEUES } from '../platform/queue'
import { batches, batchItems } from '../tables/intake.table'
import { items, previews, versions } from '../tables/library.table'

/** The seed of every stored preview: two renderings of one item on one rig are the same picture. */
export const PREVIEW_SEED = 1

export interface PreviewWish {
  inputKey: string
  category: string
  quality: QualityName
}

/** Enqueues the rendering on the category's rig unless the picture, or an equal job, is there. Higher priority goes first. */
export async function requestPreview(db: Connection, queue: JobQueue, wish: PreviewWish, priority = 0): Promise<void> {
  const rig = (await loadRigBook(db)).rigFor(wish.category)
  await requestOnRig(
    db,
    queue,
    { inputKey: wish.inputKey, rig: rig.name, revision: rig.revision, quality: wish.quality },
    priority,
  )
}

/** The same on a rig of one's choice. */
export async function requestOnRig(db: Connection, queue: JobQueue, job: PreviewJob, priority = 0): Promise<void> {
  if (await hasPreview(db, job)) return
  const singletonKey = `${job.inputKey}/${job.rig}/${job.revision}/${RENDERER_REVISION}/${job.quality}`
  await queue.send(RENDER_QUEUES[job.quality], job, { priority, singletonKey })
  // An equal job that waits already keeps its place in line unless this wish is more pressing.
  if (priority > 0) await hurryJob(db, RENDER_QUEUES[job.quality], singletonKey, priority)
}

export async function hasPreview(db: Connection, job: PreviewJob): Promise<boolean> {
  const [there] = await db
    .select({ id: previews.id })
    .from(previews)
    .where(
      and(
        eq(previews.inputKey, job.inputKey),
        eq(previews.rig, job.rig),
        eq(previews.rigRevision, job.revision),
        eq(previews.rendererRevision, RENDERER_REVISION),
        eq(previews.quality, job.quality),
        eq(previews.seed, PREVIEW_SEED),
      ),
    )
  return there !== undefined
}

type PreviewRow = typeof previews.$inferSelect

export const toPreviewView = (row: PreviewRow, book: RigBook, current: Rig): Preview => ({
  url: `/api/previews/${row.id}`,
  rig: row.rig,
  quality: row.quality,
  width: row.width,
  height: row.height,
  samples: row.samples,
  achievedError: row.achievedError,
  convergedShare: row.convergedShare,
  seconds: row.seconds,
  rigTitle: book.current(row.rig)?.title ?? row.rig,
  rigRevision: row.rigRevision,
  isOlder: !isOfToday(row, current),
  backdropAlbedo: row.backdropAlbedo,
  contrast: row.contrast,
  coverage: row.coverage,
  linearUrl: row.linearHash ? `/api/previews/${row.id}/linear` : null,
})

const isOfToday = (row: PreviewRow, rig: Rig): boolean =>
  row.rig === rig.name && row.rigRevision === rig.revision && row.rendererRevision === RENDERER_REVISION

/** How well a picture serves for an input on a rig: of today before older, the same rig before another, final before draft. */
function rankOf(row: PreviewRow, rig: Rig): number {
  const rigRank = isOfToday(row, rig) ? 4 : row.rig === rig.name ? 2 : 0
  return (rigRank + (row.quality === 'final' ? 1 : 0)) * 1e6 + row.rendererRevision * 1e3 + row.rigRevision
}

/** The best picture there is for each input in its category. A revision that is only being tried out does not count. */
export async function findPreviews(
  db: Connection,
  wanted: readonly { inputKey: string; category: string }[],
): Promise<Map<string, Preview>> {
  const keys = [...new Set(wanted.map(w => w.inputKey))]
  if (keys.length === 0) return new Map()
  const [book, rows] = await Promise.all([
    loadRigBook(db),
    db.select().from(previews).where(inArray(previews.inputKey, keys)).orderBy(desc(previews.id)),
  ])
  const byInput = new Map<string, PreviewRow[]>()
  for (const row of rows)
    if (row.rigRevision <= (book.current(row.rig)?.revision ?? 0))
      byInput.set(row.inputKey, [...(byInput.get(row.inputKey) ?? []), row])
  const found = new Map<string, Preview>()
  for (const { inputKey, category } of wanted) {
    const rig = book.rigFor(category)
    const candidates = (byInput.get(inputKey) ?? []).filter(r => r.rig === rig.name || book.wasOnceFor(category, r.rig))
    const best = candidates.reduce<PreviewRow | null>((a, r) => (a && rankOf(a, rig) >= rankOf(r, rig) ? a : r), null)
    if (best) found.set(`${inputKey}/${category}`, toPreviewView(best, book, rig))
  }
  return found
}

export const previewOf = (found: Map<string, Preview>, inputKey: string, category: string): Preview | null =>
  found.get(`${inputKey}/${category}`) ?? null

/** Condition: the asker may see an item that has these inputs in some version. */
export const isInputShownTo = (actor: Actor, inputKey: SQLWrapper): SQL => sql`
  exists (select from ${versions} v join ${items} i on i.id = v.item_id
          where v.input_key = ${inputKey} and i.library_id in ${visibleLibraries(actor)})`

/** Hash of a picture's bytes, display-encoded or linear, if the asker may see an item or a batch that shows it. */
export async function getPreviewFile(db: Connection, actor: Actor, id: number, encoding: 'display' | 'linear'): Promise<string> {
  const [row] = await db
    .select({ hash: encoding === 'display' ? previews.hash : previews.linearHash })
    .from(previews)
    .where(
      and(
        eq(previews.id, id),
        sql`(${isInputShownTo(actor, previews.inputKey)}
          or exists (select from ${batchItems} bi join ${batches} b on b.id = bi.batch_id
                     where bi.input_key = ${previews.inputKey} and b.library_id in ${visibleLibraries(actor)}))`,
      ),
    )
  if (!row?.hash) throw notFound('This picture')
  return row.hash
}
