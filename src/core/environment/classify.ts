import { luminance } from '../color/srgb'
import type { FloatImage } from '../image/image'
import { computeMeanRadiance } from './irradiance'
import type { KeyLight } from './key-light'
import { rowElevation, rowSolidAngle, toRadians } from './sphere'

export type Setting = 'exterior' | 'interior' | 'studio' | 'unsure'
export type Sky = 'clear' | 'partlyCloudy' | 'overcast' | 'lowSun' | 'twilight' | 'night' | 'none' | 'unsure'

export interface Classification {
  setting: Setting
  settingConfidence: number
  sky: Sky
  skyConfidence: number
  sunPresent: boolean
  evidence: SphereStatistics
}

/** Figures the classification rests on, all ratios, so that a map's absolute level does not matter. */
export interface SphereStatistics {
  /** Mean luminance above +15° over that below −15°, the key left out. */
  upperToLower: number
  /** Share of the sphere darker than a fiftieth of the mean. */
  darkShare: number
  /** Share of the sphere brighter than four times the mean. */
  brightShare: number
  /** Mean |Δ log2 L| between neighbours a degree apart, above +10°, the key left out. */
  upperRoughness: number
  /** Blue over red of the upper hemisphere without the key. */
  upperBlueToRed: number
  /** Blue over red of the band up to 15° above the horizon. */
  horizonBlueToRed: number
  /** Horizon band's luminance over the zenith cap's. */
  horizonToZenith: number
  /** Saturation of the whole: (max − min) / max of the mean colour. */
  saturation: number
}

const WIDE_KEY_DEG = 40

/**
 * Setting and sky from ratios over the sphere: a first, deliberately cautious set of rules. Each rule votes with
 * a weight; the class is `unsure` when the best vote does not lead clearly.
 */
export function classifyEnvironment(map: FloatImage, key: KeyLight | null): Classification {
  const s = measureSphere(map, key)
  const compact = key !== null && key.angularDiameterDeg < 7
  const votes: Record<Exclude<Setting, 'unsure'>, number> = { exterior: 0, interior: 0, studio: 0 }
  const neutral = s.upperBlueToRed > 0.8 && s.upperBlueToRed < 1.2
  // A sky: blue overhead, or a cloud cover that is brightest overhead (CIE standard overcast); smooth, and brighter than the ground.
  if (s.upperBlueToRed > 1.25) votes.exterior += 1.2
  if (s.horizonToZenith < 0.85 && s.upperRoughness < 0.06 && s.darkShare < 0.05 && s.upperToLower > 1.6) votes.exterior += 1.2
  if (compact && key.elevationDeg > -2 && key.keyToFill > 0.4 && s.upperRoughness < 0.3) votes.exterior += 0.8
  if (s.upperToLower > 1.6) votes.exterior += 0.3
  if (s.upperRoughness < 0.12) votes.exterior += 0.3
  // A room: a neutral ceiling darker than its walls, light from several large shapes, nothing black.
  if (neutral) votes.interior += 0.4
  if (neutral && s.horizonToZenith > 1.5) votes.interior += 0.8
  if (s.brightShare > 0.01 && s.brightShare < 0.2 && s.darkShare < 0.12) votes.interior += 0.6
  if (key && key.angularDiameterDeg > 4 && key.angularDiameterDeg < 40 && key.rivals > 0) votes.interior += 0.4
  // A studio: large neutral sources on a surround close to black.
  if (key && key.angularDiameterDeg > 10 && key.keyToFill > 8) votes.studio += 1
  if (s.darkShare > 0.12) votes.studio += 0.6
  if (s.saturation < 0.12) votes.studio += 0.4
  const ranked = (Object.entries(votes) as [Exclude<Setting, 'unsure'>, number][]).sort((a, b) => b[1] - a[1])
  const total = ranked.reduce((sum, [, v]) => sum + v, 0)
  const settingConfidence = total > 0 ? (ranked[0][1] - ranked[1][1]) / Math.max(ranked[0][1], 1) : 0
  const setting: Setting = settingConfidence < 0.15 ? 'unsure' : ranked[0][0]
  const sunPresent = setting === 'exterior' && compact && key.elevationDeg > -1 && key.keyToFill > 0.25 && key.rivals < 3
  return { setting, settingConfidence, ...classifySky(setting, s, key, sunPresent), sunPresent, evidence: s }
}

function classifySky(setting: Setting, s: SphereStatistics, key: KeyLight | null, sunPresent: boolean) {
  const say = (sky: Sky, skyConfidence: number) => ({ sky, skyConfidence })
  if (setting === 'unsure') return say('unsure', 0)
  if (setting !== 'exterior') return say('none', 1)
  if (sunPresent && key) {
    if (key.elevationDeg < 12) return say('lowSun', Math.min(1, (14 - key.elevationDeg) / 8))
    return s.upperRoughness < 0.06 ? say('clear', 0.8) : say('partlyCloudy', Math.min(1, s.upperRoughness * 6))
  }
  // Many small lights of like strength are lamps.
  if (key && key.rivals >= 3 && key.angularDiameterDeg < 7) return say('night', 0.7)
  if (s.upperToLower < 1.1 && key && key.angularDiameterDeg < 7) return say('night', 0.5)
  // Without a sun: overcast is neutral and brightest overhead (CIE: zenith three times the horizon).
  if (s.horizonToZenith < 1.1 && s.upperBlueToRed < 1.35) return say('overcast', Math.min(1, 1.4 - s.horizonToZenith))
  if (s.horizonToZenith > 1.8 && s.upperBlueToRed > s.horizonBlueToRed * 1.15)
    return say('twilight', Math.min(1, s.horizonToZenith / 4))
  return say('unsure', 0.2)
}

function measureSphere(map: FloatImage, key: KeyLight | null): SphereStatistics {
  const { width, height, channels, data } = map
  // A source as wide as a sky is the sky, and leaving it out would leave nothing to measure.
  const mask = key && key.angularDiameterDeg < WIDE_KEY_DEG ? key.mask : undefined
  const band = (low: number, high: number) => computeMeanRadiance(map, toRadians(low), toRadians(high), mask)
  const y = (c: readonly number[]) => luminance(c[0], c[1], c[2])
  const whole = computeMeanRadiance(map, -Math.PI, Math.PI)
  const mean = y(whole)
  let dark = 0
  let bright = 0
  let rough = 0
  let roughWeight = 0
  const step = Math.max(1, Math.round(width / 360))
  const at = (i: number, j: number) => {
    const p = (j * width + (i % width)) * channels
    return luminance(data[p], data[p + 1], data[p + 2])
  }
  for (let j = 0; j < height; j++) {
    const dOmega = rowSolidAngle(j, width, height)
    const upper = rowElevation(j, height) > toRadians(10)
    for (let i = 0; i < width; i++) {
      const l = at(i, j)
      if (l < mean / 50) dark += dOmega
      if (l > mean * 4) bright += dOmega
      const right = j * width + ((i + step) % width)
      const below = Math.min(j + step, height - 1) * width + i
      if (!upper || mask?.[j * width + i] || mask?.[right] || mask?.[below]) continue
      const floor = mean * 1e-4
      const here = Math.log2(l + floor)
      rough +=
        (Math.abs(here - Math.log2(at(i + step, j) + floor)) +
          Math.abs(here - Math.log2(at(i, Math.min(j + step, height - 1)) + floor))) *
        dOmega
      roughWeight += 2 * dOmega
    }
  }
  const upper = band(15, 90)
  const lower = band(-90, -15)
  const horizon = band(0, 15)
  const zenith = band(60, 90)
  const ratio = (a: number, b: number) => (b > 0 ? a / b : a > 0 ? 1e6 : 1)
  const peak = Math.max(...whole)
  return {
    upperToLower: ratio(y(upper), y(lower)),
    darkShare: dark / (4 * Math.PI),
    brightShare: bright / (4 * Math.PI),
    upperRoughness: roughWeight > 0 ? rough / roughWeight : 0,
    upperBlueToRed: ratio(upper[2], upper[0]),
    horizonBlueToRed: ratio(horizon[2], horizon[0]),
    horizonToZenith: ratio(y(horizon), y(zenith)),
    saturation: peak > 0 ? (peak - Math.min(...whole)) / peak : 0,
  }
}
