import { sql } from 'drizzle-orm'
import type { ClaimFiles, Sizes } from '#shared/contracts/intake.contract'
import { type Actor, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import type { Connection } from '../platform/database'
import { batches, batchFiles } from '../tables/intake.table'
import { items, versionFiles, versions } from '../tables/library.table'
import { getReceivingBatch, putBatchFile } from './batches'

/**
 * Takes files into a batch that somebody is about to send and whose bytes are here already. Only bytes that the asker could read anyway
 * count: a hash alone must not open what another library holds.
 * @returns the paths that were taken; the others have to be sent
 */
export async function claimFiles(context: Context, actor: Actor, batchId: number, { files }: ClaimFiles): Promise<string[]> {
  await getReceivingBatch(context.db, actor, batchId)
  const readable = await findReadable(context.db, actor, [...new Set(files.map(f => f.hash))])
  const taken: string[] = []
  for (const { path, hash, size } of files) {
    if (readable.get(hash) !== size) continue
    await putBatchFile(context.db, batchId, path, { hash, size })
    taken.push(path)
  }
  return taken
}

/** Of some sizes in bytes, those of bytes that could be claimed: only what has one of them is worth hashing before it is sent. */
export async function findSizesHere(context: Context, actor: Actor, batchId: number, { sizes }: Sizes): Promise<number[]> {
  await getReceivingBatch(context.db, actor, batchId)
  const { rows } = await context.db.execute<{ size: string }>(sql`
    select distinct f.size from files f
    where f.size = any(${sql.param(sizes)}::bigint[]) and ${isReadable(actor)}`)
  return rows.map(r => Number(r.size))
}

/** Sizes by hash of those that a library the asker may see, or a delivery for one, holds. */
async function findReadable(db: Connection, actor: Actor, hashes: readonly string[]): Promise<Map<string, number>> {
  const { rows } = await db.execute<{ hash: string; size: string }>(sql`
    select f.hash, f.size from files f
    where f.hash = any(${sql.param([...hashes])}::text[]) and ${isReadable(actor)}`)
  return new Map(rows.map(r => [r.hash, Number(r.size)]))
}

/** Of a row `f` of the files: whether a library the asker may see, or a delivery for one, holds it. */
const isReadable = (actor: Actor) => sql`(
  exists (
    select from ${batchFiles} bf join ${batches} b on b.id = bf.batch_id
    where bf.hash = f.hash and ${mayRead(actor, sql`b.library_id`)})
  or exists (
    select from ${versionFiles} vf join ${versions} v on v.id = vf.version_id join ${items} i on i.id = v.item_id
    where vf.hash = f.hash and ${mayRead(actor, sql`i.library_id`)}))`
