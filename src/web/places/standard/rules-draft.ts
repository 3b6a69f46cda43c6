import { type CategoryRules, NO_RULES, type Tag } from '#core/standard/category-rules'
import type { Target } from '#core/standard/target-names'

/** A category's rules as they are typed: every field text, empty where the category above decides. */
export interface Draft {
  requiredFacts: string
  namePattern: string
  smallestM: string
  largestM: string
  triangleBudget: string
  mapBudgetPx: string
  mapPacking: '' | 'apart' | 'packed'
  ranges: { fact: string; low: string; high: string }[]
  /** A word a line, its other words behind an equals sign. */
  tags: string
  targets: Target[] | null
}

const toText = (value: number | null): string => (value === null ? '' : String(value))

export const toDraft = (rules: CategoryRules): Draft => ({
  requiredFacts: rules.requiredFacts?.join(', ') ?? '',
  namePattern: rules.namePattern ?? '',
  smallestM: toText(rules.expectedSizeM?.[0] ?? null),
  largestM: toText(rules.expectedSizeM?.[1] ?? null),
  triangleBudget: toText(rules.triangleBudget),
  mapBudgetPx: toText(rules.mapBudgetPx),
  mapPacking: rules.mapPacking ?? '',
  ranges: (rules.factRanges ?? []).map(({ fact, low, high }) => ({ fact, low: toText(low), high: toText(high) })),
  tags: formatTags(rules.tags ?? []),
  targets: rules.targets,
})

export const toNumber = (text: string): number | null => {
  const value = Number(text.replace(',', '.').replace(/\s/g, ''))
  return text.trim() === '' || !Number.isFinite(value) ? null : value
}

export function toRules(draft: Draft): CategoryRules {
  const [low, high] = [toNumber(draft.smallestM), toNumber(draft.largestM)]
  const names = draft.requiredFacts.split(/[,\s]+/).filter(Boolean)
  const ranges = draft.ranges
    .map(r => ({ fact: r.fact, low: toNumber(r.low), high: toNumber(r.high) }))
    .filter(r => r.fact !== '' && (r.low !== null || r.high !== null))
  const tags = parseTags(draft.tags)
  return {
    ...NO_RULES,
    requiredFacts: names.length > 0 ? names : null,
    namePattern: draft.namePattern.trim() || null,
    expectedSizeM: low !== null && high !== null ? [low, high] : null,
    triangleBudget: toNumber(draft.triangleBudget),
    mapBudgetPx: toNumber(draft.mapBudgetPx),
    mapPacking: draft.mapPacking || null,
    factRanges: ranges.length > 0 ? ranges : null,
    tags: tags.length > 0 ? tags : null,
    targets: draft.targets,
  }
}

/** "oak = eiche, quercus" */
export const formatTags = (tags: readonly Tag[]): string =>
  tags.map(({ word, synonyms }) => (synonyms.length > 0 ? `${word} = ${synonyms.join(', ')}` : word)).join('\n')

export function parseTags(text: string): Tag[] {
  const tags = new Map<string, string[]>()
  for (const line of text.split('\n')) {
    const [word, others = ''] = line.split('=').map(part => part.trim())
    if (!word) continue
    const synonyms = others
      .split(',')
      .map(s => s.trim())
      .filter(Boolean)
    tags.set(word, [...new Set([...(tags.get(word) ?? []), ...synonyms])])
  }
  return [...tags].map(([word, synonyms]) => ({ word, synonyms }))
}
