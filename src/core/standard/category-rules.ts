import { findCategory } from './categories'
import { cleanName, formatName, parseNamePattern } from './name-pattern'
import type { Target } from './target-names'

/** What a measured fact may be in a category; null leaves that side open. */
export interface FactRange {
  fact: string
  low: number | null
  high: number | null
}

/** A word that things here are tagged with, and others that mean the same: they find it, and give way to it. */
export interface Tag {
  word: string
  synonyms: string[]
}

/** What the house asks of everything in a category. Null means: as the category above, and at the top: nothing. */
export interface CategoryRules {
  /** Facts that a person or a delivery has to give. */
  requiredFacts: string[] | null
  namePattern: string | null
  /** Extent in its largest dimension that a model here has, metres. */
  expectedSizeM: [number, number] | null
  triangleBudget: number | null
  /** Longest side of a map, in pixels. */
  mapBudgetPx: number | null
  mapPacking: 'apart' | 'packed' | null
  factRanges: FactRange[] | null
  tags: Tag[] | null
  /** Delivery forms in which its look has to hold; null is all. */
  targets: Target[] | null
}

export const NO_RULES: CategoryRules = {
  requiredFacts: null,
  namePattern: null,
  expectedSizeM: null,
  triangleBudget: null,
  mapBudgetPx: null,
  mapPacking: null,
  factRanges: null,
  tags: null,
  targets: null,
}

/** What ships: sizes and budgets of the house tree, maker and licence for everything, plants by their botanical name. */
export function shippedRules(path: string): CategoryRules {
  const category = findCategory(path)
  const isTop = !path.includes('.')
  return {
    ...NO_RULES,
    requiredFacts: path === 'vegetation' ? ['maker', 'licence', 'botanicalName'] : isTop ? ['maker', 'licence'] : null,
    namePattern: path === 'vegetation' ? '{botanicalName} [({commonName:lower})]' : isTop ? '{name}' : null,
    expectedSizeM: category?.expectedSizeM ?? null,
    triangleBudget: category?.triangleBudget ?? null,
  }
}

/** Within a category and below it; ranges and tags add to those from above, and what is nearer wins for the same fact or word. */
export function resolveRules(path: string, own: ReadonlyMap<string, CategoryRules>): CategoryRules {
  const labels = path.split('.')
  let resolved = NO_RULES
  for (let depth = 1; depth <= labels.length; depth++) {
    const here = labels.slice(0, depth).join('.')
    const rules = own.get(here) ?? shippedRules(here)
    resolved = {
      requiredFacts: rules.requiredFacts ?? resolved.requiredFacts,
      namePattern: rules.namePattern ?? resolved.namePattern,
      expectedSizeM: rules.expectedSizeM ?? resolved.expectedSizeM,
      triangleBudget: rules.triangleBudget ?? resolved.triangleBudget,
      mapBudgetPx: rules.mapBudgetPx ?? resolved.mapBudgetPx,
      mapPacking: rules.mapPacking ?? resolved.mapPacking,
      factRanges: joinBy(resolved.factRanges, rules.factRanges, r => r.fact),
      tags: joinBy(resolved.tags, rules.tags, t => t.word),
      targets: rules.targets ?? resolved.targets,
    }
  }
  return resolved
}

function joinBy<T>(above: T[] | null, here: T[] | null, keyOf: (entry: T) => string): T[] | null {
  if (!above || !here) return here ?? above
  const keys = new Set(here.map(keyOf))
  return [...above.filter(entry => !keys.has(keyOf(entry))), ...here]
}

type FactValues = Readonly<Record<string, string | number | boolean | undefined>>

export interface StandardVerdict {
  missingFacts: string[]
  /** The name that the pattern gives; null when it is called that already, or when a fact for it is missing. */
  proposedName: string | null
  /** Measured facts that are not what they may be here. */
  outOfRange: (FactRange & { value: number })[]
  /** The tags in the house's words; null when they are that already. */
  proposedTags: string | null
  /** Tags that neither the category nor the vocabulary has a word for, where the category has words at all. */
  strangeTags: string[]
}

/**
 * What keeps a thing from being on standard, as far as its words and figures go.
 * @param firsts first words of the vocabulary in force, lower case: what is read from names and measures is said in them
 */
export function checkStandard(
  rules: CategoryRules,
  name: string,
  facts: FactValues,
  firsts: ReadonlySet<string>,
): StandardVerdict {
  const isMissing = (fact: string) => facts[fact] === undefined || facts[fact] === ''
  const required = (rules.requiredFacts ?? []).filter(isMissing)
  const parsed = rules.namePattern === null ? null : parseNamePattern(rules.namePattern)
  const formatted = parsed && 'parts' in parsed ? formatName(parsed.parts, { ...facts, name: cleanName(name) }) : null
  const tags = splitTags(facts.tags)
  const proper = properTags(tags, rules.tags ?? [])
  return {
    missingFacts: [...new Set([...required, ...(formatted?.missing ?? []).filter(isMissing)])],
    proposedName: formatted !== null && formatted.name !== null && formatted.name !== name ? formatted.name : null,
    outOfRange: (rules.factRanges ?? []).flatMap(range => {
      const value = facts[range.fact]
      if (typeof value !== 'number') return []
      const isOutside = (range.low !== null && value < range.low) || (range.high !== null && value > range.high)
      return isOutside ? [{ ...range, value }] : []
    }),
    proposedTags: proper.join(', ') !== tags.join(', ') ? proper.join(', ') : null,
    strangeTags:
      rules.tags && rules.tags.length > 0
        ? proper.filter(t => !rules.tags!.some(tag => tag.word === t) && !firsts.has(t.toLowerCase()))
        : [],
  }
}

export const splitTags = (text: string | number | boolean | undefined): string[] =>
  String(text ?? '')
    .split(',')
    .map(t => t.trim())
    .filter(Boolean)

/** Each tag in the house's word for it, once; one without stays as it is. */
export function properTags(tags: readonly string[], house: readonly Tag[]): string[] {
  const wordOf = new Map(house.flatMap(({ word, synonyms }) => [word, ...synonyms].map(w => [w.toLowerCase(), word] as const)))
  return [...new Set(tags.map(tag => wordOf.get(tag.toLowerCase()) ?? tag))]
}
