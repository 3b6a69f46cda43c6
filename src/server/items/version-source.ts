import { asc, eq, sql } from 'drizzle-orm'
import type { Fix } from '#core/fixes/fix'
import type { OpenPbrParameters, Tiling } from '#core/material/open-pbr'
import type { ItemSource } from '#files/items/item-source'
import type { SourceFile } from '#files/reading/source-file'
import { toSourceFiles } from '../platform/storage/stored-files'
import type { WorkContext } from '../platform/work-context'
import { items, versionFiles, versions } from '../tables/library.table'

/** What a job renders, and whom it concerns. */
export interface VersionSource {
  source: ItemSource
  libraryId: number
  itemId: number | null
  batchId: number | null
  category: string
}

/** Stored files of an item, opened for the core. */
async function openFiles<T extends { path: string; hash: string }>(
  { db, storage }: Pick<WorkContext, 'db' | 'storage'>,
  list: readonly T[],
): Promise<(T & { file: SourceFile })[]> {
  const sources = await toSourceFiles(db, storage, list)
  return list.map((f, i) => ({ ...f, file: sources[i] }))
}

/** The house materials that fixes name, opened, by their versions. One that is gone is not among them. */
export async function openMaterials(
  { db, storage }: Pick<WorkContext, 'db' | 'storage'>,
  fixes: readonly Fix[],
): Promise<Record<number, ItemSource>> {
  const ids = [...new Set(fixes.filter(f => f.code === 'assignMaterial').map(f => Number(f.parameters.versionId)))]
  const found: Record<number, ItemSource> = {}
  for (const id of ids) {
    const [row] = await db
      .select({ item: items, version: versions })
      .from(versions)
      .innerJoin(items, eq(items.id, versions.itemId))
      .where(eq(versions.id, id))
    if (!row) continue
    const list = await db.select().from(versionFiles).where(eq(versionFiles.versionId, id)).orderBy(asc(versionFiles.position))
    found[id] = await openSource({ db, storage }, { ...row.item, ...inputsOf(row.version) }, list)
  }
  return found
}

/** The item that has these inputs, opened; at its current version if that is one of them. Null when nobody has them any more. */
export async function findVersionSource(
  { db, storage }: Pick<WorkContext, 'db' | 'storage'>,
  inputKey: string,
): Promise<VersionSource | null> {
  const [row] = await db
    .select({ item: items, version: versions })
    .from(versions)
    .innerJoin(items, eq(items.id, versions.itemId))
    .where(eq(versions.inputKey, inputKey))
    .orderBy(sql`${versions.id} = ${items.currentVersionId} desc`)
    .limit(1)
  if (!row) return null
  const list = await db
    .select()
    .from(versionFiles)
    .where(eq(versionFiles.versionId, row.version.id))
    .orderBy(asc(versionFiles.position))
  const { libraryId, id } = row.item
  return {
    libraryId,
    itemId: id,
    batchId: null,
    category: row.item.category,
    source: await openSource({ db, storage }, { ...row.item, ...inputsOf(row.version) }, list),
  }
}

interface Inputs {
  widthMm: number | null
  tiling: Tiling
  constants: Partial<OpenPbrParameters>
}

/** What a picture or a measurement depends on beside the files, of a version or a row of a worklist. */
export const inputsOf = ({ widthMm, tiling, constants }: Inputs): Inputs => ({ widthMm, tiling, constants })

/** An item with its files where they can be read. */
export const openSource = async (
  context: Pick<WorkContext, 'db' | 'storage'>,
  { kind, name, widthMm, tiling, constants }: Pick<ItemSource, 'kind' | 'name'> & Inputs,
  list: readonly Omit<ItemSource['files'][number] & { path: string; hash: string }, 'file'>[],
): Promise<ItemSource> => ({ kind, name, widthMm, tiling, constants, files: await openFiles(context, list) })
