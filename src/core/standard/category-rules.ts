import { findCategory } from './categories'
import { cleanName, formatName, parseNamePattern } from './name-pattern'

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
}

export const NO_RULES: CategoryRules = {
  requiredFacts: null,
  namePattern: null,
  expectedSizeM: null,
  triangleBudget: null,
  mapBudgetPx: null,
}

/** What ships: sizes and budgets of the house tree, maker and licence for everything, plants by their botanical name. */
export function shippedRules(path: string): CategoryRules {
  const category = findCategory(path)
  const isTop = !path.includes('.')
  return {
    requiredFacts: path === 'vegetation' ? ['maker', 'licence', 'botanicalName'] : isTop ? ['maker', 'licence'] : null,
    namePattern: path === 'vegetation' ? '{botanicalName} [({commonName:lower})]' : isTop ? '{name}' : null,
    expectedSizeM: category?.expectedSizeM ?? null,
    triangleBudget: category?.triangleBudget ?? null,
    mapBudgetPx: null,
  }
}

/** The rules that hold in a category: its own, and where it has none those of the nearest category above. */
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
    }
  }
  return resolved
}

export interface StandardVerdict {
  missingFacts: string[]
  /** The name that the pattern gives; null when it is called that already, or when a fact for it is missing. */
  proposedName: string | null
}

/** What keeps a thing from being on standard, as far as its words go. */
export function checkWords(
  rules: CategoryRules,
  name: string,
  facts: Readonly<Record<string, string | number | boolean | undefined>>,
): StandardVerdict {
  const isMissing = (fact: string) => facts[fact] === undefined || facts[fact] === ''
  const missingFacts = (rules.requiredFacts ?? []).filter(isMissing)
  const parsed = rules.namePattern === null ? null : parseNamePattern(rules.namePattern)
  if (!parsed || 'problem' in parsed) return { missingFacts, proposedName: null }
  const proposed = formatName(parsed.parts, { ...facts, name: cleanName(name) })
  return {
    missingFacts: [...new Set([...missingFacts, ...proposed.missing.filter(isMissing)])],
    proposedName: proposed.name !== null && proposed.name !== name ? proposed.name : null,
  }
}
