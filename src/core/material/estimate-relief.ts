import { fullScale, type Image } from '../image/image'

export interface EstimatedRelief {
  /** Height of white over black, metres. */
  reliefM: number
  /** Of the slopes of both maps, −1..1: how far they tell of the same surface. */
  correlation: number
}

/** Below it the two maps tell of different surfaces. */
export const LEAST_RELIEF_CORRELATION = 0.5

/**
 * How high a height map is, by the slopes of the normal map that lies over it: the factor between them with the least squared error.
 * Both repeat, and are of one size; a normal is (−∂h/∂x, −∂h/∂y, 1), normalised, with x to the right and y up the picture.
 * @param height one channel or more, the first is read
 * @param normal three channels, as an image holds a normal
 * @param tileSizeM what both measure, metres
 * @returns null where either is flat
 * @throws RangeError when they are not of one size
 */
export function estimateRelief(
  height: Image,
  normal: Image,
  handedness: 'openGl' | 'directX',
  tileSizeM: readonly [number, number],
): EstimatedRelief | null {
  const { width: w, height: h } = height
  if (normal.width !== w || normal.height !== h)
    throw new RangeError(`normal: ${normal.width} x ${normal.height} for heights of ${w} x ${h}`)
  const [scaleH, scaleN] = [1 / fullScale(height.data), 2 / fullScale(normal.data)]
  const at = (x: number, y: number) => height.data[(((y + h) % h) * w + ((x + w) % w)) * height.channels] * scaleH
  const green = handedness === 'openGl' ? 1 : -1
  let slopes = 0
  let bends = 0
  let both = 0
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const n = (y * w + x) * normal.channels
      const nz = Math.max(0.05, normal.data[n + 2] * scaleN - 1)
      const bx = -(normal.data[n] * scaleN - 1) / nz
      const by = (-green * (normal.data[n + 1] * scaleN - 1)) / nz
      // A step of one texel on either side; rows run down.
      const sx = ((at(x + 1, y) - at(x - 1, y)) * w) / (2 * tileSizeM[0])
      const sy = ((at(x, y - 1) - at(x, y + 1)) * h) / (2 * tileSizeM[1])
      slopes += sx * sx + sy * sy
      bends += bx * bx + by * by
      both += sx * bx + sy * by
    }
  if (!(slopes > 0) || !(bends > 0)) return null
  return { reliefM: both / slopes, correlation: both / Math.sqrt(slopes * bends) }
}

/**
 * Height of white over black as the normal map of the same surface has it, metres; null where the two do not tell of one surface, as those of
 * different sizes never do. Parameters as of {@link estimateRelief}.
 */
export function measureRelief(
  height: Image,
  normal: Image,
  handedness: 'openGl' | 'directX',
  tileSizeM: readonly [number, number],
): number | null {
  if (height.width !== normal.width || height.height !== normal.height) return null
  const found = estimateRelief(height, normal, handedness, tileSizeM)
  return found && found.correlation >= LEAST_RELIEF_CORRELATION ? found.reliefM : null
}
