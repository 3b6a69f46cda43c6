import type { Finding } from '../../findings/finding'
import type { Setting, Sky } from '../classify'
import type { Plateau } from '../gauges/plateau-gauge'

/** What was measured of a map, for the checks to judge. */
export interface EnvironmentSubject {
  width: number
  height: number
  setting: Setting
  sky: Sky
  medianLuminance: number
  /** Over the solid angle. */
  meanLuminance: number
  /** Luminance of the irradiance on a horizontal card. */
  horizontalIrradiance: number
  /** Null where there is no key light. */
  keyAzimuthDeg: number | null
  shadows: 'hard' | 'soft' | 'none'
  negativePixels: number
  notFinitePixels: number
  /** Luminance times solid angle of what is below zero. */
  negativeFlux: number
  /** Different values of green, counted up to 257, the lowest above 0 and the highest. */
  levels: number
  lowest: number
  highest: number
  /** Mean step across the left and right edges, and what 95 of 100 steps inside stay below, in stops. */
  wrapStops: number
  interiorStops: number
  plateau: Plateau | null
}

export type EnvironmentCheck = (subject: EnvironmentSubject) => Finding[]
