import { and, asc, desc, eq } from 'drizzle-orm'
import { type Rig, STAGE_KIND } from '#core/render/rigs/rig'
import { type CompareKey, formatCompareKey } from '#shared/compare-key'
import type { Compared } from '#shared/contracts/compare.contract'
import { loadRigBook, type RigBook } from '../house/rig-book'
import { type Actor, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import type { Connection } from '../platform/database'
import { notFound } from '../platform/problem'
import { items, previews, versions } from '../tables/library.table'
import { PREVIEW_SEED, requestOnRigs, toPreviewView } from './previews'

const COMPARE_PRIORITY = 45

/** The pictures of a comparison, in the order asked for. What is not there yet is put next in line to be rendered. */
export async function getComparison(context: Context, actor: Actor, keys: readonly CompareKey[]): Promise<Compared[]> {
  const book = await loadRigBook(context.db)
  return Promise.all(keys.map(key => getCompared(context, actor, book, key)))
}

async function getCompared(context: Context, actor: Actor, book: RigBook, key: CompareKey): Promise<Compared> {
  const { db, queue } = context
  const [item] = await db
    .select()
    .from(items)
    .where(and(eq(items.code, key.code), mayRead(actor, items.libraryId)))
  if (!item) throw notFound(`The item ${key.code}`)
  const history = await db
    .select({ id: versions.id, number: versions.number, inputKey: versions.inputKey })
    .from(versions)
    .where(eq(versions.itemId, item.id))
    .orderBy(asc(versions.number))
  const shown = history.find(v => (key.version === null ? v.id === item.currentVersionId : v.number === key.version))
  if (!shown) throw notFound(`Version ${key.version} of ${key.code}`)
  const rig = key.rig === null ? book.rigFor(item.category) : book.current(key.rig)
  if (!rig || STAGE_KIND[rig.stage] !== item.kind) throw notFound(`A rig ${key.rig} for ${key.code}`)
  const row = await findPicture(db, shown.inputKey, rig, key.quality)
  if (!row)
    await db.transaction(tx =>
      requestOnRigs(
        tx,
        queue,
        [{ inputKey: shown.inputKey, rig: rig.name, revision: rig.revision, quality: key.quality ?? 'draft' }],
        COMPARE_PRIORITY,
      ),
    )
  return {
    key: formatCompareKey(key),
    code: item.code,
    name: item.name,
    kind: item.kind,
    version: shown.number,
    versions: history.map(v => v.number),
    rig: rig.name,
    rigs: book.all.filter(r => STAGE_KIND[r.stage] === item.kind).map(({ name, title }) => ({ name, title })),
    preview: row ? toPreviewView(row, book, rig) : null,
  }
}

/** The newest picture on a rig's revision in force, of the wanted quality or the best there is. */
async function findPicture(db: Connection, inputKey: string, rig: Rig, quality: CompareKey['quality']) {
  const rows = await db
    .select()
    .from(previews)
    .where(
      and(
        eq(previews.inputKey, inputKey),
        eq(previews.rig, rig.name),
        eq(previews.rigRevision, rig.revision),
        eq(previews.seed, PREVIEW_SEED),
      ),
    )
    .orderBy(desc(previews.rendererRevision))
  return quality === null ? (rows.find(r => r.quality === 'final') ?? rows[0]) : rows.find(r => r.quality === quality)
}
