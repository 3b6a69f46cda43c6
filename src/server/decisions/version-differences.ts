import { and, eq, sql } from 'drizzle-orm'
import type { Rig } from '#core/render/rigs/rig'
import { findVersionSource } from '../items/version-source'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { isOneOf } from '../platform/database'
import { PREVIEW_SEED, requestOnRigs } from '../previews/previews'
import { previews } from '../tables/library.table'
import { versionDifferences } from '../tables/project.table'

export type VersionDifference = typeof versionDifferences.$inferSelect

/** Two versions by what their pictures depend on, and the rig that both are looked at on. */
export interface VersionPair {
  beforeKey: string
  afterKey: string
  rig: Rig
}

/** Somebody looks at it. */
const PRIORITY = 40
/** Being worked out by this server: many may ask at once. */
const underWay = new Map<string, Promise<boolean>>()

const keyOf = ({ beforeKey, afterKey, rig }: VersionPair): string => [beforeKey, afterKey, rig.name, rig.revision].join('/')
const differenceKey = (d: VersionDifference): string => [d.beforeKey, d.afterKey, d.rig, d.rigRevision].join('/')

/** What is known of the differences of pairs, in their order; null where it is still to be worked out. */
export async function findDifferences(
  { db }: Pick<Context, 'db'>,
  pairs: readonly VersionPair[],
): Promise<(VersionDifference | null)[]> {
  if (pairs.length === 0) return []
  const rows = await db
    .select()
    .from(versionDifferences)
    .where(and(isOneOf(versionDifferences.beforeKey, [...new Set(pairs.map(p => p.beforeKey))])))
  const known = new Map(rows.map(r => [differenceKey(r), r]))
  return pairs.map(pair => known.get(keyOf(pair)) ?? null)
}

/**
 * Works out what is not known yet, each once however many ask: pictures of the same quality are laid over each other, and the parts of
 * models listed. Pictures that are not there are asked for.
 * @param onDone after each that was worked out
 */
export async function workOutDifferences(
  context: Context & { compute: ComputePool },
  pairs: readonly VersionPair[],
  onDone: () => Promise<void>,
): Promise<void> {
  for (const pair of pairs) {
    const key = keyOf(pair)
    const running = underWay.get(key) ?? workOut(context, pair).finally(() => underWay.delete(key))
    underWay.set(key, running)
    if (await running) await onDone()
  }
}

/** @returns whether it is known now; pictures may be missing */
async function workOut(context: Context & { compute: ComputePool }, pair: VersionPair): Promise<boolean> {
  const { db, storage, queue, compute } = context
  const { beforeKey, afterKey, rig } = pair
  const rows = await db
    .select()
    .from(previews)
    .where(
      and(
        isOneOf(previews.inputKey, [beforeKey, afterKey]),
        eq(previews.rig, rig.name),
        eq(previews.rigRevision, rig.revision),
        eq(previews.seed, PREVIEW_SEED),
        sql`${previews.linearHash} is not null`,
      ),
    )
    .orderBy(sql`${previews.quality} = 'final' desc`, sql`${previews.rendererRevision} desc`)
  const pictureOf = (inputKey: string, quality: string) => rows.find(r => r.inputKey === inputKey && r.quality === quality)
  const quality = (['final', 'draft'] as const).find(q => pictureOf(beforeKey, q) && pictureOf(afterKey, q))
  if (!quality) {
    const missing = [beforeKey, afterKey].filter(inputKey => !pictureOf(inputKey, 'draft'))
    const jobs = missing.map(inputKey => ({ inputKey, rig: rig.name, revision: rig.revision, quality: 'draft' as const }))
    await db.transaction(tx => requestOnRigs(tx, queue, jobs, PRIORITY))
    return false
  }
  const path = async (inputKey: string) => storage.localPath(pictureOf(inputKey, quality)!.linearHash!)
  const [before, after] = await Promise.all([beforeKey, afterKey].map(inputKey => findVersionSource(context, inputKey)))
  const worked = await compute.run('compareVersions', {
    pictures: [await path(beforeKey), await path(afterKey)],
    sources: before && after ? [before.source, after.source] : null,
  })
  await db
    .insert(versionDifferences)
    .values({ beforeKey, afterKey, rig: rig.name, rigRevision: rig.revision, ...worked })
    .onConflictDoNothing()
  return true
}
