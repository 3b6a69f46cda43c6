import { sobolX, sobolY } from '../../math/sobol'
import type { Camera } from '../film/camera'
import { sampleFilter } from '../film/pixel-filter'

const offset = new Float64Array(2)

/**
 * The ray of a sample of pixel (px, py), by the film's filter and through the camera's lens.
 * @param pair seed of the next pair of dimensions
 * @param ray gets its origin in metres and its unit direction, six numbers
 */
export function aim(
  { position, forward, right, up, aspect, tanHalfHeight, lens }: Camera,
  width: number,
  height: number,
  px: number,
  py: number,
  sample: number,
  pair: () => number,
  ray: Float64Array,
): void {
  let s = pair()
  sampleFilter(sobolX(sample, s), sobolY(sample, s), offset)
  const sx = (((px + 0.5 + offset[0]) / width) * 2 - 1) * aspect * tanHalfHeight
  const sy = (1 - ((py + 0.5 + offset[1]) / height) * 2) * tanHalfHeight
  for (let k = 0; k < 3; k++) {
    ray[k] = position[k]
    ray[3 + k] = forward[k] + right[k] * sx + up[k] * sy
  }
  if (lens) {
    // From a place on the lens to where the ray through its middle meets the plane of what is sharp.
    s = pair()
    const away = lens.radiusM * Math.sqrt(sobolX(sample, s))
    const turn = 2 * Math.PI * sobolY(sample, s)
    const across = away * Math.cos(turn)
    const upwards = away * Math.sin(turn)
    for (let k = 0; k < 3; k++) {
      const aside = right[k] * across + up[k] * upwards
      ray[k] += aside
      ray[3 + k] -= aside / lens.sharpM
    }
  }
  const length = Math.sqrt(ray[3] * ray[3] + ray[4] * ray[4] + ray[5] * ray[5])
  for (let k = 3; k < 6; k++) ray[k] /= length
}
