import type { Difference } from '#core/find/looks/look-words'
import type { WallView } from '#shared/contracts/find.contract'
import { formatNumber } from '#shared/units'

const WORDS: Readonly<Record<Difference, string>> = {
  lighter: 'lighter',
  darker: 'darker',
  warmer: 'warmer',
  cooler: 'cooler',
  moreColorful: 'more colourful',
  greyer: 'greyer',
  otherHue: 'another hue',
  coarser: 'coarser',
  finer: 'finer',
  stronger: 'stronger pattern',
  calmer: 'calmer',
  moreDirected: 'runs one way',
  lessDirected: 'runs no way',
  deeper: 'deeper relief',
  flatter: 'flatter',
  rougher: 'rougher',
  smoother: 'smoother',
  metallic: 'metallic',
  notMetallic: 'not metallic',
  taller: 'taller',
  lower: 'lower',
  larger: 'larger',
  smaller: 'smaller',
  higherSun: 'higher sun',
  lowerSun: 'lower sun',
  warmerLight: 'warmer light',
  coolerLight: 'cooler light',
  widerBeam: 'wider beam',
  narrowerBeam: 'narrower beam',
}

/** What is alike and what differs, short enough for a chip's label. */
export function likenessWord(likeness: NonNullable<WallView['likeness']>[number] | undefined): string {
  if (!likeness) return ''
  const { deltaE, differences } = likeness
  const words = differences.map(d => WORDS[d as Difference] ?? d)
  const color = deltaE === null ? [] : [`ΔE ${formatNumber(deltaE, deltaE < 10 ? 1 : 0)}`]
  if (likeness.share !== undefined) return [...color, `${formatNumber(100 * likeness.share, 0)} %`].join(' · ')
  return [...color, words.length === 0 ? 'alike' : words.join(', ')].join(' · ')
}
