import { and, desc, eq, type SQL, type SQLWrapper, sql } from 'drizzle-orm'
import type pg from 'pg'
import { groupBy } from '#core/group-by'
import { RENDERER_REVISION } from '#core/render/pictures/preview'
import type { QualityName, Rig } from '#core/render/rigs/rig'
import type { ItemKind } from '#core/standard/categories'
import type { Preview } from '#shared/contracts/items.contract'
import { loadRigBook, type RigBook } from '../house/rig-book'
import { type Actor, mayRead, shownTo, visibleLibraries, visibleTo } from '../platform/access'
import { type Connection, isOneOf } from '../platform/database'
import { notFound } from '../platform/problem'
import { type JobQueue, type PreviewJob, RENDER_QUEUES } from '../platform/queue'
import { prepare } from '../platform/statement'
import { items, previews, versions } from '../tables/library.table'

/** The seed of every stored preview: two renderings of one item on one rig are the same picture. */
export const PREVIEW_SEED = 1

/** Nobody waits for the finals of what was approved. */
export const FINALS_PRIORITY = -10

/**
 * Among the finals that nobody waits for, those go first whose drafts took least, so that most pictures are there soonest. To be called when
 * finals of these inputs are put in line, and when a draft of one is there. Twice as long a draft is two places behind; the queue reads
 * priorities at every fetch.
 */
export const putCheapFinalsFirst = (tx: Connection, inputKeys: readonly string[]) =>
  tx.execute(sql`
    update pgboss.job j
    set priority = ${FINALS_PRIORITY} - least(${MOST_PLACES_BACK}, round(2 * log(2, greatest(1, p.seconds)::numeric)))
    from previews p
    where j.name = ${RENDER_QUEUES.final} and j.state = 'created' and j.priority < 0
      and p.input_key = j.data ->> 'inputKey' and p.quality = 'draft' and p.renderer_revision = ${RENDERER_REVISION}
      and p.input_key = any(${sql.param([...inputKeys])}::text[])`)
const MOST_PLACES_BACK = 30

export interface PreviewWish {
  inputKey: string
  category: string
  quality: QualityName
}

/**
 * Has pictures rendered on the rigs of their categories, in the transaction that wants them; what is there, or waits already, is not
 * asked for again. Higher priority goes first. Of what has a draft, copies for the screen are made after it.
 */
export async function requestPreviews(
  tx: Connection,
  queue: JobQueue,
  wishes: readonly PreviewWish[],
  priority = 0,
): Promise<void> {
  if (wishes.length === 0) return
  const book = await loadRigBook(tx)
  const jobs = wishes.map(({ inputKey, category, quality }) => {
    const { name, revision, stage } = book.rigFor(category)
    return { job: { inputKey, rig: name, revision, quality }, isDrawn: stage === 'flat' }
  })
  const jobsOf = (isDrawn: boolean) => jobs.filter(j => j.isDrawn === isDrawn).map(j => j.job)
  // What is only drawn takes no time, and need not stand in line behind what is rendered.
  await requestOnRigs(tx, queue, jobsOf(true), Math.max(priority, DRAWN_PRIORITY))
  await requestOnRigs(tx, queue, jobsOf(false), priority)
  const drafts = wishes.filter(w => w.quality === 'draft')
  await queue.send(
    tx,
    'copy-for-screens',
    drafts.map(({ inputKey }) => ({ inputKey })),
  )
}

const DRAWN_PRIORITY = 30

/** The same on rigs of one's choice. */
export async function requestOnRigs(tx: Connection, queue: JobQueue, jobs: readonly PreviewJob[], priority = 0): Promise<void> {
  const missing = await withoutPreview(tx, jobs)
  for (const quality of ['draft', 'final'] as const)
    await queue.send(
      tx,
      RENDER_QUEUES[quality],
      missing.filter(j => j.quality === quality),
      priority,
    )
  if (priority < 0)
    await putCheapFinalsFirst(
      tx,
      missing.map(j => j.inputKey),
    )
}

const pictureKey = (p: { inputKey: string; rig: string; quality: string }, revision: number): string =>
  [p.inputKey, p.rig, revision, p.quality].join()

/** Of some jobs those whose picture by today's renderer is not there. */
export async function withoutPreview<J extends PreviewJob>(db: Connection, jobs: readonly J[]): Promise<J[]> {
  if (jobs.length === 0) return []
  const { inputKey, rig, rigRevision, quality } = previews
  const rows = await db
    .select({ inputKey, rig, rigRevision, quality })
    .from(previews)
    .where(
      and(
        isOneOf(inputKey, [...new Set(jobs.map(j => j.inputKey))]),
        eq(previews.rendererRevision, RENDERER_REVISION),
        eq(previews.seed, PREVIEW_SEED),
      ),
    )
  const there = new Set(rows.map(r => pictureKey(r, r.rigRevision)))
  return jobs.filter(j => !there.has(pictureKey(j, j.revision)))
}

type PreviewRow = typeof previews.$inferSelect

export const toPreviewView = (row: Omit<PreviewRow, 'createdAt' | 'reduced'>, book: RigBook, current: Rig): Preview => ({
  url: previewUrl(row.id),
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

/** What a choice among the pictures of an input goes by. */
export interface PictureChoice {
  rig: string
  rigRevision: number
  rendererRevision: number
  quality: QualityName
}

export const isOfToday = (row: PictureChoice, rig: Rig): boolean =>
  row.rig === rig.name && row.rigRevision === rig.revision && row.rendererRevision === RENDERER_REVISION

/** How well a picture serves for an input on a rig: of today before older, the same rig before another, final before draft. */
function rankOf(row: PictureChoice, rig: Rig): number {
  const rigRank = isOfToday(row, rig) ? 4 : row.rig === rig.name ? 2 : 0
  return (rigRank + (row.quality === 'final' ? 1 : 0)) * 1e6 + row.rendererRevision * 1e3 + row.rigRevision
}

/** The best of an input's pictures in a category, the newest first. A revision that is only being tried out does not count. */
export function chooseBest<P extends PictureChoice>(pictures: readonly P[], book: RigBook, category: string): P | null {
  const rig = book.rigFor(category)
  let best: P | null = null
  for (const picture of pictures) {
    if (picture.rigRevision > (book.current(picture.rig)?.revision ?? 0)) continue
    if (picture.rig !== rig.name && !book.wasOnceFor(category, picture.rig)) continue
    if (!best || rankOf(picture, rig) > rankOf(best, rig)) best = picture
  }
  return best
}

export const previewUrl = (id: number): string => `/api/previews/${id}`

/** The best picture there is for each input in its category. A revision that is only being tried out does not count. */
export async function findPreviews(
  db: Connection,
  wanted: readonly { inputKey: string; category: string }[],
): Promise<Map<string, Preview>> {
  const keys = [...new Set(wanted.map(w => w.inputKey))]
  if (keys.length === 0) return new Map()
  const [book, rows] = await Promise.all([
    loadRigBook(db),
    db.select().from(previews).where(isOneOf(previews.inputKey, keys)).orderBy(desc(previews.id)),
  ])
  const byInput = groupBy(rows, r => r.inputKey)
  const found = new Map<string, Preview>()
  for (const { inputKey, category } of wanted) {
    const best = chooseBest(byInput.get(inputKey) ?? [], book, category)
    if (best) found.set(`${inputKey}/${category}`, toPreviewView(best, book, book.rigFor(category)))
  }
  return found
}

export const previewOf = (found: Map<string, Preview>, inputKey: string, category: string): Preview | null =>
  found.get(`${inputKey}/${category}`) ?? null

/** The inputs of an item's current version, which pictures of it are made from. */
export async function getCurrentInput(
  db: Connection,
  actor: Actor,
  itemId: number,
): Promise<{ kind: ItemKind; inputKey: string }> {
  const [row] = await db
    .select({ kind: items.kind, inputKey: versions.inputKey })
    .from(items)
    .innerJoin(versions, eq(versions.id, items.currentVersionId))
    .where(and(eq(items.id, itemId), mayRead(actor, items.libraryId)))
  if (!row) throw notFound('This item')
  return row
}

/** Condition: the asker may see an item that has these inputs in some version. */
export const isInputShownTo = (actor: Actor, inputKey: SQLWrapper): SQL => sql`
  exists (select from ${versions} v join ${items} i on i.id = v.item_id
          where v.input_key = ${inputKey} and i.library_id in ${visibleLibraries(actor)})`

const selectFile = prepare<
  { hash: string; linearHash: string | null; reduced: { width: number; hash: string }[] },
  [number, number]
>(
  'preview-file',
  `select p.hash, p.linear_hash as "linearHash", p.reduced from previews p
   where p.id = $1 and (
     exists (select from versions v join items i on i.id = v.item_id where v.input_key = p.input_key and i.library_id in (${visibleTo('$2')}))
     or exists (select from versions v where v.input_key = p.input_key and v.id in (${shownTo('$2')}))
     or exists (
       select from batch_items r join batches b on b.id = r.batch_id
       where r.input_key = p.input_key and b.library_id in (${visibleTo('$2')})))`,
)

/**
 * Hash of a picture's bytes, if the asker may see an item or a batch that shows it: display-encoded, at least so many pixels wide where it
 * is kept so, or linear.
 */
export async function getPreviewFile(
  pool: pg.Pool,
  personId: number,
  id: number,
  wanted: { width: number | null } | 'linear',
): Promise<string> {
  const [row] = await selectFile(pool, id, personId)
  const hash =
    wanted === 'linear'
      ? row?.linearHash
      : (row?.reduced.find(r => wanted.width !== null && r.width >= wanted.width)?.hash ?? row?.hash)
  if (!hash) throw notFound('This picture')
  return hash
}
