import { toRadians } from '../../math/angles'
import type { Vec3 } from '../../math/vec3'
import type { PhotometricProfile } from '../lights/photometric-profile'

/**
 * A small glowing ball. Its light is looked for from every place that is lit, so that a lamp in a shade washes a wall without noise;
 * how bright it is in a direction is its photometric profile.
 */
export interface Lamp {
  position: Vec3
  /** Metres. Shadows are as soft as this ball is large. */
  radius: number
  /** Metres. Nearer than this its light does not grow, and is not passed on: a photometric profile is measured, and holds, from afar. */
  nearest: number
  /** Scene radiance times square metres: what a white card facing it at one metre shows, times pi. Linear RGB. */
  intensity: Vec3
  /** Share of the intensity towards a direction of length 1, 0..1; even without one. */
  photometricProfile: PhotometricProfile | null
}

/** A square beam: even to its half angle, dark outside, with an edge 4 degrees wide. */
export function createBeam(axis: Vec3, halfAngleDeg: number): PhotometricProfile {
  const inner = Math.cos(toRadians(halfAngleDeg - 2))
  const outer = Math.cos(toRadians(halfAngleDeg + 2))
  return (x, y, z) => Math.min(1, Math.max(0, (x * axis[0] + y * axis[1] + z * axis[2] - outer) / (inner - outer)))
}
