import { asc, eq } from 'drizzle-orm'
import { groupBy } from '#core/group-by'
import type { ExportItem } from '#files/exports/write-export'
import { inputsOf } from '../../items/version-source'
import type { Context } from '../../platform/context'
import { isOneOf } from '../../platform/database'
import { toSourceFiles } from '../../platform/storage/stored-files'
import { facts, items, versionFiles, versions } from '../../tables/library.table'

/** Versions as they are handed over, by the codes of their items. */
export async function collectItems(
  { db, storage }: Pick<Context, 'db' | 'storage'>,
  versionIds: readonly number[],
): Promise<ExportItem[]> {
  const ids = [...versionIds]
  const [rows, fileRows, factRows] = await Promise.all([
    db
      .select({ item: items, version: versions })
      .from(versions)
      .innerJoin(items, eq(items.id, versions.itemId))
      .where(isOneOf(versions.id, ids))
      .orderBy(asc(items.code)),
    db.select().from(versionFiles).where(isOneOf(versionFiles.versionId, ids)).orderBy(asc(versionFiles.position)),
    db.select().from(facts).where(isOneOf(facts.versionId, ids)),
  ])
  const sources = await toSourceFiles(db, storage, fileRows)
  const filesOf = groupBy(
    fileRows.map((f, i) => ({ ...f, file: sources[i] })),
    f => f.versionId,
  )
  const factsOf = groupBy(factRows, f => f.versionId)
  return rows.map(({ item, version }) => {
    const textFact = (name: string) => factsOf.get(version.id)?.find(f => f.name === name)?.text ?? ''
    return {
      code: item.code,
      version: version.number,
      category: item.category,
      maker: textFact('maker'),
      licence: textFact('licence'),
      source: { kind: item.kind, name: item.name, ...inputsOf(version), files: filesOf.get(version.id) ?? [] },
    }
  })
}
