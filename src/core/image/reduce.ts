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

const LIGHT_STEPS = 65_535

let tables: { light: Int32Array; code: Uint8Array } | null = null

/** Linear light of each sRGB code in whole steps (256), and the code of each sum of four of them. */
export function lightTables(): { light: Int32Array; code: Uint8Array } {
  tables ??= {
    light: Int32Array.from({ length: 256 }, (_, code) => Math.round(SRGB_TO_LINEAR[code] * LIGHT_STEPS)),
    code: Uint8Array.from({ length: 4 * LIGHT_STEPS + 1 }, (_, sum) => linearToSrgbByte(sum / (4 * LIGHT_STEPS))),
  }
  return tables
}

/** Halves an 8-bit image (odd sizes drop their last row or column). Colour is averaged in linear light. */
export function halveBytes(src: ByteImage, encoding: 'srgb' | 'linear'): ByteImage {
  const width = Math.max(1, src.width >> 1)
  const height = Math.max(1, src.height >> 1)
  const { channels } = src
  const data = new Uint8Array(width * height * channels)
  const stepX = src.width > 1 ? channels : 0
  const stepY = src.height > 1 ? src.width * channels : 0
  const { data: bytes, width: srcWidth } = src
  const inLight = encoding === 'srgb' ? Math.min(3, channels) : 0
  const { light, code } = lightTables()
  let to = 0
  for (let y = 0; y < height; y++) {
    let at = Math.min(y * 2, src.height - 1) * srcWidth * channels
    for (let x = 0; x < width; x++, at += 2 * stepX) {
      for (let c = 0; c < inLight; c++) {
        const upper = light[bytes[at + c]] + light[bytes[at + c + stepX]]
        data[to++] = code[upper + light[bytes[at + c + stepY]] + light[bytes[at + c + stepX + stepY]]]
      }
      for (let c = inLight; c < channels; c++)
        data[to++] = (bytes[at + c] + bytes[at + c + stepX] + bytes[at + c + stepY] + bytes[at + c + stepX + stepY] + 2) >> 2
    }
  }
  return { width, height, channels, data }
}
