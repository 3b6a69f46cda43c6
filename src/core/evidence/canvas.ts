import { type ByteImage, fullScale, type Image } from '../image/image'
import type { Vec3 } from '../math/vec3'

/** Size of every evidence picture, in pixels. */
export const EVIDENCE_WIDTH = 480
export const EVIDENCE_HEIGHT = 320

/** Display codes. Amber marks what is meant, as it does everywhere. */
export const INK: Vec3 = [24, 24, 24]
export const PAPER: Vec3 = [226, 226, 226]
export const QUIET: Vec3 = [150, 150, 150]
export const MARK: Vec3 = [208, 138, 32]

export function createCanvas(color: Vec3 = PAPER, width = EVIDENCE_WIDTH, height = EVIDENCE_HEIGHT): ByteImage {
  const data = new Uint8Array(width * height * 3)
  if (color[0] === color[1] && color[1] === color[2]) data.fill(color[0])
  else for (let p = 0; p < width * height; p++) data.set(color, p * 3)
  return { width, height, channels: 3, data }
}

/** Fills a box given in pixels; what lies outside is left out. */
export function fillBox(canvas: ByteImage, x0: number, y0: number, x1: number, y1: number, color: Vec3): void {
  for (let y = Math.max(0, Math.round(y0)); y < Math.min(canvas.height, Math.round(y1)); y++)
    for (let x = Math.max(0, Math.round(x0)); x < Math.min(canvas.width, Math.round(x1)); x++)
      canvas.data.set(color, (y * canvas.width + x) * 3)
}

/** One texel as display codes; single channels as grey. */
export function readCodes({ width, channels, data }: Image, x: number, y: number, scale = 255 / fullScale(data)): Vec3 {
  const p = (y * width + x) * channels
  const at = (c: number) => Math.round(data[p + (channels < 3 ? 0 : c)] * scale)
  return [at(0), at(1), at(2)]
}

/** Draws an image that repeats, one texel a pixel, with texel (left, top) at the canvas' corner. */
export function drawTexels(image: Image, left: number, top: number): ByteImage {
  const canvas = createCanvas()
  const scale = 255 / fullScale(image.data)
  const wrap = (v: number, n: number) => ((v % n) + n) % n
  for (let y = 0; y < canvas.height; y++)
    for (let x = 0; x < canvas.width; x++)
      canvas.data.set(
        readCodes(image, wrap(left + x, image.width), wrap(top + y, image.height), scale),
        (y * canvas.width + x) * 3,
      )
  return canvas
}

/** Draws `repeats` of an image across the canvas, each pixel the mean of a few texels under it. */
export function drawRepeats(image: Image, repeats: number): ByteImage {
  const canvas = createCanvas()
  const scale = 255 / fullScale(image.data)
  const texels = (image.width * repeats) / canvas.width
  const taps = Math.min(4, Math.max(1, Math.ceil(texels)))
  for (let y = 0; y < canvas.height; y++)
    for (let x = 0; x < canvas.width; x++) {
      const sum: Vec3 = [0, 0, 0]
      for (let j = 0; j < taps; j++)
        for (let i = 0; i < taps; i++) {
          const u = Math.floor((x + (i + 0.5) / taps) * texels) % image.width
          const v = Math.floor((y + (j + 0.5) / taps) * texels) % image.height
          const codes = readCodes(image, u, v, scale)
          for (let c = 0; c < 3; c++) sum[c] += codes[c]
        }
      for (let c = 0; c < 3; c++) canvas.data[(y * canvas.width + x) * 3 + c] = sum[c] / (taps * taps)
    }
  return canvas
}
