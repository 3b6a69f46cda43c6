import { and, eq } from 'drizzle-orm'
import { groupBy } from '#core/group-by'
import type { ItemKind } from '#core/standard/categories'
import { proposeCategoryOf } from '#core/standard/source-folder-mapping'
import type { SourceFolderView } from '#shared/contracts/intake.contract'
import { followRetired } from '../house/categories'
import type { Connection } from '../platform/database'
import { sourceFolderMappings } from '../tables/intake.table'
import type { BatchRow } from './batches'
import type { BatchItemRow } from './rows'

const keyOf = (kind: ItemKind, sourceFolder: string): string => `${kind}\n${sourceFolder.toLowerCase()}`

/** What was decided before for the source folders of this supplier, by kind and source folder. */
export async function rememberedSourceFolders(
  db: Connection,
  { libraryId, maker }: Pick<BatchRow, 'libraryId' | 'maker'>,
): Promise<Map<string, string>> {
  if (maker === '') return new Map()
  const rows = await db
    .select()
    .from(sourceFolderMappings)
    .where(and(eq(sourceFolderMappings.libraryId, libraryId), eq(sourceFolderMappings.maker, maker.toLowerCase())))
  return new Map(rows.map(r => [keyOf(r.kind, r.sourceFolder), r.category]))
}

export const findRemembered = (remembered: ReadonlyMap<string, string>, kind: ItemKind, sourceFolder: string): string | null =>
  remembered.get(keyOf(kind, sourceFolder)) ?? null

/** The delivery's own source folders beside the house's, each with the rows in it that are not accepted yet. */
export function describeSourceFolders(
  rows: readonly Pick<BatchItemRow, 'kind' | 'state' | 'sourceFolder' | 'category' | 'categoryConfidence'>[],
  remembered: ReadonlyMap<string, string>,
  retired: ReadonlyMap<string, string>,
): SourceFolderView[] {
  const placed = rows.filter(row => row.sourceFolder !== '' && row.state !== 'accepted')
  const groups = groupBy(placed, row => keyOf(row.kind, row.sourceFolder))
  return [...groups.values()]
    .map((group): SourceFolderView => {
      const [{ kind, sourceFolder }] = group
      const votes = group.map(r => ({ category: r.category, confidence: r.categoryConfidence }))
      const proposed = proposeCategoryOf(kind, sourceFolder, votes, findRemembered(remembered, kind, sourceFolder))
      // Below an even chance a proposal is only in the way.
      const category = proposed.confidence < 0.5 ? null : followRetired(proposed.category, retired)
      const proposal = { ...proposed, category }
      const astray = category === null ? 0 : group.filter(r => r.category !== category).length
      return { sourceFolder, kind, rows: group.length, ...proposal, astray }
    })
    .sort((a, b) => a.sourceFolder.localeCompare(b.sourceFolder) || a.kind.localeCompare(b.kind))
}
