import { type ByteImage, fullScale, type Image } from '../image/image'
import type { Vec3 } from '../math/vec3'

/** How a map is laid out for its preview. */
export interface MapSheet {
  /** Pixels; the height follows from the aspect. */
  width: number
  aspect: number
  /** Laid edge to edge four times each way. */
  tiles: boolean
  /** Display code of the mount behind it. */
  mount: number
}

const REPEATS = 4
const GAP_SHARE = 0.012
/** Checks across the sheet; and its width from which a texel is two pixels, then three: as large as on a screen of so many. */
const CHECKS_ACROSS = 64
const USUAL_WIDTH = 768
const CHECKS: [Vec3, Vec3] = [
  [206, 206, 206],
  [158, 158, 158],
]

/**
 * A map on its sheet: large, the whole of it or, of what tiles, four times four; beside it one repeat, or under it where there is none, and
 * its own texels at one to one. Over checks where something is seen through it.
 */
export function drawMapSheet(image: Image, { width, aspect, tiles, mount }: MapSheet): ByteImage {
  const height = Math.round(width / aspect)
  const canvas: ByteImage = { width, height, channels: 3, data: new Uint8Array(width * height * 3).fill(mount) }
  const gap = Math.max(2, Math.round(width * GAP_SHARE))
  const side = width - height - gap
  const main = { x: 0, y: 0, width: height, height }
  const whole = { x: height + gap, y: 0, width: side, height: side }
  const close = { x: height + gap, y: tiles ? side + gap : 0, width: side, height: tiles ? height - side - gap : height }
  if (tiles) {
    drawFitted(canvas, image, main, REPEATS)
    drawFitted(canvas, image, whole, 1)
  } else drawFitted(canvas, image, main, 1)
  drawOneToOne(canvas, image, close)
  return canvas
}

interface Place {
  x: number
  y: number
  width: number
  height: number
}

/** As large as fits, in its own proportions, each pixel the mean of the texels under it. */
function drawFitted(canvas: ByteImage, image: Image, place: Place, repeats: number): void {
  const [wide, high] = [image.width * repeats, image.height * repeats]
  const scale = Math.min(place.width / wide, place.height / high)
  const [w, h] = [Math.max(1, Math.round(wide * scale)), Math.max(1, Math.round(high * scale))]
  const x0 = place.x + Math.floor((place.width - w) / 2)
  const y0 = place.y + Math.floor((place.height - h) / 2)
  const texels = 1 / scale
  const taps = Math.min(6, Math.max(1, Math.ceil(texels)))
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const sum: [number, number, number, number] = [0, 0, 0, 0]
      for (let j = 0; j < taps; j++)
        for (let i = 0; i < taps; i++)
          addTexel(
            image,
            Math.floor((x + (i + 0.5) / taps) * texels) % image.width,
            Math.floor((y + (j + 0.5) / taps) * texels) % image.height,
            sum,
          )
      putPixel(canvas, x0 + x, y0 + y, sum, taps * taps)
    }
}

/** The middle of a map, a texel a pixel of a usual screen; what is smaller than its place stands in the middle of it. */
function drawOneToOne(canvas: ByteImage, image: Image, place: Place): void {
  const px = Math.max(1, Math.round(canvas.width / USUAL_WIDTH))
  const [wide, high] = [
    Math.min(Math.floor(place.width / px), image.width),
    Math.min(Math.floor(place.height / px), image.height),
  ]
  const [w, h] = [wide * px, high * px]
  const x0 = place.x + Math.floor((place.width - w) / 2)
  const y0 = place.y + Math.floor((place.height - h) / 2)
  const [left, top] = [Math.floor((image.width - wide) / 2), Math.floor((image.height - high) / 2)]
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const sum: [number, number, number, number] = [0, 0, 0, 0]
      addTexel(image, left + Math.floor(x / px), top + Math.floor(y / px), sum)
      putPixel(canvas, x0 + x, y0 + y, sum, 1)
    }
}

/** Adds display codes by alpha, and alpha. */
function addTexel({ width, channels, data }: Image, x: number, y: number, sum: [number, number, number, number]): void {
  const scale = 255 / fullScale(data)
  const p = (y * width + x) * channels
  const alpha = channels === 2 || channels === 4 ? (data[p + channels - 1] * scale) / 255 : 1
  for (let c = 0; c < 3; c++) sum[c] += alpha * data[p + (channels < 3 ? 0 : c)] * scale
  sum[3] += alpha
}

function putPixel(canvas: ByteImage, x: number, y: number, sum: readonly number[], count: number): void {
  const cover = sum[3] / count
  const side = Math.max(2, Math.round(canvas.width / CHECKS_ACROSS))
  const check = CHECKS[(Math.floor(x / side) + Math.floor(y / side)) & 1]
  const at = (y * canvas.width + x) * 3
  for (let c = 0; c < 3; c++) canvas.data[at + c] = Math.round(sum[c] / count + (1 - cover) * check[c])
}
