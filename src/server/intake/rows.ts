import { computeSizeFacts } from '#core/material/analyse-material'
import type { Facts } from '#files/items/inspect-item'
import { isMapRole } from '#files/items/load-item'
import type { BatchItemFile, batchItems } from '../tables/intake.table'

export type BatchItemRow = typeof batchItems.$inferSelect

/** The files of a row as they were delivered, without what fixes made of them. */
export const deliveredFiles = (row: BatchItemRow): BatchItemFile[] => row.sourceFiles ?? row.files

/** What is known of a row, its delivery and by whom it was given; what a person gave wins. */
export const factsOf = (row: BatchItemRow, { maker, licence }: { maker: string; licence: string }): Facts => ({
  ...row.facts,
  ...(row.kind === 'material'
    ? computeSizeFacts(row.widthMm, Number(row.facts.widthPx ?? 0), Number(row.facts.heightPx ?? 0))
    : {}),
  // A plant is called by its botanical name, its common one behind it in brackets.
  ...(row.category.startsWith('vegetation') ? { botanicalName: row.name.replace(/ \([^()]*\)$/, '') } : {}),
  ...(maker ? { maker } : {}),
  ...(licence ? { licence } : {}),
  ...(row.sourceFolder ? { deliveredAs: row.sourceFolder } : {}),
  ...(row.tags.length > 0 ? { tags: row.tags.join(', ') } : {}),
  sourcePath: row.files[0]?.path ?? '',
  ...row.givenFacts,
})

/** A surface with maps repeats at some size, and nothing renders right before somebody says which. */
export const needsWidth = (row: BatchItemRow): boolean =>
  row.kind === 'material' && row.widthMm === null && row.files.some(f => isMapRole(f.role))
