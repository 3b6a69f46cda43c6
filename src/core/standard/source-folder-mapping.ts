import { tokenizeName } from '../file-names'
import { findCategory, type ItemKind, singularOf, suggestCategory } from './categories'

export interface Vote {
  category: string
  confidence: number
}

export interface CategoryProposal {
  category: string
  /** 0..1 */
  confidence: number
  /** What spoke for it: an earlier decision for this supplier, what lies in it, or the words of its name. */
  reason: 'remembered' | 'content' | 'words'
}

const REMEMBERED_CONFIDENCE = 0.98
/** A name is worth as much as two things that are sure of themselves. */
const NAME_WEIGHT = 2

/**
 * Which house category a supplier's own source folder is: what was decided before, else the votes of the things in it and the words of its name,
 * the last part of it counting most.
 * @param sourceFolder its parts joined by " / "
 */
export function proposeCategoryOf(
  kind: ItemKind,
  sourceFolder: string,
  votes: readonly Vote[],
  remembered: string | null,
): CategoryProposal {
  if (remembered && findCategory(remembered)?.kind === kind)
    return { category: remembered, confidence: REMEMBERED_CONFIDENCE, reason: 'remembered' }
  const parts = sourceFolder.split(' / ').filter(Boolean)
  const words = parts.flatMap((part, i) => {
    const tokens = tokenizeName(part).flatMap(t => [t, singularOf(t)])
    return i === parts.length - 1 ? [...tokens, ...tokens] : tokens
  })
  const byName = suggestCategory(kind, words)
  const sums = new Map<string, number>()
  const add = (category: string, weight: number) => sums.set(category, (sums.get(category) ?? 0) + weight)
  for (const vote of votes) add(vote.category, vote.confidence)
  // Where the words say nothing they only name the kind's own place in the tree.
  const isTelling = byName.confidence > 0.3
  if (isTelling) add(byName.path, byName.confidence * NAME_WEIGHT)
  const [best, next] = [...sums].sort((a, b) => b[1] - a[1])
  if (!best) return { category: byName.path, confidence: byName.confidence, reason: 'words' }
  const lead = best[1] > 0 ? (best[1] - (next?.[1] ?? 0)) / best[1] : 0
  const backing = Math.min(1, best[1] / 2)
  return {
    category: best[0],
    confidence: Math.min(0.95, 0.25 + 0.7 * lead * backing),
    reason: isTelling && byName.path === best[0] ? 'words' : 'content',
  }
}
