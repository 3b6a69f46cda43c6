import type { Verdict } from '#shared/contracts/standard.contract'
import { FACT_UNITS, factWord, formatFact, formatNumber } from '#shared/units'

/** "0.3 to 1", "at most 80", "at least 2" */
export function rangeWords(fact: string, low: number | null, high: number | null): string {
  const figure = (value: number) => formatFact(fact, value)
  if (low !== null && high !== null) return `${formatNumber(low, FACT_UNITS[fact]?.digits ?? 2)} to ${figure(high)}`
  return low !== null ? `at least ${figure(low)}` : high !== null ? `at most ${figure(high)}` : 'anything'
}

/** What keeps a thing from being on standard, but for its name: each as the end of a sentence. */
export const offWords = ({ missingFacts, outOfRange, proposedTags, strangeTags }: Omit<Verdict, 'proposedName'>): string[] => [
  ...(missingFacts.length > 0 ? [`without ${missingFacts.map(factWord).join(', ')}`] : []),
  ...outOfRange.map(
    ({ fact, low, high, value }) =>
      `${factWord(fact)} ${formatFact(fact, value)} where ${rangeWords(fact, low, high)} is allowed`,
  ),
  ...(proposedTags !== null ? [`in our words: ${proposedTags}`] : []),
  ...(strangeTags.length > 0 ? [`no word of ours: ${strangeTags.join(', ')}`] : []),
]
