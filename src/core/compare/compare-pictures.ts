import { deltaE00 } from '../color/difference'
import { SRGB_TO_LINEAR } from '../color/srgb'
import type { FloatImage } from '../image/image'
import { reduceFloat } from '../image/reduce'
import { mean, percentile } from '../math/statistics'
import type { Vec3 } from '../math/vec3'
import { developForDisplay } from '../render/film/develop'
import { computeFlip } from './flip'

export interface PictureDifference {
  /** FLIP for each pixel, at the smaller picture's size. */
  map: FloatImage
  meanFlip: number
  p95Flip: number
  /** ΔE00 between the mean colours as displayed. */
  deltaEOfMeans: number
}

/**
 * How different two linear renderings look, developed for display alike. The larger one is reduced to the other's size, in linear
 * light.
 * @throws RangeError when their aspects differ by more than a hundredth
 */
export function comparePictures(a: FloatImage, b: FloatImage): PictureDifference {
  const aspectA = a.width / a.height
  const aspectB = b.width / b.height
  if (Math.abs(aspectA / aspectB - 1) > 0.01)
    throw new RangeError(`pictures of aspects ${aspectA.toFixed(3)} and ${aspectB.toFixed(3)} cannot be laid over each other`)
  const width = Math.min(a.width, b.width)
  const height = Math.min(a.height, b.height)
  const toSize = (image: FloatImage) =>
    image.width === width && image.height === height ? image : reduceFloat(image, width, height)
  const [left, right] = [developForDisplay(toSize(a)), developForDisplay(toSize(b))]
  const map = computeFlip(left, right)
  const meanOf = ({ data }: { data: Uint8Array }): Vec3 => {
    const sum: Vec3 = [0, 0, 0]
    for (let i = 0; i < data.length; i++) sum[i % 3] += SRGB_TO_LINEAR[data[i]]
    return [sum[0] / (data.length / 3), sum[1] / (data.length / 3), sum[2] / (data.length / 3)]
  }
  return {
    map,
    meanFlip: mean(map.data),
    p95Flip: percentile(map.data, 0.95),
    deltaEOfMeans: deltaE00(meanOf(left), meanOf(right)),
  }
}
