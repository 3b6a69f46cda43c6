import { createFinding } from '../../findings/finding'
import { meanOfChannel } from '../../image/image'
import { type MaterialCheck, mapOf } from '../material-subject'

/** Roughness bands by the start of the house category, from measured examples of the trade's usual finishes. */
const EXPECTED_ROUGHNESS: [RegExp, number, number][] = [
  [/^surfaces\.(timber|masonry|plaster)/, 0.3, 1],
  [/^surfaces\.stone/, 0.05, 1],
  [/^surfaces\.textile/, 0.5, 1],
  [/^surfaces\.(glass|water|enamel)/, 0, 0.35],
]

export const checkGlossAsRoughness: MaterialCheck = subject => {
  const map = mapOf(subject, 'roughness')
  const band = EXPECTED_ROUGHNESS.find(([pattern]) => subject.category && pattern.test(subject.category))
  if (!map || !band) return []
  const found = meanOfChannel(map.image, 0)
  const outside = found < band[1] - 0.05 || found > band[2] + 0.05
  const invertedFits = 1 - found >= band[1] && 1 - found <= band[2]
  return outside && invertedFits
    ? [createFinding('glossAsRoughness', { mean: found, low: band[1], high: band[2] }, map.path)]
    : []
}
