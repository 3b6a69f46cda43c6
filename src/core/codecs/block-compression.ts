import { FileError } from '../findings/failure'
import type { ByteImage } from '../image/image'
import { decodeBc7Block } from './bc7'

/**
 * Blocks of 4 x 4 texels: bc1 colour with one bit of alpha, bc2 and bc3 colour and alpha, bc4 one channel, bc5 two, bc7 colour and alpha.
 * Source: Khronos Data Format Specification 1.3, chapters 18 (S3TC), 19 (RGTC) and 20 (BPTC).
 */
export type BlockFormat = 'bc1' | 'bc2' | 'bc3' | 'bc4' | 'bc5' | 'bc7'

const BLOCK_BYTES: Record<BlockFormat, number> = { bc1: 8, bc2: 16, bc3: 16, bc4: 8, bc5: 16, bc7: 16 }

/**
 * A block-compressed picture as bytes: RGBA, or RGB where nothing is transparent; of bc4 one channel; of bc5 RGB, the third what makes a
 * normal of the two.
 * @throws FileError `truncated` when blocks are missing
 */
export function decodeBlocks(format: BlockFormat, data: Uint8Array, width: number, height: number): ByteImage {
  const [across, down] = [Math.ceil(width / 4), Math.ceil(height / 4)]
  const size = BLOCK_BYTES[format]
  if (data.length < across * down * size)
    throw new FileError('truncated', 'The picture breaks off before its last row; it was probably cut off when it was copied.')
  const rgba = new Uint8Array(width * height * 4)
  const block = new Uint8Array(64)
  for (let by = 0; by < down; by++)
    for (let bx = 0; bx < across; bx++) {
      decodeBlock(format, data, (by * across + bx) * size, block)
      for (let y = 0; y < 4 && by * 4 + y < height; y++)
        for (let x = 0; x < 4 && bx * 4 + x < width; x++) {
          const to = ((by * 4 + y) * width + bx * 4 + x) * 4
          const from = (y * 4 + x) * 4
          for (let c = 0; c < 4; c++) rgba[to + c] = block[from + c]
        }
    }
  return keepChannels({ width, height, channels: 4, data: rgba }, format === 'bc4' ? 1 : isOpaque(rgba) ? 3 : 4)
}

/** Whether the alpha of RGBA says nothing. */
export function isOpaque(rgba: Uint8Array): boolean {
  for (let i = 3; i < rgba.length; i += 4) if (rgba[i] !== 255) return false
  return true
}

/** The first channels of a picture. */
export function keepChannels(image: ByteImage, count: number): ByteImage {
  const { width, height, channels, data } = image
  if (count === channels) return image
  const out = new Uint8Array(width * height * count)
  for (let i = 0; i < width * height; i++) for (let c = 0; c < count; c++) out[i * count + c] = data[i * channels + c]
  return { width, height, channels: count, data: out }
}

function decodeBlock(format: BlockFormat, data: Uint8Array, at: number, dst: Uint8Array): void {
  switch (format) {
    case 'bc1':
      decodeColors(data, at, dst, true)
      break
    case 'bc2':
      decodeColors(data, at + 8, dst, false)
      for (let i = 0; i < 16; i++) dst[i * 4 + 3] = ((data[at + (i >> 1)] >> ((i & 1) * 4)) & 15) * 17
      break
    case 'bc3':
      decodeColors(data, at + 8, dst, false)
      decodeChannel(data, at, dst, 3)
      break
    case 'bc4':
      dst.fill(255)
      decodeChannel(data, at, dst, 0)
      break
    case 'bc5':
      dst.fill(255)
      decodeChannel(data, at, dst, 0)
      decodeChannel(data, at + 8, dst, 1)
      for (let i = 0; i < 64; i += 4) {
        const [x, y] = [dst[i] / 127.5 - 1, dst[i + 1] / 127.5 - 1]
        dst[i + 2] = Math.round((Math.sqrt(Math.max(0, 1 - x * x - y * y)) + 1) * 127.5)
      }
      break
    case 'bc7':
      decodeBc7Block(data, at, dst)
      break
    default:
      format satisfies never
  }
}

const palette = new Uint8Array(16)

/** Two colours of 5, 6 and 5 bits and two between them, or one between them and transparent black. */
function decodeColors(data: Uint8Array, at: number, dst: Uint8Array, mayCutOut: boolean): void {
  const [first, second] = [data[at] | (data[at + 1] << 8), data[at + 2] | (data[at + 3] << 8)]
  for (const [i, color] of [first, second].entries()) {
    palette[i * 4] = Math.round(((color >> 11) * 255) / 31)
    palette[i * 4 + 1] = Math.round((((color >> 5) & 63) * 255) / 63)
    palette[i * 4 + 2] = Math.round(((color & 31) * 255) / 31)
    palette[i * 4 + 3] = 255
  }
  const isWhole = !mayCutOut || first > second
  for (let c = 0; c < 3; c++) {
    const [a, b] = [palette[c], palette[4 + c]]
    palette[8 + c] = isWhole ? Math.round((2 * a + b) / 3) : Math.round((a + b) / 2)
    palette[12 + c] = isWhole ? Math.round((a + 2 * b) / 3) : 0
  }
  palette[11] = 255
  palette[15] = isWhole ? 255 : 0
  for (let i = 0; i < 16; i++) {
    const which = (data[at + 4 + (i >> 2)] >> ((i & 3) * 2)) & 3
    for (let c = 0; c < 4; c++) dst[i * 4 + c] = palette[which * 4 + c]
  }
}

const values = new Uint8Array(8)

/** Two values and six between them, or four and the ends of the range. */
function decodeChannel(data: Uint8Array, at: number, dst: Uint8Array, channel: number): void {
  const [first, second] = [data[at], data[at + 1]]
  values[0] = first
  values[1] = second
  const steps = first > second ? 7 : 5
  for (let i = 1; i < steps; i++) values[i + 1] = Math.round(((steps - i) * first + i * second) / steps)
  if (steps === 5) {
    values[6] = 0
    values[7] = 255
  }
  for (let i = 0; i < 16; i++) {
    const bit = i * 3
    const low = data[at + 2 + (bit >> 3)] | ((data[at + 3 + (bit >> 3)] ?? 0) << 8)
    dst[i * 4 + channel] = values[(low >> (bit & 7)) & 7]
  }
}
