import { createFloatImage, type FloatImage } from '../image/image'
import { columnAzimuth, directionOf, rowElevation } from './sphere'

/** Other shapes that a surrounding is stored in: the faces of a cube laid out as a cross, or a mirror ball as a camera sees it. */
export type Unfolding = 'verticalCross' | 'horizontalCross' | 'mirrorBall'

/** How much of the shape is outside the picture of the surrounding, and black or plain there. */
const PLAIN_SHARE = 0.98

/**
 * Which of them a picture is, by its proportions and by what lies where none of them has anything; null for any other, a panorama of 2 to 1
 * among them.
 */
export function recognizeUnfolding(image: FloatImage): Unfolding | null {
  const { width, height } = image
  const near = (a: number, b: number) => Math.abs(a - b) <= 0.01 * b
  if (near(width * 4, height * 3) && isEmpty(image, (x, y) => isOutsideCross(x, y, 3, 4))) return 'verticalCross'
  if (near(width * 3, height * 4) && isEmpty(image, (x, y) => isOutsideCross(x, y, 4, 3))) return 'horizontalCross'
  if (near(width, height) && isEmpty(image, (x, y) => Math.hypot(2 * x - 1, 2 * y - 1) > 1.04)) return 'mirrorBall'
  return null
}

/** Column and row of a face, in a cross of 3 x 4 or 4 x 3. */
const isOutsideCross = (x: number, y: number, columns: number, rows: number): boolean => {
  const [column, row] = [Math.floor(x * columns), Math.floor(y * rows)]
  return columns === 3 ? column !== 1 && row !== 1 : row !== 1 && column !== 1
}

/** Whether a region holds one value, as what was never filled does; `isThere` takes places in 0..1. */
function isEmpty({ width, height, channels, data }: FloatImage, isThere: (x: number, y: number) => boolean): boolean {
  const counts = new Map<number, number>()
  let seen = 0
  const step = Math.max(1, Math.floor(width / 256))
  for (let y = 0; y < height; y += step)
    for (let x = 0; x < width; x += step) {
      if (!isThere((x + 0.5) / width, (y + 0.5) / height)) continue
      const value = Math.round(data[(y * width + x) * channels + 1] * 1000)
      counts.set(value, (counts.get(value) ?? 0) + 1)
      seen++
    }
  return seen > 0 && Math.max(...counts.values()) >= PLAIN_SHARE * seen
}

/**
 * The same surrounding as a panorama of 2 to 1, as high as two faces or as the ball, bilinear within each face.
 * A cross has −x, the front and +x side by side, the top above and the bottom below the front, and the back beyond the bottom, turned round,
 * or at the right. A ball is taken for a perfect mirror seen from far away, its middle showing what is behind the camera; what lies exactly
 * behind the ball is at its rim.
 * Source: P. Debevec, "Light Probe Image Gallery" (cross); Miller and Hoffman, "Illumination and Reflection Maps", 1984 (mirror ball).
 */
export function unfold(image: FloatImage, unfolding: Unfolding): FloatImage {
  const columns = unfolding === 'verticalCross' ? 3 : unfolding === 'horizontalCross' ? 4 : 1
  const face = image.width / columns
  const height = Math.round(unfolding === 'mirrorBall' ? image.height : 2 * face)
  const out = createFloatImage(2 * height, height, 3)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < 2 * height; x++) {
      const direction = directionOf(columnAzimuth(x, 2 * height), rowElevation(y, height))
      const at = unfolding === 'mirrorBall' ? placeOnBall(image, direction) : placeOnCross(unfolding, face, direction)
      sample(image, at, out.data, (y * 2 * height + x) * 3)
    }
  return out
}

interface Place {
  x: number
  y: number
  /** Where the face ends: nothing is taken from beyond. */
  left: number
  top: number
  right: number
  bottom: number
}

function placeOnCross(unfolding: Unfolding, face: number, [dx, dy, dz]: readonly number[]): Place {
  const [ax, ay, az] = [Math.abs(dx), Math.abs(dy), Math.abs(dz)]
  let [column, row, u, v] = [1, 1, 0, 0]
  if (ay >= ax && ay >= az) {
    row = dy > 0 ? 0 : 2
    u = dx / ay
    // At the edge to the front both faces meet.
    v = dy > 0 ? -dz / ay : dz / ay
  } else if (ax >= az) {
    column = dx > 0 ? 2 : 0
    u = (dx > 0 ? dz : -dz) / ax
    v = -dy / ax
  } else if (dz < 0) {
    u = dx / az
    v = -dy / az
  } else if (unfolding === 'horizontalCross') {
    column = 3
    u = -dx / az
    v = -dy / az
  } else {
    row = 3
    u = dx / az
    v = dy / az
  }
  const [left, top] = [column * face, row * face]
  return {
    x: left + ((u + 1) / 2) * face - 0.5,
    y: top + ((v + 1) / 2) * face - 0.5,
    left,
    top,
    right: left + face - 1,
    bottom: top + face - 1,
  }
}

/** The normal at which a mirror sends what comes from a direction to a camera far in front of it. */
function placeOnBall({ width, height }: FloatImage, [dx, dy, dz]: readonly number[]): Place {
  // The panorama's middle is what the camera looks at, so the camera stands at +z and sees its own side in the ball's middle.
  const [hx, hy, hz] = [dx, dy, dz + 1]
  const length = Math.hypot(hx, hy, hz)
  const [nx, ny] = length > 1e-9 ? [hx / length, hy / length] : [1, 0]
  return {
    x: ((nx + 1) / 2) * width - 0.5,
    y: ((1 - ny) / 2) * height - 0.5,
    left: 0,
    top: 0,
    right: width - 1,
    bottom: height - 1,
  }
}

function sample(
  { width, channels, data }: FloatImage,
  { x, y, left, top, right, bottom }: Place,
  dst: Float32Array,
  to: number,
): void {
  const clamp = (v: number, low: number, high: number) => Math.min(high, Math.max(low, v))
  const [cx, cy] = [clamp(x, left, right), clamp(y, top, bottom)]
  const [x0, y0] = [Math.floor(cx), Math.floor(cy)]
  const [x1, y1] = [Math.min(x0 + 1, Math.floor(right)), Math.min(y0 + 1, Math.floor(bottom))]
  const [fx, fy] = [cx - x0, cy - y0]
  for (let c = 0; c < 3; c++) {
    const get = (px: number, py: number) => data[(py * width + px) * channels + c]
    dst[to + c] = (get(x0, y0) * (1 - fx) + get(x1, y0) * fx) * (1 - fy) + (get(x0, y1) * (1 - fx) + get(x1, y1) * fx) * fy
  }
}
