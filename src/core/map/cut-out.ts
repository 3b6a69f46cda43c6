import { fullScale, type Image } from '../image/image'

/** A box of texels: left, top, width, height. */
export interface Box {
  x: number
  y: number
  width: number
  height: number
}

/** A sheet has so many stamps; more are the grain of one. */
const MOST_STAMPS = 64
const MOST_PIECES = 1500
/** Cells of the longer side that shapes are looked for in. */
const GRID = 384
/** Shapes nearer than this, as a share of the longer side, are one: letters of a word, splashes of a splash. */
const GAP = 0.016
/** A speck is no stamp: least share of the sheet's area. */
const LEAST_AREA = 0.0012
/** What is left round a stamp, as a share of the longer side. */
const MARGIN = 0.006
/** How far from the ground something is there, in codes over full scale. */
const LEAST_DIFFERENCE = 0.12
/** Ground whose values differ by more is none. */
const MOST_UNEVEN = 0.05
/** Shapes that differ less in size are the units of a pattern. */
const ALIKE = 0.04

/**
 * The stamps on a sheet, in reading order: what stands apart on a clear or even ground, nothing of it cut by the edge. Empty for what is no
 * sheet: one shape, a pattern of like shapes, grain, a picture without a ground.
 */
export function findStamps(image: Image): Box[] {
  const grid = readPresence(image)
  if (!grid) return []
  const { wide, high, isThere } = grid
  for (let i = 0; i < wide; i++) if (isThere[i] || isThere[(high - 1) * wide + i]) return []
  for (let j = 0; j < high; j++) if (isThere[j * wide] || isThere[j * wide + wide - 1]) return []
  const pieces = listShapes(grid)
  if (pieces.length > MOST_PIECES) return []
  const shapes = mergeNear(pieces, Math.max(1, Math.round(GAP * Math.max(wide, high))))
  const stamps = shapes.filter(s => s.cells >= LEAST_AREA * wide * high)
  if (stamps.length < 2 || stamps.length > MOST_STAMPS || shapes.length > stamps.length * 3 + 4) return []
  const areas = stamps.map(s => s.cells)
  const mean = areas.reduce((a, b) => a + b, 0) / areas.length
  const spread = Math.sqrt(areas.reduce((a, b) => a + (b - mean) ** 2, 0) / areas.length) / mean
  if (stamps.length >= 4 && spread < ALIKE) return []
  return inReadingOrder(stamps.map(s => toBox(s, image, wide, high)))
}

/** Whether a picture shows one shape on a clear or even ground. */
export function isOneShape(image: Image): boolean {
  const grid = readPresence(image)
  if (!grid) return false
  const pieces = listShapes(grid)
  if (pieces.length === 0 || pieces.length > MOST_PIECES) return false
  return mergeNear(pieces, Math.max(1, Math.round(GAP * Math.max(grid.wide, grid.high)))).length === 1
}

interface Grid {
  wide: number
  high: number
  isThere: Uint8Array
}

/** Where something is, by its alpha or against the ground along the edge; null without a ground. */
function readPresence({ width, height, channels, data }: Image): Grid | null {
  const scale = 1 / fullScale(data)
  const share = GRID / Math.max(width, height, GRID)
  const [wide, high] = [Math.max(3, Math.round(width * share)), Math.max(3, Math.round(height * share))]
  const hasAlpha = channels === 2 || channels === 4
  const colors = channels < 3 ? 1 : 3
  const cells = new Float32Array(wide * high * (colors + 1))
  const taps = 3
  for (let j = 0; j < high; j++)
    for (let i = 0; i < wide; i++) {
      const at = (j * wide + i) * (colors + 1)
      for (let k = 0; k < taps * taps; k++) {
        const x = Math.min(width - 1, Math.floor(((i + ((k % taps) + 0.5) / taps) * width) / wide))
        const y = Math.min(height - 1, Math.floor(((j + (Math.floor(k / taps) + 0.5) / taps) * height) / high))
        const p = (y * width + x) * channels
        for (let c = 0; c < colors; c++) cells[at + c] += (data[p + c] * scale) / (taps * taps)
        cells[at + colors] += (hasAlpha ? data[p + channels - 1] * scale : 1) / (taps * taps)
      }
    }
  const isThere = new Uint8Array(wide * high)
  const isSeen = (k: number) => cells[k * (colors + 1) + colors] > 0.04
  const rim: number[] = []
  for (let i = 0; i < wide; i++) rim.push(i, (high - 1) * wide + i)
  for (let j = 0; j < high; j++) rim.push(j * wide, j * wide + wide - 1)
  if (hasAlpha && !rim.some(isSeen)) {
    for (let k = 0; k < isThere.length; k++) isThere[k] = isSeen(k) ? 1 : 0
    return { wide, high, isThere }
  }
  if (hasAlpha && cells.some((v, k) => k % (colors + 1) === colors && v < 0.5)) return null
  const ground = Array.from({ length: colors }, (_, c) => medianOf(rim.map(k => cells[k * (colors + 1) + c])))
  const away = (k: number) => Math.max(...ground.map((g, c) => Math.abs(cells[k * (colors + 1) + c] - g)))
  if (rim.some(k => away(k) > MOST_UNEVEN)) return null
  for (let k = 0; k < isThere.length; k++) isThere[k] = away(k) > LEAST_DIFFERENCE ? 1 : 0
  return { wide, high, isThere }
}

function medianOf(values: number[]): number {
  const sorted = values.sort((a, b) => a - b)
  return sorted[sorted.length >> 1]
}

interface Shape {
  left: number
  top: number
  right: number
  bottom: number
  cells: number
}

/** Cells that hang together, by their corners too. */
function listShapes({ wide, high, isThere }: Grid): Shape[] {
  const seen = new Uint8Array(isThere.length)
  const shapes: Shape[] = []
  const stack: number[] = []
  for (let start = 0; start < isThere.length; start++) {
    if (!isThere[start] || seen[start]) continue
    const shape: Shape = { left: wide, top: high, right: 0, bottom: 0, cells: 0 }
    seen[start] = 1
    stack.push(start)
    while (stack.length > 0) {
      const k = stack.pop()!
      const [x, y] = [k % wide, Math.floor(k / wide)]
      shape.cells++
      shape.left = Math.min(shape.left, x)
      shape.right = Math.max(shape.right, x)
      shape.top = Math.min(shape.top, y)
      shape.bottom = Math.max(shape.bottom, y)
      for (let dy = -1; dy <= 1; dy++)
        for (let dx = -1; dx <= 1; dx++) {
          const [nx, ny] = [x + dx, y + dy]
          if (nx < 0 || ny < 0 || nx >= wide || ny >= high) continue
          const next = ny * wide + nx
          if (!isThere[next] || seen[next]) continue
          seen[next] = 1
          stack.push(next)
        }
    }
    shapes.push(shape)
  }
  return shapes
}

/** Shapes whose boxes come nearer than a gap become one, until none do. */
function mergeNear(given: readonly Shape[], gap: number): Shape[] {
  const shapes = [...given]
  for (let isMoving = true; isMoving; ) {
    isMoving = false
    for (let a = 0; a < shapes.length; a++)
      for (let b = shapes.length - 1; b > a; b--) {
        const [p, q] = [shapes[a], shapes[b]]
        const apart = Math.max(p.left - q.right, q.left - p.right, p.top - q.bottom, q.top - p.bottom)
        if (apart > gap) continue
        shapes[a] = {
          left: Math.min(p.left, q.left),
          top: Math.min(p.top, q.top),
          right: Math.max(p.right, q.right),
          bottom: Math.max(p.bottom, q.bottom),
          cells: p.cells + q.cells,
        }
        shapes.splice(b, 1)
        isMoving = true
      }
  }
  return shapes
}

function toBox({ left, top, right, bottom }: Shape, { width, height }: Image, wide: number, high: number): Box {
  const margin = Math.ceil(MARGIN * Math.max(width, height))
  const x = Math.max(0, Math.floor((left * width) / wide) - margin)
  const y = Math.max(0, Math.floor((top * height) / high) - margin)
  return {
    x,
    y,
    width: Math.min(width, Math.ceil(((right + 1) * width) / wide) + margin) - x,
    height: Math.min(height, Math.ceil(((bottom + 1) * height) / high) + margin) - y,
  }
}

/** Rows from the top, each from the left; a box belongs to the row whose first it overlaps by half. */
function inReadingOrder(boxes: readonly Box[]): Box[] {
  const rows: Box[][] = []
  for (const box of [...boxes].sort((a, b) => a.y - b.y)) {
    const row = rows.find(([first]) => box.y < first.y + first.height / 2)
    if (row) row.push(box)
    else rows.push([box])
  }
  return rows.flatMap(row => row.sort((a, b) => a.x - b.x))
}

/** As a fact of what is cut from a sheet: four whole numbers, and the sheet's own size that they are of. */
export const writeBox = ({ x, y, width, height }: Box): string => `${x} ${y} ${width} ${height}`

/** Null where it is none. */
export function readBox(text: string): Box | null {
  const match = /^(\d+) (\d+) (\d+) (\d+)$/.exec(text)
  if (!match) return null
  const [x, y, width, height] = match.slice(1).map(Number)
  return width > 0 && height > 0 ? { x, y, width, height } : null
}

/** A box of an image by itself. @throws RangeError where it does not lie in it */
export function cutBox<T extends Image>(image: T, { x, y, width, height }: Box): T {
  const { channels, data } = image
  if (x + width > image.width || y + height > image.height)
    throw new RangeError(`a box to ${x + width}, ${y + height} is not in ${image.width} x ${image.height}`)
  const cut = new (data.constructor as Uint8ArrayConstructor)(width * height * channels)
  for (let row = 0; row < height; row++) {
    const from = ((y + row) * image.width + x) * channels
    cut.set((data as Uint8Array).subarray(from, from + width * channels), row * width * channels)
  }
  return { ...image, width, height, data: cut }
}

/** A box found on a reduced picture, on the whole one. */
export function scaleBox(
  { x, y, width, height }: Box,
  factorX: number,
  factorY: number,
  whole: Pick<Image, 'width' | 'height'>,
): Box {
  const left = Math.floor(x * factorX)
  const top = Math.floor(y * factorY)
  return {
    x: left,
    y: top,
    width: Math.min(whole.width, Math.ceil((x + width) * factorX)) - left,
    height: Math.min(whole.height, Math.ceil((y + height) * factorY)) - top,
  }
}
