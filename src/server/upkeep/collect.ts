import { sql } from 'drizzle-orm'
import type { Collected } from '#shared/contracts/upkeep.contract'
import { type Actor, mayEdit } from '../platform/access'
import type { Context } from '../platform/context'
import { notAllowed, ProblemError } from '../platform/problem'

/** Bytes younger than this may be on their way to whoever will name them. */
const SHORTEST_RETENTION_HOURS = 1
const AT_A_TIME = 500

/**
 * Every table that names bytes. What is in one of these is kept: versions, batches, pictures, exports in their time. Jobs and running
 * uploads name no hash; what they are about to name is young.
 */
const NAMED = sql`
  select hash from version_files
  union all select hash from batch_files where hash is not null
  union all select file_hash from fingerprints f where exists (select from version_files v where v.hash = f.file_hash)
  union all select hash from screen_copies s where exists (select from version_files v where v.hash = s.source_hash)
  union all select before_hash from findings where before_hash is not null
  union all select after_hash from findings where after_hash is not null
  union all select hash from previews
  union all select linear_hash from previews where linear_hash is not null
  union all select r ->> 'hash' from previews, jsonb_array_elements(reduced) r
  union all select hash from own_pictures where hash is not null
  union all select source_hash from own_pictures
  union all select hash from target_fidelity
  union all select original_hash from target_fidelity
  union all select hash from turntables
  union all select hash from mock_up_pictures where hash is not null
  union all select linear_hash from mock_up_pictures where linear_hash is not null
  union all select hash from stage_models where hash is not null
  union all select corrected_hash from scene_audits where corrected_hash is not null
  union all select p.value ->> 'own' from scene_audits a, jsonb_each(a.pictures) p
  union all select p.value ->> 'library' from scene_audits a, jsonb_each(a.pictures) p
  union all select hash from exports where hash is not null
  union all select f ->> 'hash' from batch_items b, jsonb_array_elements(b.files) f
  union all select f ->> 'hash' from batch_items b, jsonb_array_elements(coalesce(b.source_files, '[]')) f
  union all select coalesce(f ->> 'before', '') from batch_items b, jsonb_array_elements(b.findings) f
  union all select coalesce(f ->> 'after', '') from batch_items b, jsonb_array_elements(b.findings) f`

export interface CollectWish {
  /** What is as old as this, in days, is taken away: exports since they were ordered, other bytes since they were last brought. */
  days: number
  dryRun: boolean
}

/**
 * Takes away exports past their time, and bytes that nothing names any more. A dry run only counts.
 * @throws ProblemError for somebody who may not, or a time that is too short
 */
export async function collect(context: Context, actor: Actor, { days, dryRun }: CollectWish): Promise<Collected> {
  if (!mayEdit(actor)) throw notAllowed('Collecting')
  if (days * 24 < SHORTEST_RETENTION_HOURS)
    throw new ProblemError('badRequest', 'Keep at least the last hour: what is being brought right now has no name yet.')
  const { db } = context
  const cutoff = sql`now() - ${days} * interval '1 day'`
  const old = sql`from exports where state = 'ready' and created_at < ${cutoff}`
  const exportHashes = sql`select hash ${old}`
  const { rows: exportRows } = await db.execute<{ count: number; bytes: number }>(sql`
    select count(*)::int as count, coalesce(sum(size), 0)::bigint as bytes ${old}`)
  // An export's zip is counted with the exports; after they are expired, its bytes are among those without a name.
  const unnamed = sql`
    from files f where f.last_put_at < ${cutoff} and not exists (
      select from (${NAMED}) n where n.hash = f.hash and ${dryRun ? sql`not exists (select from (${exportHashes}) e where e.hash = n.hash)` : sql`true`})`
  if (!dryRun)
    await db.execute(sql`
      update exports set state = 'expired', hash = null, message = 'Its zip was collected; order it again.'
      where state = 'ready' and created_at < ${cutoff}`)
  const { rows: fileRows } = await db.execute<{ hash: string; size: number }>(
    sql`select f.hash, f.size ${unnamed} order by f.hash`,
  )
  const strays = await findStrays(context, days)
  const result: Collected = {
    dryRun,
    exports: exportRows[0].count,
    files: fileRows.length + strays.length,
    bytes: [...fileRows, ...strays].reduce((sum, f) => sum + f.size, 0),
  }
  if (dryRun) return result
  let files = 0
  let bytes = 0
  for (let at = 0; at < fileRows.length; at += AT_A_TIME)
    for (const { size } of await removeNamed(
      context,
      fileRows.slice(at, at + AT_A_TIME).map(f => f.hash),
      cutoff,
    )) {
      files++
      bytes += size
    }
  for (const { hash, size } of strays) {
    await context.storage.remove(hash)
    files++
    bytes += size
  }
  return { ...result, files, bytes }
}

/** The rows go first and stay locked until their bytes are gone: whoever brings the same bytes waits, and then brings them anew. */
const removeNamed = ({ db, storage }: Context, hashes: readonly string[], cutoff: ReturnType<typeof sql>) =>
  db.transaction(async tx => {
    // What was named, or brought again, since the list was made stays.
    const { rows } = await tx.execute<{ hash: string; size: number }>(sql`
      select f.hash, f.size from files f
      where f.hash = any(${sql.param([...hashes])}::text[]) and f.last_put_at < ${cutoff}
        and not exists (select from (${NAMED}) n where n.hash = f.hash)
      for update`)
    const gone = sql.param(rows.map(r => r.hash))
    await tx.execute(sql`delete from fingerprints where file_hash = any(${gone}::text[])`)
    await tx.execute(sql`delete from files where hash = any(${gone}::text[])`)
    for (const { hash } of rows) await storage.remove(hash)
    return rows
  })

/** Bytes in the store that have no row: of a release that put bytes before rows. */
async function findStrays({ db, storage }: Context, days: number): Promise<{ hash: string; size: number }[]> {
  const before = Date.now() - days * 24 * 3600 * 1000
  const old: { hash: string; size: number }[] = []
  for await (const { hash, size, modifiedAt } of storage.list()) if (modifiedAt.getTime() < before) old.push({ hash, size })
  if (old.length === 0) return []
  const { rows } = await db.execute<{ hash: string }>(sql`
    select w.hash from unnest(${sql.param(old.map(f => f.hash))}::text[]) w(hash)
    where not exists (select from files f where f.hash = w.hash)`)
  const strays = new Set(rows.map(r => r.hash))
  return old.filter(f => strays.has(f.hash))
}
