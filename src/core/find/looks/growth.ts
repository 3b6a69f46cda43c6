/** How a plant grows, in the words of nurseries, by the proportions of its outline. */
export const GROWTHS = ['columnar', 'upright', 'rounded', 'spreading', 'ground cover'] as const
export type Growth = (typeof GROWTHS)[number]

const LOW_M = 0.3

/**
 * @param widthM the wider of its two extents on the ground, in metres
 * @param heightM in metres
 * Null where an extent is not known.
 */
export function growthOf(widthM: number | undefined, heightM: number | undefined): Growth | null {
  if (!widthM || !heightM || !(widthM > 0 && heightM > 0)) return null
  const slender = widthM / heightM
  if (heightM < LOW_M && slender > 1) return 'ground cover'
  if (slender < 0.35) return 'columnar'
  if (slender < 0.75) return 'upright'
  return slender < 1.25 ? 'rounded' : 'spreading'
}
