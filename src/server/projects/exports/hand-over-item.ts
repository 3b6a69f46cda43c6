import { randomUUID } from 'node:crypto'
import { rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { and, eq, sql } from 'drizzle-orm'
import { FileError } from '#core/findings/failure'
import type { DeliveredMap } from '#core/hand-over/delivered-maps'
import type { Profile } from '#core/hand-over/profile'
import type { ExportItem } from '#files/exports/write-export'
import { loadRefusals } from '../../house/load-licences'
import { loadProfile } from '../../house/load-profiles'
import { type Actor, mayRead } from '../../platform/access'
import type { ComputePool } from '../../platform/compute/compute-pool'
import type { Context } from '../../platform/context'
import { notFound, ProblemError } from '../../platform/problem'
import { items, versions } from '../../tables/library.table'
import { collectItems } from './collect-items'

interface Wish {
  code: string
  /** Its number; the approved one without it, or the current one where none is. */
  version?: number
  profileId?: number
  /** To be changed: what is written says so, and an audit knows. */
  isCopy?: boolean
}

/**
 * One version of an item by itself, in a profile of the house, as a zip in the folder for temporary files; whoever gets it removes it.
 */
export async function handOverItem(
  context: Context & { compute: ComputePool },
  actor: Actor,
  wish: Wish,
): Promise<{ zipPath: string; fileName: string }> {
  const { item, profile } = await openHandOver(context, actor, wish)
  const zipPath = join(tmpdir(), `muscovite-item-${randomUUID()}.zip`)
  const about = { project: null }
  const { manifest } = await context.compute.run('export', { items: [item], profile, about, zipPath })
  if (manifest.failures.length > 0) {
    await rm(zipPath, { force: true })
    throw new ProblemError('notReady', manifest.failures[0].message)
  }
  return { zipPath, fileName: `${manifest.items[0].files[0].path.split('/')[0]}.zip` }
}

/** One map of it by itself, as the profile wants it. @throws ProblemError where there is no such map */
export async function handOverMap(
  context: Context & { compute: ComputePool },
  actor: Actor,
  { map, ...wish }: Wish & { map: DeliveredMap },
): Promise<{ fileName: string; bytes: Uint8Array }> {
  const { item, profile } = await openHandOver(context, actor, wish)
  try {
    const { path, bytes } = await context.compute.run('exportMap', { item, profile, map })
    return { fileName: path, bytes }
  } catch (error) {
    if (!(error instanceof FileError)) throw error
    throw new ProblemError(error.code === 'notFound' ? 'notFound' : 'notReady', error.message)
  }
}

async function openHandOver(
  context: Context,
  actor: Actor,
  { code, version, profileId, isCopy = false }: Wish,
): Promise<{ item: ExportItem; profile: Profile }> {
  const { db } = context
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
  return { item: { ...item, isCopy }, profile: named.profile }
}
