import { linearToSrgbByte, SRGB_TO_LINEAR } from '../color/srgb'
import { type ByteImage, createFloatImage, type FloatImage } from './image'
import { coverage } from './row-reducer'

/**
 * Area-exact box reduction of a float image to any smaller size. Non-negative, so a bright sun never rings
 * below zero (a Lanczos filter does), and the mean is kept exactly.
 */
export function reduceFloat(src: FloatImage, width: number, height: number): FloatImage {
  const { channels } = src
  const narrow = createFloatImage(width, src.height, channels)
  const spanX = coverage(src.width, width)
  for (let y = 0; y < src.height; y++) {
    for (let x = 0; x < width; x++) {
      const { start, weights } = spanX[x]
      for (let c = 0; c < channels; c++) {
        let sum = 0
        for (let k = 0; k < weights.length; k++) sum += src.data[(y * src.width + start + k) * channels + c] * weights[k]
        narrow.data[(y * width + x) * channels + c] = sum
      }
    }
  }
  const out = createFloatImage(width, height, channels)
  const row = width * channels
  const spanY = coverage(src.height, height)
  for (let y = 0; y < height; y++) {
    const { start, weights } = spanY[y]
    for (let k = 0; k < weights.length; k++) {
      const from = (start + k) * row
      for (let i = 0; i < row; i++) out.data[y * row + i] += narrow.data[from + i] * weights[k]
    }
  }
  return out
}

/** Halves an 8-bit image (odd sizes drop their last row or column). Colour is averaged in linear light. */
export function halveBytes(src: ByteImage, encoding: 'srgb' | 'linear'): ByteImage {
  const width = Math.max(1, src.width >> 1)
  const height = Math.max(1, src.height >> 1)
  const { channels } = src
  const data = new Uint8Array(width * height * channels)
  const stepX = src.width > 1 ? channels : 0
  const stepY = src.height > 1 ? src.width * channels : 0
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const at = (Math.min(y * 2, src.height - 1) * src.width + Math.min(x * 2, src.width - 1)) * channels
      for (let c = 0; c < channels; c++) {
        const a = src.data[at + c]
        const b = src.data[at + c + stepX]
        const d = src.data[at + c + stepY]
        const e = src.data[at + c + stepX + stepY]
        data[(y * width + x) * channels + c] =
          encoding === 'srgb' && c < 3
            ? linearToSrgbByte((SRGB_TO_LINEAR[a] + SRGB_TO_LINEAR[b] + SRGB_TO_LINEAR[d] + SRGB_TO_LINEAR[e]) / 4)
            : (a + b + d + e + 2) >> 2
      }
    }
  }
  return { width, height, channels, data }
}
