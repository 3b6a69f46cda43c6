import type { MapUse } from '#core/map/map-use'
import type { ItemKind } from '#core/standard/categories'
import { MAP_USE_WORDS } from './map-use-words'
import { formatLengthMm, formatMetres, formatNumber, spellWord } from './units'

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
  'luminousFluxLm',
  'beamAngleDeg',
  'mapUse',
]

/** The one figure that matters for an item of its kind, as the label strip shows it; empty while it is not known. */
export function keyFigure(kind: ItemKind, facts: KnownFacts): string {
  switch (kind) {
    case 'material':
      return typeof facts.widthMm === 'number' ? `${formatLengthMm(facts.widthMm)} wide` : ''
    case 'model': {
      const { widthM, heightM } = facts
      if (typeof widthM !== 'number' || typeof heightM !== 'number') return ''
      const [width, height] = [formatMetres(widthM), formatMetres(heightM)]
      // The unit is said once where both have the same.
      return width.slice(-2) === height.slice(-2) && !width.endsWith('mm')
        ? `${width.slice(0, -2)} × ${height}`
        : `${width} × ${height}`
    }
    case 'environment': {
      const { sky, setting, sunPresent, sunElevationDeg } = facts
      if (typeof setting !== 'string') return ''
      const word = typeof sky === 'string' && sky !== 'none' && sky !== 'unsure' ? sky : setting
      const sun = sunPresent === true && typeof sunElevationDeg === 'number' ? ` ${formatNumber(sunElevationDeg, 0)}°` : ''
      return `${spellWord(word)}${sun}`
    }
    case 'light': {
      const { luminousFluxLm, beamAngleDeg } = facts
      if (typeof luminousFluxLm !== 'number' || typeof beamAngleDeg !== 'number') return ''
      return `${formatNumber(luminousFluxLm, 0)} lm · ${formatNumber(beamAngleDeg, 0)}°`
    }
    case 'map': {
      const { mapUse, widthMm } = facts
      if (typeof mapUse !== 'string') return ''
      return typeof widthMm === 'number' ? `${formatLengthMm(widthMm)} wide` : (MAP_USE_WORDS[mapUse as MapUse] ?? mapUse)
    }
    default:
      return kind satisfies never
  }
}
