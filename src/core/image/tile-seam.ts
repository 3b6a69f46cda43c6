import { percentile } from '../math/statistics'
import { fullScale, type Image } from './image'

export type Axis = 'x' | 'y'

/** What happens where a picture's last column (or row) meets its first, as a share of full scale. */
export interface Seam {
  /** Mean step across the wrap edge. */
  wrapStep: number
  /** 99th percentile of the mean steps inside the picture. */
  interiorStep: number
  /** Whether the wrap edge is seen: it is not at home among the steps inside. */
  isSeen: boolean
}

/** A joint between tiles or boards is about as wide, as a share of the picture: its other side is no further away. */
const JOINT_SHARE = 0.015

/**
 * The mean step across the wrap edge as against the steps inside the picture. One that wraps is at home among them; one that does not stands
 * far above their 99th percentile. Where tiles or bricks are laid, the steps at their joints are as large as any; but a joint has two sides,
 * and a step that stands alone, more than any inside does, is a seam as well.
 */
export function findSeam(image: Image, axis: Axis): Seam {
  const { steps, wrapStep } = measureSteps(image, axis)
  const interiorStep = percentile(steps, 0.99)
  return { wrapStep, interiorStep, isSeen: wrapStep > interiorStep * 1.6 + 0.004 || standsAlone(steps, wrapStep) }
}

/** @param steps interior ones in order; the wrap edge follows the last and precedes the first */
function standsAlone(steps: readonly number[], wrapStep: number): boolean {
  const ring = [...steps, wrapStep]
  const count = ring.length
  const reach = Math.max(2, Math.round(count * JOINT_SHARE))
  if (count < reach * 4 || wrapStep < percentile(steps, 0.5) * 2 + 0.01) return false
  /** A step, the more the less its neighbourhood has any. */
  const loneliness = (i: number): number => {
    let most = 1e-4
    for (let k = 1; k <= reach; k++) most = Math.max(most, ring[(i + k) % count], ring[(i - k + count) % count])
    return ring[i] * Math.min(5, ring[i] / most)
  }
  let inside = 0
  for (let i = 0; i < count - 1; i++) inside = Math.max(inside, loneliness(i))
  return loneliness(count - 1) > inside * 1.5
}

/** Lines across an axis that are looked at: more of them do not change a mean step. */
const SEAM_LINES = 256

/** The mean step from each column (or row) to the next, and from the last to the first, as a share of full scale. */
function measureSteps(image: Image, axis: Axis) {
  const { width, height, channels, data } = image
  const row = width * channels
  const isColor = channels >= 3
  const [along, across] = axis === 'x' ? [width, height] : [height, width]
  const stride = Math.ceil(across / SEAM_LINES)
  const lines = Math.ceil(across / stride)
  const sums = new Float64Array(along)
  const stepBetween = (a: number, b: number): number => {
    const step = Math.abs(data[a] - data[b])
    return isColor ? step + Math.abs(data[a + 1] - data[b + 1]) + Math.abs(data[a + 2] - data[b + 2]) : step
  }
  // Along the rows in either case, as the pixels lie.
  if (axis === 'x')
    for (let y = 0; y < height; y += stride) {
      const first = y * row
      const last = first + row - channels
      for (let x = 0, a = first; a < last; x++, a += channels) sums[x] += stepBetween(a, a + channels)
      sums[along - 1] += stepBetween(last, first)
    }
  else
    for (let y = 0; y < height; y++) {
      const below = y === height - 1 ? 0 : (y + 1) * row
      let sum = 0
      for (let a = y * row, b = below; a < (y + 1) * row; a += stride * channels, b += stride * channels) sum += stepBetween(a, b)
      sums[y] = sum
    }
  const scale = 1 / (fullScale(data) * lines * (isColor ? 3 : 1))
  const means = Array.from(sums, sum => sum * scale)
  return { wrapStep: means[along - 1], steps: means.slice(0, -1) }
}
