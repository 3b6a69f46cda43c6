import type { FigureFacet, TermFacet } from '#core/find/query/facets'
import type { FindingCode } from '#core/findings/finding'
import type { MapUse } from '#core/map/map-use'
import type { ItemKind } from '#core/standard/categories'
import type { ItemState } from '#shared/contracts/chip.contract'
import type { SetFacet } from '#shared/contracts/find.contract'
import { findingName } from '#shared/finding-words'
import { MAP_USE_WORDS } from '#shared/map-use-words'
import { formatBytes, formatLengthMm, formatNumber, spellWord } from '#shared/units'
import { KIND_WORDS, STATE_WORDS } from '../../../words/states'

export type ValueFacet = TermFacet | SetFacet

/** Facets in the order in which they stand, with what they are called. Categories have a place of their own. */
/** Dots stand in a block of their own. */
export const VALUE_FACETS: readonly [Exclude<ValueFacet, 'category'>, string][] = [
  ['kind', 'Kind'],
  ['state', 'State'],
  ['library', 'Library'],
  ['tag', 'Tag'],
  ['use', 'Room or use'],
  ['maker', 'Maker'],
  ['botanicalName', 'Botanical name'],
  ['growth', 'Growth'],
  ['setting', 'Setting'],
  ['sky', 'Sky'],
  ['mapUse', 'Map for use as'],
  ['mapTiles', 'Map tiles'],
  ['mapChannels', 'Channels of a map'],
  ['has', 'Comes with'],
  ['project', 'Used in'],
  ['mine', 'Mine'],
  ['desk', 'On my desk'],
  ['licence', 'Licence'],
  ['finding', 'Finding'],
  ['author', 'Last changed by'],
]

const HAS_WORDS: Record<string, string> = {
  levels: 'levels of detail',
  standIn: 'a stand-in',
  tiers: 'several sizes',
  final: 'a final picture',
  ownPicture: 'a picture of its own',
}

const DESK_WORDS: Record<string, string> = {
  here: 'as it is approved',
  older: 'an older version',
  damaged: 'with files missing or altered',
  none: 'not there',
}

/** What a value of a facet is called on the screen. */
export function valueWord(facet: ValueFacet, value: string, title = value): string {
  switch (facet) {
    case 'kind':
      return KIND_WORDS[value as ItemKind]?.many ?? value
    case 'state':
      return STATE_WORDS[value as ItemState] ?? value
    case 'has':
      return HAS_WORDS[value] ?? value
    case 'finding':
      return findingName(value as FindingCode)
    case 'mine':
      return value === 'lookedAt' ? 'looked at last' : 'used in projects'
    case 'desk':
      return DESK_WORDS[value] ?? value
    case 'dot':
      return value === 'none' ? 'without a dot' : title
    case 'mapUse':
      return MAP_USE_WORDS[value as MapUse] ?? value
    case 'setting':
    case 'sky':
      return spellWord(value)
    default:
      return title
  }
}

interface FigureWord {
  title: string
  format: (value: number) => string
  /** A typed figure in the facet's unit; null where it is none. */
  parse: (text: string) => number | null
  example: string
}

const NUMBER = /^\s*(-?\d+(?:[.,]\d+)?)\s*(\S*)\s*$/

/** Reads a number with one of these units, or with the first of them where none is typed. */
const withUnits =
  (units: Readonly<Record<string, number>>) =>
  (text: string): number | null => {
    const said = NUMBER.exec(text.replaceAll('\u202f', ''))
    if (!said) return null
    const [, number, unit] = said
    const factor = unit === '' ? Object.values(units)[0] : units[unit.toLowerCase()]
    return factor === undefined ? null : Number(number.replace(',', '.')) * factor
  }

const readLength = withUnits({ mm: 1, cm: 10, m: 1000 })
const plain = (unit: string, digits = 0) => ({
  format: (value: number) => `${formatNumber(value, digits)}${unit === '°' ? '' : '\u00a0'}${unit}`.trim(),
  parse: withUnits({ [unit.toLowerCase()]: 1, k: 1000 }),
})

const length = (title: string): FigureWord => ({ title, format: formatLengthMm, parse: readLength, example: '2.2 m' })

export const FIGURE_WORDS: Readonly<Record<Exclude<FigureFacet, 'addedDay' | 'changedDay'>, FigureWord>> = {
  widthMm: length('Real width'),
  heightMm: length('Height'),
  depthMm: length('Depth'),
  triangles: { title: 'Triangles', ...plain('', 0), example: '50k' },
  bytes: { title: 'Weight of files', format: formatBytes, parse: withUnits({ mb: 1e6, kb: 1e3, gb: 1e9 }), example: '20 MB' },
  mapPx: { title: 'Resolution', ...plain('px'), example: '2048' },
  lrv: { title: 'Light reflectance', ...plain('LRV'), example: '60' },
  roughness: { title: 'Roughness', ...plain('', 2), example: '0.4' },
  sunElevationDeg: { title: 'Sun elevation', ...plain('°'), example: '30' },
  colorTemperatureK: {
    title: 'Colour temperature',
    format: v => `${formatNumber(v, 0)}\u00a0K`,
    parse: withUnits({ k: 1 }),
    example: '5600',
  },
  fluxLm: { title: 'Luminous flux', ...plain('lm'), example: '800' },
  beamDeg: { title: 'Beam angle', ...plain('°'), example: '40' },
}
export type DrawnFigure = keyof typeof FIGURE_WORDS
export const DRAWN_FIGURES = Object.keys(FIGURE_WORDS) as DrawnFigure[]

/** "under 2.2 m", "over 1 m", "1 m to 2.2 m". */
export function rangeWord(facet: DrawnFigure, { low, high }: { low: number | null; high: number | null }): string {
  const { format } = FIGURE_WORDS[facet]
  if (low === null) return high === null ? '' : `up to ${format(high)}`
  return high === null ? `from ${format(low)}` : `${format(low)} to ${format(high)}`
}
