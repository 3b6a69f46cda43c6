import { and, eq, ne, sql } from 'drizzle-orm'
import type { Fingerprint } from '#files/items/fingerprint'
import type { ConflictKind, Decision } from '#shared/contracts/intake.contract'
import { findOwnPictures } from '../library/pictures/own-pictures'
import { type Connection, isOneOf } from '../platform/database'
import { findPreviews, previewOf } from '../previews/previews'
import { type batchItems, type Conflict, fingerprints } from '../tables/intake.table'
import { items, versions } from '../tables/library.table'

type Row = typeof batchItems.$inferSelect

/** Of 64 bits of the look; unrelated pictures differ in about 32. */
const NEARLY_SAME_BITS = 6

export async function rememberFingerprint(
  db: Connection,
  fileHash: string,
  { content, perceptualHash }: Fingerprint,
): Promise<void> {
  const bits = perceptualHash === null ? null : toBits(perceptualHash)
  await db
    .insert(fingerprints)
    .values({ fileHash, content, perceptualHash: bits })
    .onConflictDoUpdate({ target: fingerprints.fileHash, set: { content, perceptualHash: bits } })
}

const toBits = (hex: string): string => [...hex].map(d => Number.parseInt(d, 16).toString(2).padStart(4, '0')).join('')

/** What a row decides when nobody has: nothing is accepted twice, nothing is written over without being asked for. */
const USUAL: Record<ConflictKind, Decision> = {
  identical: 'link',
  newerFiles: 'newVersion',
  nearDuplicate: 'keepBoth',
  sameName: 'keepBoth',
}
export const decisionOf = ({ conflict, decision }: Pick<Row, 'conflict' | 'decision'>): Decision | null =>
  conflict ? (decision ?? USUAL[conflict.kind]) : null

/**
 * What a library holds that a row of a delivery may be: the same to the pixel, a newer state of it, something that looks nearly the
 * same, or something else of that name. In that order; null when it is new.
 */
export async function findConflict(
  db: Connection,
  libraryId: number,
  row: Pick<Row, 'kind' | 'name' | 'files'>,
  fingerprint: Fingerprint | null,
): Promise<Conflict | null> {
  const held = sql`
    select i.id, i.name, i.kind, v.id as version_id, fp.content, fp.perceptual_hash
    from items i join versions v on v.id = i.current_version_id
    left join lateral (
      select f.content, f.perceptual_hash from version_files vf join fingerprints f on f.file_hash = vf.hash
      where vf.version_id = v.id and vf.role in ('baseColor', 'height', 'model', 'environment', 'photometry') order by vf.role limit 1) fp on true
    where i.library_id = ${libraryId} and i.state <> 'withdrawn' and i.kind = ${row.kind}`
  const content = fingerprint?.content ?? ''
  const hashes = [...new Set(row.files.filter(f => f.role !== 'picture').map(f => f.hash))]
  const bits = fingerprint?.perceptualHash ? sql`${toBits(fingerprint.perceptualHash)}::bit(64)` : null
  const different = bits ? sql`bit_count(h.perceptual_hash # ${bits})::int` : sql`null::int`
  const found = await db.execute<{ id: number; same: boolean; whole: boolean; named: boolean; different: number | null }>(sql`
    with h as (${held})
    select h.id, coalesce(h.content = ${content}, false) as same, lower(h.name) = lower(${row.name}) as named, ${different} as different,
      ${hashes.length > 0} and not exists (
        select from unnest(${sql.param(hashes)}::text[]) w(hash)
        where not exists (select from version_files vf where vf.version_id = h.version_id and vf.hash = w.hash)) as whole
    from h
    where h.content = ${content} or lower(h.name) = lower(${row.name}) ${bits ? sql`or bit_count(h.perceptual_hash # ${bits}) <= ${NEARLY_SAME_BITS}` : sql``}
    order by same desc, named desc, different nulls last, h.id
    limit 1`)
  const [best] = found.rows
  if (!best) return null
  const isNear = best.different !== null && best.different <= NEARLY_SAME_BITS
  const kind: ConflictKind = best.whole
    ? 'identical'
    : best.same || (best.named && isNear)
      ? 'newerFiles'
      : isNear
        ? 'nearDuplicate'
        : 'sameName'
  return { kind, itemId: best.id, differentBits: best.different }
}

/** The file that a row is known again by. */
const MAIN_ROLES = ['baseColor', 'height', 'model', 'environment', 'photometry']
const mainHashOf = ({ files }: Pick<Row, 'files'>): string | undefined =>
  MAIN_ROLES.flatMap(role => files.find(f => f.role === role)?.hash ?? [])[0]

/**
 * What a row may be, as it is accepted: what it was when it was measured, unless that has been withdrawn since; else what something accepted
 * meanwhile is to the pixel, because it came twice in one delivery, say.
 */
export async function settleConflict(tx: Connection, libraryId: number, row: Row): Promise<Conflict | null> {
  if (row.conflict) {
    const [held] = await tx.select({ state: items.state }).from(items).where(eq(items.id, row.conflict.itemId))
    if (held.state !== 'withdrawn') return row.conflict
  }
  const hash = mainHashOf(row)
  if (hash === undefined) return null
  const hashes = [...new Set(row.files.filter(f => f.role !== 'picture').map(f => f.hash))]
  const { rows: found } = await tx.execute<{ id: number }>(sql`
    select i.id
    from fingerprints mine
    join fingerprints f on f.content = mine.content
    join version_files vf on vf.hash = f.file_hash
    join items i on i.current_version_id = vf.version_id
    where mine.file_hash = ${hash} and i.library_id = ${libraryId} and i.kind = ${row.kind} and i.state <> 'withdrawn'
      and not exists (
        select from unnest(${sql.param(hashes)}::text[]) w(hash)
        where not exists (select from version_files o where o.version_id = vf.version_id and o.hash = w.hash))
    order by i.id
    limit 1`)
  return found.length > 0 ? { kind: 'identical', itemId: found[0].id, differentBits: null } : null
}

/** Of rows that hold the same to the pixel, the first of their batch that stands for the others: by the ids of those others. */
export async function findTwins(db: Connection, batchId: number, rows: readonly Row[]): Promise<Map<number, TwinRow>> {
  const hashes = [...new Set(rows.filter(r => r.state === 'ready').flatMap(r => mainHashOf(r) ?? []))]
  if (hashes.length === 0) return new Map()
  // Every row of the batch that shares a main file's content with one of these.
  const { rows: alike } = await db.execute<TwinRow & { fileHash: string; content: string } & Record<string, unknown>>(sql`
    with same as (
      select o.file_hash, o.content from fingerprints mine join fingerprints o on o.content = mine.content
      where mine.file_hash = any(${sql.param(hashes)}::text[])
    )
    select distinct r.id, r.name, r.kind, r.files, same.file_hash as "fileHash", same.content
    from batch_items r cross join jsonb_array_elements(r.files) f join same on same.file_hash = f ->> 'hash'
    where r.batch_id = ${batchId} and r.state = 'ready'
    order by r.id`)
  const first = new Map<string, TwinRow>()
  const twins = new Map<number, TwinRow>()
  for (const { fileHash, content, ...row } of alike) {
    if (mainHashOf(row) !== fileHash) continue
    const whole = `${row.kind} ${content} ${row.files
      .map(f => f.hash)
      .sort()
      .join()}`
    const other = first.get(whole)
    if (other) twins.set(row.id, other)
    else first.set(whole, row)
  }
  return twins
}

type TwinRow = Pick<Row, 'id' | 'name' | 'kind' | 'files'>

/** Real-world width of the item that a row is, where nobody has said it of the row: what was decided once need not be said again. */
export async function inheritWidth(db: Connection, conflict: Conflict | null): Promise<number | null> {
  if (conflict?.kind !== 'identical' && conflict?.kind !== 'newerFiles') return null
  const [held] = await db
    .select({ widthMm: versions.widthMm })
    .from(items)
    .innerJoin(versions, eq(versions.id, items.currentVersionId))
    .where(eq(items.id, conflict.itemId))
  return held?.widthMm ?? null
}

/** The items that rows may be, as the worklist shows them; one that was withdrawn is none any more. */
export async function describeConflicts(db: Connection, rows: readonly Pick<Row, 'conflict'>[]) {
  const ids = [...new Set(rows.flatMap(r => (r.conflict ? [r.conflict.itemId] : [])))]
  if (ids.length === 0) return new Map<number, { code: string; name: string; preview: string | null }>()
  const held = await db
    .select({ item: items, inputKey: versions.inputKey, versionId: versions.id })
    .from(items)
    .innerJoin(versions, eq(versions.id, items.currentVersionId))
    .where(and(isOneOf(items.id, ids), ne(items.state, 'withdrawn')))
  const [found, own] = await Promise.all([
    findPreviews(
      db,
      held.map(h => ({ inputKey: h.inputKey, category: h.item.category })),
    ),
    findOwnPictures(
      db,
      held.map(h => h.versionId),
    ),
  ])
  return new Map(
    held.map(({ item, inputKey, versionId }) => [
      item.id,
      {
        code: item.code,
        name: item.name,
        preview: own.get(versionId)?.url ?? previewOf(found, inputKey, item.category)?.url ?? null,
      },
    ]),
  )
}
