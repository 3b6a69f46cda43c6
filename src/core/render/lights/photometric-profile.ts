import { planckianUv } from '../../color/temperature'
import { toRadians } from '../../math/angles'
import { type CandelaWeb, findPeak, intensityAt } from '../../photometry/candela-web'

/** Share of a lamp's strongest intensity towards a direction of length 1, 0..1. */
export type PhotometricProfile = (x: number, y: number, z: number) => number

const GAMMA_STEPS_PER_DEG = 2
const PROFILE_GAMMAS = 180 * GAMMA_STEPS_PER_DEG + 1
const C_STEP_DEG = 5
const PROFILE_PLANES = 360 / C_STEP_DEG

/**
 * A candela web as a lamp's profile: shares of its peak, straight down at −Y, read from a table of half a degree by five. Where it throws
 * its light to one side, that side is turned to −Z, where the wall is; else C0 is.
 */
export function toPhotometricProfile(web: CandelaWeb): PhotometricProfile {
  const peak = findPeak(web)
  const isOneSided = web.symmetry === 'bilateral' || web.symmetry === 'none'
  const turnDeg = isOneSided && peak.gammaDeg > 0 && peak.gammaDeg < 180 ? peak.cDeg : 0
  const table = new Float32Array(PROFILE_PLANES * PROFILE_GAMMAS)
  for (let c = 0; c < PROFILE_PLANES; c++)
    for (let g = 0; g < PROFILE_GAMMAS; g++)
      table[c * PROFILE_GAMMAS + g] =
        peak.candela > 0 ? intensityAt(web, c * C_STEP_DEG + turnDeg, g / GAMMA_STEPS_PER_DEG) / peak.candela : 0
  return (x, y, z) => {
    const gamma = (Math.acos(Math.max(-1, Math.min(1, -y))) * 180 * GAMMA_STEPS_PER_DEG) / Math.PI
    const plane = ((Math.atan2(x, -z) * 180) / Math.PI + 360) / C_STEP_DEG
    const g = Math.min(PROFILE_GAMMAS - 2, Math.floor(gamma))
    const c = Math.floor(plane)
    const [fg, fc] = [gamma - g, plane - c]
    const near = (c % PROFILE_PLANES) * PROFILE_GAMMAS + g
    const far = ((c + 1) % PROFILE_PLANES) * PROFILE_GAMMAS + g
    return (table[near] * (1 - fg) + table[near + 1] * fg) * (1 - fc) + (table[far] * (1 - fg) + table[far + 1] * fg) * fc
  }
}

/** A profile by the angles of its table, plane after plane. */
export function tabulateProfile(profile: PhotometricProfile): Float32Array {
  const table = new Float32Array(PROFILE_PLANES * PROFILE_GAMMAS)
  for (let c = 0; c < PROFILE_PLANES; c++)
    for (let g = 0; g < PROFILE_GAMMAS; g++) {
      const [gamma, plane] = [toRadians(g / GAMMA_STEPS_PER_DEG), toRadians(c * C_STEP_DEG)]
      table[c * PROFILE_GAMMAS + g] = profile(
        Math.sin(gamma) * Math.sin(plane),
        -Math.cos(gamma),
        -Math.sin(gamma) * Math.cos(plane),
      )
    }
  return table
}

/** A flat surface that a lamp lights: unit direction from the lamp square onto it, and how far away it is in metres. */
export interface LitPlane {
  towards: readonly [number, number, number]
  distance: number
}

/** Directions looked at, evenly over the sphere. */
const DIRECTIONS = 4096

/** What the brightest spot of some planes reads on a white card under a lamp whose peak would read 1 at a metre. */
export function brightestReading(profile: PhotometricProfile, planes: readonly LitPlane[]): number {
  let brightest = 0
  for (let i = 0; i < DIRECTIONS; i++) {
    // Fibonacci's spiral (González 2010).
    const y = 1 - (2 * i + 1) / DIRECTIONS
    const turn = i * Math.PI * (3 - Math.sqrt(5))
    const across = Math.sqrt(1 - y * y)
    const [x, z] = [across * Math.cos(turn), across * Math.sin(turn)]
    const share = profile(x, y, z)
    for (const { towards, distance } of planes) {
      const cosine = x * towards[0] + y * towards[1] + z * towards[2]
      if (cosine > 0) brightest = Math.max(brightest, (share * cosine ** 3) / (distance * distance))
    }
  }
  return brightest
}

/** A camera's white among lamps: warm ones stay warm in the picture, cool ones cool. */
const WHITE_KELVIN = 3600
/** As far as eyes get used to a lamp, so that pictures of it are not all amber or all blue. */
const COLOR_LEFT = 0.6

/**
 * Linear Rec.709 of a lamp's light as a camera sees it that is balanced for a white, part of the cast taken off, luminance 1; white where the
 * temperature is not known.
 */
export function lampColor(cctK: number | null, whiteK = WHITE_KELVIN): [number, number, number] {
  if (cctK === null) return [1, 1, 1]
  const [lamp, white] = [planckianRgb(cctK), planckianRgb(whiteK)]
  const balanced = lamp.map((v, c) => (Math.max(0, v) / white[c]) ** COLOR_LEFT)
  const y = 0.2126 * balanced[0] + 0.7152 * balanced[1] + 0.0722 * balanced[2]
  return [balanced[0] / y, balanced[1] / y, balanced[2] / y]
}

/** Linear Rec.709 of the Planckian locus at luminance 1; may lie outside of the gamut. */
function planckianRgb(kelvin: number): [number, number, number] {
  const [u, v] = planckianUv(Math.min(15_000, Math.max(1667, kelvin)))
  // CIE 1960 uv to xy, and xyY to XYZ at Y = 1.
  const x = (3 * u) / (2 * u - 8 * v + 4)
  const y = (2 * v) / (2 * u - 8 * v + 4)
  const [X, Z] = [x / y, (1 - x - y) / y]
  return [
    3.2409699 * X - 1.5373832 - 0.4986108 * Z,
    -0.9692436 * X + 1.8759675 + 0.0415551 * Z,
    0.0556301 * X - 0.203977 + 1.0569715 * Z,
  ]
}
