import { type ProposedTag, proposeTags, proposeUses } from '#core/find/tags/propose-tags'
import type { TagWords } from '#core/find/tags/tag-words'
import { computeSizeFacts } from '#core/material/analyse-material'
import { type CategoryRules, properTags, splitTags } from '#core/standard/category-rules'
import type { Facts } from '#files/items/inspect-item'
import { isMapRole } from '#files/items/item-source'
import { toTagEvidence } from '../find/tag-evidence'
import type { BatchItemFile, batchItems } from '../tables/intake.table'

export type BatchItemRow = typeof batchItems.$inferSelect

/** The files of a row as they were delivered, without what fixes made of them. */
export const deliveredFiles = (row: BatchItemRow): BatchItemFile[] => row.sourceFiles ?? row.files

/** What is known of a row, its delivery and by whom it was given; what a person gave wins. */
export const factsOf = (row: BatchItemRow, { maker, licence }: { maker: string; licence: string }): Facts => ({
  ...row.facts,
  ...(row.kind === 'material' || row.kind === 'map'
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

/**
 * Tags, and rooms and uses, that a row will have: what a person or the delivery says in the house's words, and what its name, its folders,
 * its place and its measured facts propose besides. A person's word stands alone.
 */
export function wordsOfRow(
  row: BatchItemRow,
  known: Facts,
  { tags: house }: Pick<CategoryRules, 'tags'>,
  words: TagWords,
): Record<'tags' | 'uses', string[]> {
  const evidence = toTagEvidence(row, known)
  const told = (list: 'tags' | 'uses') => properTags(splitTags(known[list]), list === 'tags' ? (house ?? []) : [])
  const withProposals = (list: 'tags' | 'uses', proposed: readonly ProposedTag[]) => {
    const said = told(list)
    if (row.givenFacts[list] !== undefined) return said
    const more = proposed.map(p => p.word).filter(word => !said.some(s => s.toLowerCase() === word.toLowerCase()))
    return [...said, ...more].slice(0, MOST_WORDS)
  }
  return {
    tags: withProposals('tags', proposeTags(evidence, house ?? [], words)),
    uses: withProposals('uses', proposeUses(evidence, words)),
  }
}

/** More say nothing. */
const MOST_WORDS = 12

/** A surface with maps repeats at some size, and nothing renders right before somebody says which. */
export const needsWidth = (row: BatchItemRow): boolean =>
  row.kind === 'material' && row.widthMm === null && row.files.some(f => isMapRole(f.role))
