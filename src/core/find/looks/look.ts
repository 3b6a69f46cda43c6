import { linearToOklab } from '../../color/oklab'
import type { Appearance } from '../../material/appearance'
import type { SeenColor } from './color-column'

/** In what two things may be alike. */
export const LOOK_GROUPS = ['color', 'pattern', 'scale', 'relief', 'surface', 'shape', 'size', 'light', 'tone'] as const
export type LookGroup = (typeof LOOK_GROUPS)[number]

/** How much each group counts; 1 where nothing is said. */
export type LookWeights = Readonly<Partial<Record<LookGroup, number>>>

/** What something looks like, as numbers in groups; a group that is not known is left out. */
export interface Look {
  groups: Partial<Record<LookGroup, Float32Array>>
  /** OKLab and share, four numbers a colour. */
  palette: Float32Array
}

/** Places of an aligned spectrum to either side of its middle. */
const SPECTRUM_REACH = 3

const logOr = (value: number | undefined, least: number): number => Math.log2(Math.max(value ?? least, least))

function paletteOf(colors: readonly SeenColor[]): Float32Array {
  const palette = new Float32Array(colors.length * 4)
  colors.forEach(({ color, share }, k) => {
    palette.set([...linearToOklab(...color), share], k * 4)
  })
  return palette
}

/** Mean and spread in OKLab. */
function colorGroup(palette: Float32Array): Float32Array {
  const group = new Float32Array(6)
  let all = 0
  for (let at = 0; at < palette.length; at += 4) {
    for (let c = 0; c < 3; c++) {
      group[c] += palette[at + c] * palette[at + 3]
      group[3 + c] += palette[at + c] ** 2 * palette[at + 3]
    }
    all += palette[at + 3]
  }
  for (let c = 0; c < 3; c++) {
    group[c] /= all
    group[3 + c] = Math.sqrt(Math.max(0, group[3 + c] / all - group[c] ** 2))
  }
  return group
}

/** The middle of a spectrum, in octaves below the width of the picture. */
const middleOf = (octaves: readonly number[]): number => octaves.reduce((sum, energy, k) => sum + energy * (k + 0.5), 0)

/** The spectrum about its middle, whatever the scale, with how much there is of it and which way it runs. */
function patternGroup({ octaves, contrast, periodStrength, coherence }: Appearance): Float32Array {
  const middle = middleOf(octaves)
  const group = new Float32Array(2 * SPECTRUM_REACH + 1 + 3)
  octaves.forEach((energy, k) => {
    // Each octave's energy goes to the two nearest places.
    const place = Math.min(2 * SPECTRUM_REACH, Math.max(0, k + 0.5 - middle + SPECTRUM_REACH))
    const low = Math.floor(place)
    group[low] += energy * (1 - (place - low))
    if (place > low) group[low + 1] += energy * (place - low)
  })
  group.set([0.25 * Math.log2(1 + contrast), 0.7 * periodStrength, coherence], 2 * SPECTRUM_REACH + 1)
  return group
}

/**
 * Of a material, from what its maps were measured to be.
 * @param widthMm real width of its picture, without which nothing is said of scale
 */
export function lookOfMaterial(
  colors: readonly SeenColor[],
  appearance: Appearance | null,
  widthMm: number | undefined,
): Look | null {
  if (colors.length === 0 && !appearance) return null
  const palette = paletteOf(colors)
  const groups: Look['groups'] = {}
  if (colors.length > 0) groups.color = colorGroup(palette)
  if (appearance) {
    groups.pattern = patternGroup(appearance)
    const middle = middleOf(appearance.octaves)
    if (widthMm !== undefined && middle > 0) groups.scale = Float32Array.of(Math.log2(widthMm) - middle)
    groups.relief = Float32Array.of(Math.log2(0.02 + appearance.relief))
    if (appearance.roughness !== null) groups.surface = Float32Array.of(appearance.roughness, appearance.metal)
  }
  return { groups, palette }
}

/**
 * Of a stand-alone map: as a material's, and how its values are spread.
 * @param widthMm real width, without which nothing is said of scale
 */
export function lookOfMap(
  colors: readonly SeenColor[],
  appearance: Appearance | null,
  widthMm: number | undefined,
  { mapMean, mapLow, mapHigh, coverShare }: Figures,
): Look | null {
  const look = lookOfMaterial(colors, appearance, widthMm)
  if (!look || mapMean === undefined) return look
  const { relief: _, surface: __, ...groups } = look.groups
  const tone = Float32Array.of(mapMean, mapLow ?? 0, mapHigh ?? 1, coverShare ?? 1)
  return { ...look, groups: { ...groups, tone } }
}

type Figures = Readonly<Partial<Record<string, number>>>

/** Of a model, from its extents in metres: proportions whatever the size, and the size. */
export function lookOfModel({ widthM, heightM, depthM, parts }: Figures): Look | null {
  if (!widthM || !heightM || !depthM) return null
  const [least, middle, most] = [widthM, heightM, depthM].sort((a, b) => a - b)
  const shape = Float32Array.of(
    logOr(middle / most, 1e-3),
    logOr(least / most, 1e-3),
    logOr(heightM / Math.max(widthM, depthM), 1e-3),
    0.3 * logOr(parts, 1),
  )
  return { groups: { shape, size: Float32Array.of(Math.log2(most)) }, palette: new Float32Array(0) }
}

const MIRED = 1e6

/** Of a panorama: how high the sun, how warm, how much of the light is its, how wide the range. */
export function lookOfSky({ sunElevationDeg, colorTemperatureK, sunShare, dynamicRangeStops, keyToFill }: Figures): Look | null {
  if (dynamicRangeStops === undefined) return null
  const light = Float32Array.of(
    sunElevationDeg === undefined ? -0.5 : sunElevationDeg / 45,
    colorTemperatureK ? MIRED / colorTemperatureK / 60 : 3,
    2 * (sunShare ?? 0),
    dynamicRangeStops / 6,
    0.3 * logOr(keyToFill, 0.1),
  )
  return { groups: { light }, palette: new Float32Array(0) }
}

/** Of a luminaire: how much, how wide, how warm, whether down or up. */
export function lookOfLuminaire({ luminousFluxLm, beamAngleDeg, lampCctK, lightDownShare, peakGammaDeg }: Figures): Look | null {
  if (beamAngleDeg === undefined) return null
  const light = Float32Array.of(
    0.3 * logOr(luminousFluxLm, 1),
    beamAngleDeg / 40,
    lampCctK ? MIRED / lampCctK / 60 : 4,
    2 * (lightDownShare ?? 1),
    (peakGammaDeg ?? 0) / 45,
  )
  return { groups: { light }, palette: new Float32Array(0) }
}

/** Distance between two looks in one group, in its own measure. */
export function groupDistance(a: Float32Array, b: Float32Array): number {
  let sum = 0
  for (let k = 0; k < a.length; k++) sum += (a[k] - b[k]) ** 2
  return Math.sqrt(sum)
}

/**
 * How far the colours of one palette have to be carried to become another's, in OKLab: the nearest are matched first (a greedy bound of
 * the earth mover's distance, Rubner, Tomasi & Guibas 2000). 0 for the same.
 */
export function paletteDistance(a: Float32Array, b: Float32Array): number {
  const [n, m] = [a.length / 4, b.length / 4]
  if (n === 0 || m === 0) return 0
  const pairs: [number, number, number][] = []
  for (let i = 0; i < n; i++)
    for (let j = 0; j < m; j++)
      pairs.push([Math.hypot(a[i * 4] - b[j * 4], a[i * 4 + 1] - b[j * 4 + 1], a[i * 4 + 2] - b[j * 4 + 2]), i, j])
  pairs.sort((p, q) => p[0] - q[0])
  const left = Array.from({ length: n }, (_, i) => a[i * 4 + 3])
  const wanted = Array.from({ length: m }, (_, j) => b[j * 4 + 3])
  let [carried, cost] = [0, 0]
  for (const [distance, i, j] of pairs) {
    const moved = Math.min(left[i], wanted[j])
    left[i] -= moved
    wanted[j] -= moved
    carried += moved
    cost += moved * distance
  }
  return carried > 0 ? cost / carried : 0
}
