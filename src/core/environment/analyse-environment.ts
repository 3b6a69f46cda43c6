import { luminance } from '../color/srgb'
import { computeColorTemperature } from '../color/temperature'
import type { Finding } from '../findings/finding'
import type { FloatImage } from '../image/image'
import { reduceFloat } from '../image/reduce'
import { LogHistogram } from '../math/statistics'
import { ENVIRONMENT_CHECKS } from './check-environment'
import { classifyEnvironment, type Setting, type Sky } from './classify'
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
}

/** Spatial statistics need no more than this; the integrals are taken at full size. */
const WORKING_WIDTH = 1024

/** Analyses an equirectangular linear RGB map of any size. Bad pixels count as black and are reported. */
export function analyseEnvironment(source: FloatImage): EnvironmentAnalysis {
  const { map, badPixelCount } = withoutBadPixels(source)
  const small =
    map.width > WORKING_WIDTH
      ? reduceFloat(map, WORKING_WIDTH, Math.max(1, Math.round((map.height * WORKING_WIDTH) / map.width)))
      : map
  const histogram = new LogHistogram()
  let peak = 0
  for (let j = 0, p = 0; j < map.height; j++) {
    const dOmega = rowSolidAngle(j, map.width, map.height)
    for (let i = 0; i < map.width; i++, p += map.channels) {
      const y = luminance(map.data[p], map.data[p + 1], map.data[p + 2])
      histogram.add(y, dOmega)
      if (y > peak) peak = y
    }
  }
  const irradiance = computeHorizontalIrradiance(map)
  const horizontalIrradiance = luminance(...irradiance)
  const key = findKeyLight(small)
  const classification = classifyEnvironment(small, key)
  const whole = computeMeanRadiance(small, -Math.PI, Math.PI)
  const temperature = computeColorTemperature(...whole)
  const gain = horizontalIrradiance > 0 ? Math.PI / horizontalIrradiance : 1
  const { sunPresent } = classification
  const low = histogram.percentile(0.01)
  const median = histogram.percentile(0.5)
  const facts: EnvironmentFacts = {
    widthPx: source.width,
    heightPx: source.height,
    horizontalIrradiance,
    whiteCardGain: gain,
    exposureEv: Math.log2(gain),
    dynamicRangeStops: low > 0 ? Math.log2(histogram.percentile(0.9999) / low) : 0,
    peakToMedianStops: median > 0 && peak > 0 ? Math.log2(peak / median) : 0,
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
    setting: classification.setting,
    settingConfidence: classification.settingConfidence,
    sky: classification.sky,
    skyConfidence: classification.skyConfidence,
  }
  const { setting, sky } = classification
  const subject = { map: source, setting, sky, medianLuminance: median, meanIrradiance: horizontalIrradiance, badPixelCount }
  return { facts, findings: ENVIRONMENT_CHECKS.flatMap(check => check(subject)) }
}

/** Negative, NaN and infinite values become 0. The source is returned as it is when it has none. */
function withoutBadPixels(source: FloatImage): { map: FloatImage; badPixelCount: number } {
  const { data, channels } = source
  let badPixelCount = 0
  for (let i = 0; i < data.length; i += channels)
    if (!(data[i] >= 0 && data[i + 1] >= 0 && data[i + 2] >= 0 && data[i] + data[i + 1] + data[i + 2] < 1e30)) badPixelCount++
  if (badPixelCount === 0) return { map: source, badPixelCount }
  const clean = Float32Array.from(data, v => (v >= 0 && v < 1e30 ? v : 0))
  return { map: { ...source, data: clean }, badPixelCount }
}
