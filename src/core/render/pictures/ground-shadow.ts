import { luminance } from '../../color/srgb'
import { hashCombine } from '../../math/random'
import { sobolX, sobolY } from '../../math/sobol'
import { boxMean } from '../film/filter-halves'
import type { EnvironmentLight } from '../lights/environment-light'
import { SimdCaster } from '../scene/simd-caster'

/** A square of level ground, in metres: its middle, height and side. */
export interface Ground {
  x: number
  y: number
  z: number
  side: number
}

const SAMPLES = 64
/** Rays begin so far above the ground, in shares of its side, that what stands on it does not stand in its own way. */
const CLEARANCE = 1e-4

/**
 * How much of the light from above reaches the ground between what stands on it: for views that cannot trace rays themselves.
 * @param positions 9 floats for each triangle, metres
 * @returns shares 0..1, `sizePx` to a side, x along a row and z down the rows; 1 where nothing is in the way
 */
export function measureGroundShadow(
  positions: Float32Array,
  light: EnvironmentLight,
  ground: Ground,
  sizePx: number,
): Float32Array {
  const caster = SimdCaster.build({ positions })
  const { x, y, z, side } = ground
  const radiance = new Float64Array(3)
  const shares = new Float32Array(sizePx * sizePx)
  for (let p = 0; p < shares.length; p++) {
    const px = x + ((p % sizePx) + 0.5 - sizePx / 2) * (side / sizePx)
    const pz = z + (Math.floor(p / sizePx) + 0.5 - sizePx / 2) * (side / sizePx)
    const seed = hashCombine(1, p)
    let [whole, seen] = [0, 0]
    for (let k = 0; k < SAMPLES; k++) {
      light.sample(sobolX(k, seed), sobolY(k, seed))
      const { x: dx, y: dy, z: dz, pdf } = light
      if (!(dy > 0 && pdf > 0)) continue
      light.radiance(dx, dy, dz, radiance)
      const arriving = (luminance(radiance[0], radiance[1], radiance[2]) * dy) / pdf
      whole += arriving
      if (!caster.isOccluded(px, y + side * CLEARANCE, pz, dx, dy, dz, 1e30)) seen += arriving
    }
    shares[p] = whole > 0 ? seen / whole : 1
  }
  return boxMean(shares, sizePx, sizePx, 1)
}
