import { createHash } from 'node:crypto'
import { and, desc, eq, inArray, sql } from 'drizzle-orm'
import type { OpenPbrParameters } from '#core/material/open-pbr'
import { RENDERER_REVISION } from '#core/render/preview'
import { HOUSE_RIGS, type QualityName, type Rig } from '#core/render/rig'
import { findCategory } from '#core/standard/categories'
import type { Preview } from '#shared/contracts/items.contract'
import { type Actor, visibleLibraries } from '../db/access'
import type { Connection } from '../db/database'
import { batches, batchItems } from '../db/intake.table'
import { items, previews, versions } from '../db/library.table'
import { hurryJob, type JobQueue } from '../jobs/queue'
import { notFound } from './problem'

/** The seed of every stored preview: two renderings of one item on one rig are the same picture. */
export const PREVIEW_SEED = 1

export interface RenderInput {
  files: readonly { role: string; hash: string; handednessHint: 'openGl' | 'directX' | null }[]
  widthMm: number | null
  constants: Partial<OpenPbrParameters>
}

/** Key of all that a picture of an item depends on, apart from the rig. */
export function computeInputKey({ files, widthMm, constants }: RenderInput): string {
  const parts = files
    .filter(f => !['picture', 'alternate', 'definition'].includes(f.role))
    .map(f => [f.role, f.hash, f.handednessHint])
    .sort((a, b) => JSON.stringify(a).localeCompare(JSON.stringify(b)))
  return createHash('sha256')
    .update(JSON.stringify([parts, widthMm, constants]))
    .digest('hex')
}

export const rigOf = (category: string): Rig => HOUSE_RIGS[findCategory(category)?.rig ?? 'material-stage']

export interface PreviewWish {
  inputKey: string
  category: string
  quality: QualityName
}

/** Enqueues a rendering unless the picture, or an equal job, is there. Higher priority goes first. */
export async function requestPreview(db: Connection, queue: JobQueue, wish: PreviewWish, priority = 0): Promise<void> {
  const rig = rigOf(wish.category)
  const [there] = await db
    .select({ id: previews.id })
    .from(previews)
    .where(
      and(
        eq(previews.inputKey, wish.inputKey),
        eq(previews.rig, rig.name),
        eq(previews.rigRevision, rig.revision),
        eq(previews.rendererRevision, RENDERER_REVISION),
        eq(previews.quality, wish.quality),
        eq(previews.seed, PREVIEW_SEED),
      ),
    )
  if (there) return
  const singletonKey = `${wish.inputKey}/${rig.name}/${rig.revision}/${RENDERER_REVISION}/${wish.quality}`
  await queue.send('render-preview', wish, { priority, singletonKey })
  // An equal job that waits already keeps its place in line unless this wish is more pressing.
  if (priority > 0) await hurryJob(db, 'render-preview', singletonKey, priority)
}

type PreviewRow = typeof previews.$inferSelect

const toView = (row: PreviewRow): Preview => ({
  url: `/api/previews/${row.id}`,
  rig: row.rig,
  quality: row.quality,
  width: row.width,
  height: row.height,
  samples: row.samples,
  achievedError: row.achievedError,
  seconds: row.seconds,
})

/** The best picture there is for each input on its rig: final before draft, newest revision first. */
export async function findPreviews(
  db: Connection,
  wanted: readonly { inputKey: string; category: string }[],
): Promise<Map<string, Preview>> {
  const keys = [...new Set(wanted.map(w => w.inputKey))]
  if (keys.length === 0) return new Map()
  const rows = await db
    .select()
    .from(previews)
    .where(inArray(previews.inputKey, keys))
    .orderBy(
      desc(sql`${previews.quality} = 'final'`),
      desc(previews.rendererRevision),
      desc(previews.rigRevision),
      desc(previews.id),
    )
  const found = new Map<string, Preview>()
  for (const { inputKey, category } of wanted) {
    const row = rows.find(r => r.inputKey === inputKey && r.rig === rigOf(category).name)
    if (row) found.set(`${inputKey}/${category}`, toView(row))
  }
  return found
}

export const previewOf = (found: Map<string, Preview>, inputKey: string, category: string): Preview | null =>
  found.get(`${inputKey}/${category}`) ?? null

/** Hash of a picture's bytes, if the asker may see an item or a batch that shows it. */
export async function getPreviewFile(db: Connection, actor: Actor, id: number): Promise<string> {
  const [row] = await db
    .select({ hash: previews.hash })
    .from(previews)
    .where(
      and(
        eq(previews.id, id),
        sql`(exists (select from ${versions} v join ${items} i on i.id = v.item_id
                     where v.input_key = ${previews.inputKey} and i.library_id in ${visibleLibraries(actor)})
          or exists (select from ${batchItems} bi join ${batches} b on b.id = bi.batch_id
                     where bi.input_key = ${previews.inputKey} and b.library_id in ${visibleLibraries(actor)}))`,
      ),
    )
  if (!row) throw notFound('This picture')
  return row.hash
}
