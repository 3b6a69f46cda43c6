import { luminance } from '../color/srgb'
import { computeColorTemperature } from '../color/temperature'
import type { Finding } from '../findings/finding'
import { createFloatImage, type FloatImage } from '../image/image'
import { type PictureRows, rowsOfImage } from '../image/picture-rows'
import { RowReducer } from '../image/row-reducer'
import { ENVIRONMENT_CHECKS } from './checks/environment-checks'
import { classifyEnvironment, type Setting, type Sky } from './classify'
import { BadPixelGauge, TOO_BRIGHT } from './gauges/bad-pixel-gauge'
import { LevelGauge } from './gauges/level-gauge'
import { LightGauge } from './gauges/light-gauge'
import { measureRing, type Plateau, PlateauGauge } from './gauges/plateau-gauge'
import type { MapRow, RowGauge } from './gauges/row-gauge'
import { SeamGauge } from './gauges/seam-gauge'
import { computeHorizontalIrradiance, computeMeanRadiance } from './irradiance'
import { findKeyLight } from './key-light'
import { rowSolidAngle } from './sphere'

export interface EnvironmentFacts {
  widthPx: number
  heightPx: number
  /** Luminance of the irradiance on a horizontal card, in the map's own units. */
  horizontalIrradiance: number
  /** Factor at which a white horizontal card reads 1: π / Y(E_h). */
  whiteCardGain: number
  /** log2 of the white-card gain. */
  exposureEv: number
  /** log2(P99.99 / P1) of luminance by solid angle. */
  dynamicRangeStops: number
  /** Where a part of the picture was cut off to zero: the range is larger. */
  dynamicRangeAtLeast?: true
  /** log2(max / median) of luminance. */
  peakToMedianStops: number
  sunPresent: boolean
  sunAzimuthDeg?: number
  sunElevationDeg?: number
  sunDiameterDeg?: number
  /** Share of the horizontal irradiance that comes from the sun, 0..1. */
  sunShare?: number
  keyAzimuthDeg?: number
  keyElevationDeg?: number
  keyToFill?: number
  shadows: 'hard' | 'soft' | 'none'
  colorTemperatureK?: number
  colorDuv: number
  setting: Setting
  settingConfidence: number
  sky: Sky
  skyConfidence: number
}

export interface EnvironmentAnalysis {
  facts: EnvironmentFacts
  findings: Finding[]
  /** The clean map at no more than 2048 pixels across, and where in it bad pixels were (some of them, if there were thousands). */
  overview: FloatImage
  badPlaces: { x: number; y: number }[]
  /** Smaller copies of the clean map, largest first; empty unless asked for. */
  tiers: EnvironmentTier[]
}

export interface EnvironmentTier {
  image: FloatImage
  /** Luminance of the irradiance on a horizontal card; within 0.5 % of the whole map's. */
  horizontalIrradiance: number
}

/** Widths that an environment is kept in besides its own. */
export const TIER_WIDTHS = [8192, 4096, 2048, 1024]
const OVERVIEW_WIDTH = 2048
/** Spatial statistics need no more than this; the integrals are taken at full size. */
const WORKING_WIDTH = 1024
const WIDEST_KEY_DEG = 60
/** Of the sphere's solid angle, what counts as its darkest part. */
const DARKEST_SHARE = 0.01

/** Analyses an equirectangular linear RGB map of any size. Bad pixels count as black and are reported. */
export const analyseEnvironment = (map: FloatImage): EnvironmentAnalysis => analyseEnvironmentRows(rowsOfImage(map))

/**
 * The same of a map that is read row by row: what is in memory is a row, the gauges, and the reduced copies.
 * @param withTiers keep the smaller copies: about a third of the source's pixels as floats
 */
export function analyseEnvironmentRows(source: PictureRows, { withTiers = false } = {}): EnvironmentAnalysis {
  const { width, height } = source
  const light = new LightGauge(height)
  const bad = new BadPixelGauge()
  const levels = new LevelGauge()
  const seam = new SeamGauge(width)
  const plateau = new PlateauGauge(width, height)
  const copies = new Copies(width, height, withTiers)
  passRows(source, [light, bad, levels, seam, plateau, copies])

  const small = copies.at(WORKING_WIDTH)
  const horizontalIrradiance = luminance(...light.irradiance)
  const key = findKeyLight(small)
  const { setting, settingConfidence, sky, skyConfidence, sunPresent } = classifyEnvironment(small, key)
  const whole = computeMeanRadiance(small, -Math.PI, Math.PI)
  const temperature = computeColorTemperature(...whole)
  const gain = horizontalIrradiance > 0 ? Math.PI / horizontalIrradiance : 1
  // What was cut off to zero says nothing of how dark it is: the range goes down to what is above that, and is at least so large.
  const { emptyShare } = light.histogram
  const isLowerBound = emptyShare > DARKEST_SHARE
  const low = light.histogram.percentile(isLowerBound ? emptyShare + (1 - emptyShare) * DARKEST_SHARE : DARKEST_SHARE)
  const median = light.histogram.percentile(0.5)
  const facts: EnvironmentFacts = {
    widthPx: width,
    heightPx: height,
    horizontalIrradiance,
    whiteCardGain: gain,
    exposureEv: Math.log2(gain),
    dynamicRangeStops: low > 0 ? Math.log2(light.histogram.percentile(0.9999) / low) : 0,
    ...(isLowerBound ? { dynamicRangeAtLeast: true } : {}),
    peakToMedianStops: median > 0 && light.peak > 0 ? Math.log2(light.peak / median) : 0,
    sunPresent,
    ...(sunPresent && key
      ? {
          sunAzimuthDeg: key.azimuthDeg,
          sunElevationDeg: key.elevationDeg,
          sunDiameterDeg: key.angularDiameterDeg,
          sunShare: key.horizontalShare,
        }
      : {}),
    ...(key ? { keyAzimuthDeg: key.azimuthDeg, keyElevationDeg: key.elevationDeg, keyToFill: Math.min(key.keyToFill, 1e6) } : {}),
    shadows: !key || key.keyToFill < 0.25 ? 'none' : key.angularDiameterDeg < 4 ? 'hard' : 'soft',
    ...(temperature.kelvin === null ? {} : { colorTemperatureK: temperature.kelvin }),
    colorDuv: temperature.duv,
    setting,
    settingConfidence,
    sky,
    skyConfidence,
  }
  const subject = {
    width,
    height,
    setting,
    sky,
    medianLuminance: median,
    meanLuminance: luminance(...whole),
    horizontalIrradiance,
    // A cover of cloud is brightest somewhere, but its light has no direction.
    keyAzimuthDeg: key && key.angularDiameterDeg < WIDEST_KEY_DEG ? key.azimuthDeg : null,
    shadows: facts.shadows,
    negativePixels: bad.negative,
    notFinitePixels: bad.notFinite,
    negativeFlux: bad.negativeFlux,
    levels: levels.levels,
    lowest: levels.low,
    highest: levels.high,
    wrapStops: seam.wrapStops,
    interiorStops: seam.interiorStops,
    plateau: measurePlateau(plateau, small),
  }
  const overview = copies.at(OVERVIEW_WIDTH)
  const findings = ENVIRONMENT_CHECKS.flatMap(check => check(subject))
  // Where the brightest light was cut off nobody can tell by it what sky this is; a cover of cloud has none that could be.
  if (sky !== 'none' && sky !== 'overcast' && findings.some(f => f.code === 'sunClipped' || f.code === 'fewLevels'))
    Object.assign(facts, { sky: 'unsure', skyConfidence: 0 } satisfies Partial<EnvironmentFacts>)
  return {
    facts,
    findings,
    overview,
    badPlaces: bad.places.map(({ x, y }) => ({
      x: Math.floor((x * overview.width) / width),
      y: Math.floor((y * overview.height) / height),
    })),
    tiers: withTiers ? copies.tiers() : [],
  }
}

function passRows(source: PictureRows, gauges: readonly RowGauge[]): void {
  const { width, height } = source
  const cleaned = new Float32Array(width * 3)
  const light = new Float32Array(width)
  const row: MapRow = { y: 0, solidAngle: 0, raw: cleaned, rgb: cleaned, light, peak: 0 }
  source.forEachRow((raw, y) => {
    row.y = y
    row.solidAngle = rowSolidAngle(y, width, height)
    row.raw = raw
    row.rgb = raw
    row.peak = fillLight(raw, light)
    if (row.peak < 0) {
      for (let i = 0; i < raw.length; i++) cleaned[i] = raw[i] >= 0 && raw[i] < TOO_BRIGHT ? raw[i] : 0
      row.peak = fillLight(cleaned, light)
      row.rgb = cleaned
    }
    for (const gauge of gauges) gauge.add(row)
  })
}

/** Luminance of each pixel. Returns the highest, or −1 where some pixel is what light cannot be. */
function fillLight(rgb: Float32Array, dstLight: Float32Array): number {
  let isClean = true
  let peak = 0
  for (let x = 0, i = 0; x < dstLight.length; x++, i += 3) {
    const r = rgb[i]
    const g = rgb[i + 1]
    const b = rgb[i + 2]
    if (!(r >= 0 && g >= 0 && b >= 0 && r + g + b < TOO_BRIGHT)) isClean = false
    const y = luminance(r, g, b)
    dstLight[x] = y
    if (y > peak) peak = y
  }
  return isClean ? peak : -1
}

/** Reduced copies, each made of the next larger one as its rows come. A map that is small already is its own copy. */
class Copies implements RowGauge {
  private readonly kept = new Map<number, FloatImage>()
  private readonly first: RowReducer | null
  private readonly whole: FloatImage | null

  constructor(
    private readonly width: number,
    height: number,
    private readonly withTiers: boolean,
  ) {
    const widths = TIER_WIDTHS.filter(w => w < width)
    const sizes = widths.map(w => ({ w, h: Math.max(1, Math.round((height * w) / width)) }))
    // From the smallest to the largest, so that each has where to pass its rows on.
    let next: RowReducer | null = null
    for (let k = sizes.length - 1; k >= 0; k--) {
      const { w, h } = sizes[k]
      const from = k === 0 ? { w: width, h: height } : sizes[k - 1]
      const image = withTiers || w <= OVERVIEW_WIDTH ? createFloatImage(w, h, 3) : null
      if (image) this.kept.set(w, image)
      const smaller: RowReducer | null = next
      next = new RowReducer(from.w, from.h, w, h, (row, y) => {
        image?.data.set(row, y * w * 3)
        smaller?.add(row)
      })
    }
    this.first = next
    this.whole = width <= OVERVIEW_WIDTH ? createFloatImage(width, height, 3) : null
  }

  add({ y, rgb }: MapRow): void {
    this.first?.add(rgb)
    this.whole?.data.set(rgb, y * this.width * 3)
  }

  /** The copy of that width, or the whole where it is no wider. */
  at(width: number): FloatImage {
    return this.width <= width ? this.whole! : this.kept.get(width)!
  }

  tiers(): EnvironmentTier[] {
    return TIER_WIDTHS.flatMap(w => {
      const image = this.withTiers ? this.kept.get(w) : undefined
      return image ? [{ image, horizontalIrradiance: luminance(...computeHorizontalIrradiance(image)) }] : []
    })
  }
}

function measurePlateau(gauge: PlateauGauge, small: FloatImage): Plateau | null {
  const spot = gauge.measure()
  if (!spot) return null
  const { middle, radiusRad, ...plateau } = spot
  const light = new Float32Array(small.width * small.height)
  for (let p = 0; p < light.length; p++) light[p] = luminance(small.data[p * 3], small.data[p * 3 + 1], small.data[p * 3 + 2])
  const ring = measureRing(light, small.width, small.height, middle, radiusRad)
  return { ...plateau, surround: ring > 0 ? ring / plateau.luminance : 1 }
}

/** The overview with NaN where pixels were bad. */
export function markBadPixels({ overview, badPlaces }: Pick<EnvironmentAnalysis, 'overview' | 'badPlaces'>): FloatImage {
  const data = overview.data.slice()
  for (const { x, y } of badPlaces) {
    const at = (y * overview.width + x) * 3
    data.fill(Number.NaN, at, at + 3)
  }
  return { ...overview, data }
}
