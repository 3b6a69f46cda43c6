import type { ItemKind } from '#core/standard/categories'
import { formatLengthMm, formatNumber, spellWord } from './units'

type KnownFacts = Record<string, number | string | boolean | undefined>

/** Names of the facts that `keyFigure` reads. */
export const KEY_FACTS = [
  'widthMm',
  'widthM',
  'heightM',
  'depthM',
  'setting',
  'sky',
  'sunElevationDeg',
  'sunPresent',
  'dynamicRangeStops',
]

const metres = (v: number): string => (v < 1 ? formatNumber(v, 2) : formatNumber(v, v < 10 ? 2 : 1))

/** The one figure that matters for an item of its kind, as the label strip shows it; empty while it is not known. */
export function keyFigure(kind: ItemKind, facts: KnownFacts): string {
  switch (kind) {
    case 'material':
      return typeof facts.widthMm === 'number' ? `${formatLengthMm(facts.widthMm)} wide` : ''
    case 'model': {
      const { widthM, heightM } = facts
      return typeof widthM === 'number' && typeof heightM === 'number' ? `${metres(widthM)} × ${metres(heightM)} m` : ''
    }
    case 'environment': {
      const { sky, setting, sunPresent, sunElevationDeg } = facts
      if (typeof setting !== 'string') return ''
      const word = typeof sky === 'string' && sky !== 'none' && sky !== 'unsure' ? sky : setting
      const sun = sunPresent === true && typeof sunElevationDeg === 'number' ? ` ${formatNumber(sunElevationDeg, 0)}°` : ''
      return `${spellWord(word)}${sun}`
    }
    default:
      return kind satisfies never
  }
}
