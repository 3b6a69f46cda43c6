import type { BatchItem } from '#shared/contracts/intake.contract'
import { factWord, formatFact, formatNumber } from '#shared/units'

/** What was measured of a row, in the width of a column. */
export function measuredWords(item: BatchItem): string {
  if (item.state === 'measuring') return 'measuring…'
  const { facts, givenFacts } = item
  const parts = [
    (item.kind === 'material' || item.kind === 'map') && typeof facts.widthPx === 'number' && facts.widthPx > 0
      ? `${facts.widthPx} × ${facts.heightPx} px`
      : '',
    item.kind !== 'material' ? item.figure : '',
    typeof givenFacts.specifiedColor === 'string' && typeof facts.colorDeltaE00 === 'number'
      ? `${givenFacts.specifiedColor}, ΔE00 ${facts.colorDeltaE00.toFixed(1)}`
      : '',
    typeof facts.triangles === 'number' ? `${formatNumber(facts.triangles, 0)} triangles` : '',
    item.kind === 'environment' && typeof facts.dynamicRangeStops === 'number'
      ? `${facts.dynamicRangeAtLeast ? 'at least ' : ''}${facts.dynamicRangeStops.toFixed(1)} stops`
      : '',
  ]
  return parts.filter(Boolean).join(', ')
}

/** What a vote goes by: a word as it is, measured facts by their names and with their units. */
export function voteWhat({ from, what }: BatchItem['votes'][number]): string {
  if (from !== 'measured') return what
  return what
    .split(', ')
    .map(said => {
      const [name, value] = [said.slice(0, said.indexOf(' ')), said.slice(said.indexOf(' ') + 1)]
      return `${factWord(name)} ${formatFact(name, value !== '' && Number.isFinite(Number(value)) ? Number(value) : value)}`
    })
    .join(', ')
}
