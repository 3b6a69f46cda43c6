import type { FloatImage } from '../image/image'
import type { KeyLight } from './key-light'
import { measureSphere, type SphereStatistics } from './sphere-statistics'

export type Setting = 'exterior' | 'interior' | 'studio' | 'unsure'
export type Sky = 'clear' | 'partlyCloudy' | 'overcast' | 'lowSun' | 'twilight' | 'night' | 'none' | 'unsure'

export interface Classification {
  setting: Setting
  /** Lead of the best setting over the next, 0..1. */
  settingConfidence: number
  sky: Sky
  skyConfidence: number
  sunPresent: boolean
  evidence: SphereStatistics
}

type Certain = Exclude<Setting, 'unsure'>

/** One observation and how much it speaks for or against each setting, in natural log odds. */
interface Cue {
  holds: boolean
  for: Partial<Record<Certain, number>>
}

/** Below this lead the class is not said. */
const LEAST_LEAD = 0.3
const LOW_SUN_DEG = 12

/**
 * Setting and sky from ratios over the sphere. Each cue adds its weight; the answer is `unsure` when the best does not lead clearly. The
 * cues were chosen for what they mean (a sky lights, a ceiling reflects) and their limits set between what real captures of both kinds
 * measure, with room on either side.
 * @param map clean equirectangular linear RGB
 */
export function classifyEnvironment(map: FloatImage, key: KeyLight | null): Classification {
  const s = measureSphere(map, key)
  const sun = looksLikeSun(s, key)
  const sums: Record<Certain, number> = { exterior: 0, interior: 0, studio: 0 }
  for (const cue of settingCues(s, key, sun))
    if (cue.holds) for (const [setting, weight] of Object.entries(cue.for)) sums[setting as Certain] += weight
  const ranked = (Object.entries(sums) as [Certain, number][]).sort((a, b) => b[1] - a[1])
  const settingConfidence = Math.tanh((ranked[0][1] - ranked[1][1]) / 2)
  const setting: Setting = settingConfidence < LEAST_LEAD ? 'unsure' : ranked[0][0]
  const sunPresent = setting === 'exterior' && sun
  return { setting, settingConfidence, ...classifySky(setting, s, key, sunPresent), sunPresent, evidence: s }
}

function settingCues(s: SphereStatistics, key: KeyLight | null, sun: boolean): Cue[] {
  const rivals = key?.rivals ?? 0
  return [
    // Blue light from above: no lamp and hardly a ceiling is as blue as a clear sky.
    { holds: s.upperBlueToRed > 1.8 && s.upperToCard > 0.05, for: { exterior: 2 } },
    { holds: s.upperBlueToRed > 1.45 && s.upperToCard > 0.05, for: { exterior: 0.6 } },
    // Lamps make ceilings warmer than white.
    { holds: s.upperBlueToRed < 0.8, for: { interior: 0.9 } },
    // The upper half is the light itself, and much brighter than what it lights.
    { holds: s.upperToLower > 4.2 && s.upperToCard > 0.45, for: { exterior: 2 } },
    { holds: s.upperToLower > 2.2 && s.upperToCard > 0.6, for: { exterior: 0.4 } },
    // Floor and ceiling alike, neither of them blue.
    { holds: s.upperToLower < 2 && s.upperBlueToRed < 1.7, for: { interior: 1, studio: 0.5 } },
    { holds: s.upperBlueToRed < 1.3 && s.upperToLower < 4.2, for: { interior: 0.8, studio: 0.5 } },
    // What is overhead gives little of the light, and no sun gives the rest.
    { holds: s.upperToCard < 0.19 && !sun, for: { interior: 0.7, studio: 0.4 } },
    // Beams, ducts and lamps overhead; branches are as rough, but the gaps between them are sky.
    { holds: s.upperRoughness > 0.1 && s.zenithBlueToRed < 1.4, for: { interior: 0.9 } },
    { holds: s.zenithBlueToRed > 1.45 && s.zenithToCard > 0.35, for: { exterior: 1.4 } },
    { holds: s.zenithBlueToRed > 1.45 && s.zenithToCard > 0.35 && s.upperRoughness > 0.5, for: { exterior: 0.6 } },
    { holds: sun, for: { exterior: 1.6 } },
    // Several lights of like strength.
    { holds: rivals >= 8 && s.zenithBlueToRed < 1.4, for: { interior: 0.4 } },
    // A few lights in the dark.
    { holds: s.darkShare > 0.25, for: { studio: 2.2, interior: 0.3 } },
    { holds: s.darkShare > 0.12 && s.upperToCard < 0.04, for: { studio: 1 } },
    { holds: s.upperToCard < 0.02 && rivals < 8 && (key?.angularDiameterDeg ?? 0) > 4, for: { studio: 1 } },
    { holds: (key?.keyToFill ?? 0) > 8 && (key?.angularDiameterDeg ?? 0) > 10 && s.upperToCard < 0.05, for: { studio: 1 } },
    { holds: s.upperBlueToRed > 1.8 && s.horizonToZenith > 1.5, for: { exterior: 0.5 } },
  ]
}

/** A small disc that stands out of its surround, above the horizon, nearly alone, under something that is not black. */
function looksLikeSun(s: SphereStatistics, key: KeyLight | null): boolean {
  if (!key || key.angularDiameterDeg > 5 || key.elevationDeg < -1 || key.rivals >= 3) return false
  if (s.upperToCard < 0.06 || s.upperRoughness > 0.25) return false
  return s.keyToRing > 12 && s.peakToUpper > 300
}

function classifySky(setting: Setting, s: SphereStatistics, key: KeyLight | null, sunPresent: boolean) {
  const say = (sky: Sky, skyConfidence: number) => ({ sky, skyConfidence })
  if (setting === 'unsure') return say('unsure', 0)
  if (setting !== 'exterior') return say('none', 1)
  const blue = s.upperBlueToRed > 1.5
  if (sunPresent && key) {
    if (key.elevationDeg < LOW_SUN_DEG) return say('lowSun', Math.min(1, 0.5 + (LOW_SUN_DEG - key.elevationDeg) / 16))
    if (s.upperRoughest > 0.1) return say('partlyCloudy', Math.min(1, 0.5 + s.upperRoughest))
    return say('clear', Math.min(1, 1.1 - s.upperRoughest * 5))
  }
  // Small lights low down that outshine the whole sky are lamps; a dark neutral sky over a brighter horizon is a town's or the moon's.
  const lamps = key && key.rivals >= 3 && key.angularDiameterDeg < 7 && key.elevationDeg < 30 && s.peakToUpper > 500
  if (lamps && s.upperRoughness < 0.25) return say('night', 0.8)
  if (!blue && s.horizonToZenith > 1.5 && s.upperRoughness < 0.25) return say('night', 0.5)
  // Without a sun: overcast is neutral and brightest overhead (CIE: zenith three times the horizon).
  if (!blue && s.zenithToCard > 0.75 && s.upperRoughness < 0.15)
    return say('overcast', Math.min(1, 0.5 + (s.zenithToCard - 0.75)))
  // Blue with a redder, brighter horizon and no disc: the sun is below it. What is small and high up is a disc, however little it gives.
  const disc = key && key.angularDiameterDeg < 20 && key.elevationDeg > 15
  if (blue && !disc && s.upperRoughness < 0.15 && s.horizonBlueToRed < s.upperBlueToRed * 0.7)
    return say('twilight', Math.min(1, 1.2 - s.horizonBlueToRed / s.upperBlueToRed))
  return say('unsure', 0.2)
}
