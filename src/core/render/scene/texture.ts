import { SRGB_TO_LINEAR } from '../../color/srgb'
import { assertImage, type ByteImage } from '../../image/image'
import { halveBytes } from '../../image/reduce'

/** An 8-bit image with its mip levels, read with bilinear filtering at the level a footprint asks for. */
export interface MipTexture {
  image: ByteImage
  /** Each half as large as the one before, down to one pixel, the picture itself first; made when first asked for. */
  readonly levels: readonly ByteImage[]
  encoding: 'srgb' | 'linear'
  /** Beyond its edges it repeats, or its edges are drawn out. */
  repeats: boolean
  /** log2 of the picture's longer side, rounded down. */
  maxLevel: number
}

export function createMipTexture(image: ByteImage, encoding: 'srgb' | 'linear', repeats = true): MipTexture {
  assertImage(image, 'texture')
  let levels: ByteImage[] | null = null
  return {
    image,
    encoding,
    repeats,
    maxLevel: Math.floor(Math.log2(Math.max(image.width, image.height))),
    get levels() {
      levels ??= listLevels(image, encoding)
      return levels
    },
  }
}

function listLevels(image: ByteImage, encoding: MipTexture['encoding']): ByteImage[] {
  const levels = [image]
  for (let last = image; Math.max(last.width, last.height) > 1; levels.push(last)) last = halveBytes(last, encoding)
  return levels
}

const LINEAR = Float32Array.from({ length: 256 }, (_, i) => i / 255)

/**
 * Reads RGBA into `dst` (linear; alpha 1 where the image has none; grey repeats). v runs down the image's rows.
 * @param level 0 is full size; fractions round to the nearest level
 */
export function readTexture(texture: MipTexture, u: number, v: number, level: number, dst: Float64Array): void {
  const index = level <= 0 ? 0 : level >= texture.maxLevel ? texture.maxLevel : (level + 0.5) | 0
  const { width, height, channels, data } = texture.levels[index]
  const { repeats } = texture
  const x = (repeats ? u - Math.floor(u) : u < 0 ? 0 : Math.min(u, 1)) * width - 0.5
  const y = (repeats ? v - Math.floor(v) : v < 0 ? 0 : Math.min(v, 1)) * height - 0.5
  const xf = Math.floor(x)
  const yf = Math.floor(y)
  const fx = x - xf
  const fy = y - yf
  const x0 = xf >= 0 ? xf : repeats ? width - 1 : 0
  const x1 = xf + 1 < width ? xf + 1 : repeats ? 0 : width - 1
  const y0 = yf >= 0 ? yf : repeats ? height - 1 : 0
  const y1 = yf + 1 < height ? yf + 1 : repeats ? 0 : height - 1
  const a = (y0 * width + x0) * channels
  const b = (y0 * width + x1) * channels
  const c = (y1 * width + x0) * channels
  const d = (y1 * width + x1) * channels
  const wa = (1 - fx) * (1 - fy)
  const wb = fx * (1 - fy)
  const wc = (1 - fx) * fy
  const wd = fx * fy
  const table = texture.encoding === 'srgb' ? SRGB_TO_LINEAR : LINEAR
  const colors = channels >= 3 ? 3 : 1
  for (let k = 0; k < colors; k++)
    dst[k] = table[data[a + k]] * wa + table[data[b + k]] * wb + table[data[c + k]] * wc + table[data[d + k]] * wd
  if (colors === 1) dst[1] = dst[2] = dst[0]
  if (channels === 4 || channels === 2) {
    const k = channels - 1
    dst[3] = LINEAR[data[a + k]] * wa + LINEAR[data[b + k]] * wb + LINEAR[data[c + k]] * wc + LINEAR[data[d + k]] * wd
  } else dst[3] = 1
}
