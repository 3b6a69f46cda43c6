import type { FigureFacet } from './facets'
import type { FigureRange } from './find-query'

export interface SaidFigure extends FigureRange {
  facet: FigureFacet
  /** The bound as it was typed, and what was typed besides. */
  said: string
  rest: string
}

const UNDER = ['under', 'below', 'less than', 'up to', 'at most', 'max', 'unter', 'bis', 'höchstens', 'moins de', '<', '≤']
const OVER = ['over', 'above', 'more than', 'at least', 'from', 'min', 'über', 'ab', 'mindestens', 'plus de', '>', '≥']

/** What a unit measures, and how much of the facet's own unit it is. */
const UNITS: Readonly<Record<string, { facet: FigureFacet; factor: number }>> = {
  mm: { facet: 'widthMm', factor: 1 },
  cm: { facet: 'widthMm', factor: 10 },
  m: { facet: 'widthMm', factor: 1000 },
  kb: { facet: 'bytes', factor: 1e3 },
  mb: { facet: 'bytes', factor: 1e6 },
  gb: { facet: 'bytes', factor: 1e9 },
  px: { facet: 'mapPx', factor: 1 },
  k: { facet: 'colorTemperatureK', factor: 1 },
  lm: { facet: 'fluxLm', factor: 1 },
  lrv: { facet: 'lrv', factor: 1 },
  triangles: { facet: 'triangles', factor: 1 },
  tris: { facet: 'triangles', factor: 1 },
  dreiecke: { facet: 'triangles', factor: 1 },
}

/** Words after a length that say along which side it is. */
const SIDES: Readonly<Record<string, FigureFacet>> = {
  wide: 'widthMm',
  breit: 'widthMm',
  high: 'heightMm',
  tall: 'heightMm',
  hoch: 'heightMm',
  deep: 'depthMm',
  tief: 'depthMm',
}

const alternatives = (words: readonly string[]): string => words.join('|')
const PATTERN = new RegExp(
  `(?:^|\\s)(?:(${alternatives(UNDER)})|(${alternatives(OVER)}))\\s*(\\d+(?:[.,]\\d+)?)\\s*(k\\s+)?(${Object.keys(UNITS).join('|')})\\b(?:\\s+(${Object.keys(SIDES).join('|')})\\b)?`,
  'iu',
)

/** A bound in what somebody typed, such as "sofa under 2.2 m" or "über 50k triangles"; null where there is none. */
export function readFigure(typed: string): SaidFigure | null {
  const said = PATTERN.exec(typed)
  if (!said) return null
  const [whole, under, , number, thousands, unit, side] = said
  const { facet, factor } = UNITS[unit.toLowerCase()]
  const value = Number(number.replace(',', '.')) * factor * (thousands ? 1000 : 1)
  return {
    facet: side && facet === 'widthMm' ? SIDES[side.toLowerCase()] : facet,
    low: under ? null : value,
    high: under ? value : null,
    said: whole.trim(),
    rest: typed.replace(whole, ' ').replace(/\s+/g, ' ').trim(),
  }
}
