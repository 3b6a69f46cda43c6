import { randomUUID } from 'node:crypto'
import { rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { and, eq, sql } from 'drizzle-orm'
import { loadRefusals } from '../../house/load-licences'
import { loadProfile } from '../../house/load-profiles'
import { type Actor, mayRead } from '../../platform/access'
import type { ComputePool } from '../../platform/compute/compute-pool'
import type { Context } from '../../platform/context'
import { notFound, ProblemError } from '../../platform/problem'
import { items, versions } from '../../tables/library.table'
import { collectItems } from './collect-items'

/**
 * One version of an item by itself, in a profile of the house, as a zip in the folder for temporary files; whoever gets it removes it.
 * @param version its number; the approved one without it, or the current one where none is
 */
export async function handOverItem(
  context: Context & { compute: ComputePool },
  actor: Actor,
  { code, version, profileId }: { code: string; version?: number; profileId?: number },
): Promise<{ zipPath: string; fileName: string }> {
  const { db, compute } = context
  const [row] = await db
    .select({ versionId: versions.id })
    .from(items)
    .innerJoin(versions, eq(versions.itemId, items.id))
    .where(
      and(
        eq(items.code, code),
        mayRead(actor, items.libraryId),
        version === undefined
          ? sql`${versions.id} = coalesce(${items.approvedVersionId}, ${items.currentVersionId})`
          : eq(versions.number, version),
      ),
    )
  if (!row) throw notFound('This item')
  const [named, refusalOf, [item]] = await Promise.all([
    loadProfile(db, profileId ?? null),
    loadRefusals(db, null),
    collectItems(context, [row.versionId]),
  ])
  const refusal = refusalOf(item.licence)
  if (refusal) throw new ProblemError('notAllowed', refusal)
  const zipPath = join(tmpdir(), `muscovite-item-${randomUUID()}.zip`)
  const { manifest } = await compute.run('export', { items: [item], profile: named.profile, about: { project: null }, zipPath })
  if (manifest.failures.length > 0) {
    await rm(zipPath, { force: true })
    throw new ProblemError('notReady', manifest.failures[0].message)
  }
  return { zipPath, fileName: `${manifest.items[0].files[0].path.split('/')[0]}.zip` }
}
