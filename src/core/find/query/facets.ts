/** What tells items apart by words; each may have several values an item. */
export const TERM_FACETS = [
  'kind',
  'category',
  'state',
  'library',
  'maker',
  'tag',
  'use',
  'licence',
  'has',
  'setting',
  'sky',
  'mapUse',
  'mapTiles',
  'mapChannels',
  'botanicalName',
  'growth',
  'finding',
  'author',
] as const
export type TermFacet = (typeof TERM_FACETS)[number]

/** What tells items apart by a figure, in the unit that its name ends in. */
export const FIGURE_FACETS = [
  'widthMm',
  'heightMm',
  'depthMm',
  'triangles',
  'bytes',
  'mapPx',
  'lrv',
  'roughness',
  'sunElevationDeg',
  'colorTemperatureK',
  'fluxLm',
  'beamDeg',
  'addedDay',
  'changedDay',
] as const
export type FigureFacet = (typeof FIGURE_FACETS)[number]

/** How a figure is drawn as a histogram: bins of equal width, or of equal ratio. */
export interface Binning {
  scale: 'linear' | 'ratio'
  low: number
  high: number
  bins: number
}

/** Days since 1970 have no histogram: what matters is how long ago. */
export const BINNINGS: Readonly<Record<FigureFacet, Binning | null>> = {
  widthMm: { scale: 'ratio', low: 1, high: 1e5, bins: 50 },
  heightMm: { scale: 'ratio', low: 1, high: 1e5, bins: 50 },
  depthMm: { scale: 'ratio', low: 1, high: 1e5, bins: 50 },
  triangles: { scale: 'ratio', low: 1, high: 1e8, bins: 48 },
  bytes: { scale: 'ratio', low: 1e3, high: 1e11, bins: 48 },
  mapPx: { scale: 'ratio', low: 32, high: 32768, bins: 20 },
  lrv: { scale: 'linear', low: 0, high: 100, bins: 25 },
  roughness: { scale: 'linear', low: 0, high: 1, bins: 25 },
  sunElevationDeg: { scale: 'linear', low: -20, high: 90, bins: 22 },
  colorTemperatureK: { scale: 'ratio', low: 1000, high: 40000, bins: 40 },
  fluxLm: { scale: 'ratio', low: 1, high: 1e6, bins: 36 },
  beamDeg: { scale: 'linear', low: 0, high: 180, bins: 36 },
  addedDay: null,
  changedDay: null,
}

/** In which bin a figure falls; what is beyond the ends is in the last one there. */
export function binOf({ scale, low, high, bins }: Binning, value: number): number {
  const share = scale === 'linear' ? (value - low) / (high - low) : Math.log(Math.max(value, low) / low) / Math.log(high / low)
  return Math.min(bins - 1, Math.max(0, Math.floor(share * bins)))
}

/** Where a bin begins; of the one past the last, where that ends. */
export const edgeOf = ({ scale, low, high, bins }: Binning, bin: number): number =>
  scale === 'linear' ? low + ((high - low) * bin) / bins : low * (high / low) ** (bin / bins)
