import { SRGB_TO_LINEAR } from '../color/srgb'
import type { ByteImage } from '../image/image'
import { computePerceptualHash, countDifferentBits } from '../image/perceptual-hash'
import type { TextureBinding } from '../material/open-pbr'

/** What of a material may come from a picture, as far as every delivery form has it. */
export const AUDITED_SLOTS = [
  'baseColor',
  'specularRoughness',
  'baseMetalness',
  'geometryNormal',
  'geometryOpacity',
  'emissionColor',
] as const
export type AuditedSlot = (typeof AUDITED_SLOTS)[number]

const COLORED: ReadonlySet<AuditedSlot> = new Set(['baseColor', 'emissionColor'])
export const isColored = (slot: AuditedSlot): boolean => COLORED.has(slot)

/** By what a map is known again: by its pixels, by its look, and by figures that say what was done to it. */
export interface MapPrint {
  width: number
  height: number
  channels: 1 | 2 | 3
  /** Of the decoded values of each channel that the slot reads: a file that was saved anew has the same. */
  content: string
  /** Hash of the look, sixteen hexadecimal digits. */
  look: string
  /** Mean of each channel from 0 to 1; of colours in linear light. */
  mean: number[]
  /** Standard deviation of the first channel over the grid: how much there is to see. */
  spread: number
  /** Mean values of the cells of a square grid, channels interleaved, 0 to 255 as encoded. */
  grid: Uint8Array
  /** Root mean square of what each halving takes away, from the finest shared level on: of 256, 128 and 64 cells a side. */
  detail: number[]
}

/** Hash of bytes; the core has none of its own. */
export type Digest = (bytes: Uint8Array) => string

/** Cells of the grid, a side. */
export const GRID = 48
/** A side of the picture that details are measured on. */
const FINE = 256
const LEVELS = 3

/**
 * Prints one slot of a material.
 * @param image as decoded, 8 bits
 */
export function printMap(slot: AuditedSlot, image: ByteImage, binding: TextureBinding, digest: Digest): MapPrint {
  const planes = planesOf(slot, image, binding)
  const { width, height } = image
  const channels = planes.length as MapPrint['channels']
  const own = new Uint8Array(width * height * channels)
  for (let c = 0; c < channels; c++) {
    const { at, inverted } = planes[c]
    for (let p = 0, from = at, to = c; p < width * height; p++, from += image.channels, to += channels)
      own[to] = inverted ? 255 - image.data[from] : image.data[from]
  }
  const fine = averageCells(own, width, height, channels, FINE, FINE)
  const cells = averageCells(own, width, height, channels, GRID, GRID)
  const grid = Uint8Array.from(cells, v => Math.round(v))
  const first = Float64Array.from({ length: GRID * GRID }, (_, i) => cells[i * channels])
  return {
    width,
    height,
    channels,
    content: `${width}x${height}:${digest(own)}`,
    look: computePerceptualHash({ width: GRID, height: GRID, channels, data: grid }),
    mean: meansOf(own, channels, isColored(slot)),
    spread: deviation(first) / 255,
    grid,
    detail: measureDetail(fine, channels),
  }
}

interface Plane {
  at: number
  inverted: boolean
}

function planesOf(slot: AuditedSlot, { channels }: ByteImage, binding: TextureBinding): Plane[] {
  const plane = (at: number, inverted = false): Plane => ({ at: channels < 3 ? 0 : Math.min(at, channels - 1), inverted })
  if (isColored(slot)) return [plane(0), plane(1), plane(2)]
  // Of a normal the third follows from the other two; green points up here.
  if (slot === 'geometryNormal') return [plane(0), plane(1, binding.handedness === 'directX')]
  const isAlpha = binding.channel === 3 && (channels === 4 || channels === 2)
  return [{ at: isAlpha ? channels - 1 : plane(binding.channel).at, inverted: binding.inverted === true }]
}

function meansOf(data: Uint8Array, channels: number, isColor: boolean): number[] {
  const sums = new Array<number>(channels).fill(0)
  for (let i = 0; i < data.length; i += channels)
    for (let c = 0; c < channels; c++) sums[c] += isColor ? SRGB_TO_LINEAR[data[i + c]] : data[i + c]
  const count = data.length / channels
  return sums.map(s => s / count / (isColor ? 1 : 255))
}

/** Means over the cells of a grid; where the picture is smaller than the grid, the nearest texel. */
function averageCells(data: Uint8Array, width: number, height: number, channels: number, columns: number, rows: number) {
  const out = new Float32Array(columns * rows * channels)
  for (let j = 0; j < rows; j++) {
    const y0 = Math.min(height - 1, Math.floor((j * height) / rows))
    const y1 = Math.max(y0 + 1, Math.floor(((j + 1) * height) / rows))
    for (let i = 0; i < columns; i++) {
      const x0 = Math.min(width - 1, Math.floor((i * width) / columns))
      const x1 = Math.max(x0 + 1, Math.floor(((i + 1) * width) / columns))
      const to = (j * columns + i) * channels
      for (let y = y0; y < y1; y++)
        for (let x = x0, from = (y * width + x0) * channels; x < x1; x++, from += channels)
          for (let c = 0; c < channels; c++) out[to + c] += data[from + c]
      const count = (x1 - x0) * (y1 - y0)
      for (let c = 0; c < channels; c++) out[to + c] /= count
    }
  }
  return out
}

function measureDetail(fine: Float32Array, channels: number): number[] {
  const detail: number[] = []
  let [level, side] = [fine, FINE]
  for (let k = 0; k < LEVELS; k++) {
    const half = side / 2
    const next = new Float32Array(half * half * channels)
    for (let y = 0; y < side; y++)
      for (let x = 0; x < side; x++)
        for (let c = 0; c < channels; c++)
          next[((y >> 1) * half + (x >> 1)) * channels + c] += level[(y * side + x) * channels + c] / 4
    let sum = 0
    for (let y = 0; y < side; y++)
      for (let x = 0; x < side; x++)
        for (let c = 0; c < channels; c++)
          sum += (level[(y * side + x) * channels + c] - next[((y >> 1) * half + (x >> 1)) * channels + c]) ** 2
    detail.push(Math.sqrt(sum / level.length) / 255)
    level = next
    side = half
  }
  return detail
}

const deviation = (values: Float64Array): number => {
  const mean = values.reduce((a, b) => a + b, 0) / values.length
  return Math.sqrt(values.reduce((sum, v) => sum + (v - mean) ** 2, 0) / values.length)
}

export interface MapDifference {
  /** Whether every pixel is the same. */
  isExact: boolean
  /** Bits of the look that differ, 0 to 64. */
  bits: number
  /** Normalised correlation of the grids, -1 to 1; 0 where there is nothing to see in either. */
  correlation: number
  /** Of each channel what the other's deviations are multiplied by. */
  gain: number[]
  /** What the worst cells (the 98th of a hundred) are off by after gain and means are allowed for, 0 to 1. */
  local: number
  /** Share of the finest detail that both could hold that is gone; negative where there is more. */
  blur: number
}

/** How one map differs from another, the reference; channels of both are the same. */
export function compareMaps(map: MapPrint, reference: MapPrint): MapDifference {
  const channels = Math.min(map.channels, reference.channels)
  const [a, b] = [map.grid, reference.grid]
  const gain: number[] = []
  let [covariance, ofMap, ofReference] = [0, 0, 0]
  const means: [number, number][] = []
  for (let c = 0; c < channels; c++) {
    let [sumA, sumB] = [0, 0]
    for (let i = 0; i < GRID * GRID; i++) {
      sumA += a[i * map.channels + c]
      sumB += b[i * reference.channels + c]
    }
    const [meanA, meanB] = [sumA / GRID ** 2, sumB / GRID ** 2]
    let [ab, aa, bb] = [0, 0, 0]
    for (let i = 0; i < GRID * GRID; i++) {
      const [x, y] = [a[i * map.channels + c] - meanA, b[i * reference.channels + c] - meanB]
      ab += x * y
      aa += x * x
      bb += y * y
    }
    gain.push(bb > GRID ** 2 * QUIET ? ab / bb : 1)
    means.push([meanA, meanB])
    covariance += ab
    ofMap += aa
    ofReference += bb
  }
  const isQuiet = ofMap < channels * GRID ** 2 * QUIET || ofReference < channels * GRID ** 2 * QUIET
  const off: number[] = []
  for (let i = 0; i < GRID * GRID; i++) {
    let worst = 0
    for (let c = 0; c < channels; c++) {
      const expected = means[c][0] + gain[c] * (b[i * reference.channels + c] - means[c][1])
      worst = Math.max(worst, Math.abs(a[i * map.channels + c] - expected))
    }
    off.push(worst / 255)
  }
  off.sort((x, y) => x - y)
  return {
    isExact: map.content === reference.content,
    bits: countDifferentBits(map.look, reference.look),
    correlation: isQuiet ? 0 : covariance / Math.sqrt(ofMap * ofReference),
    gain,
    local: off[Math.floor(off.length * 0.98)],
    blur: blurOf(map, reference),
  }
}

/** Variance of a grid's codes below which there is nothing to see but rounding. */
const QUIET = 0.5

/** At the finest level that both are larger than, as far as it stands out from the next, which a gain changes as well. */
function blurOf(map: MapPrint, reference: MapPrint): number {
  const least = Math.min(map.width, map.height, reference.width, reference.height)
  const finest = [256, 128, 64].findIndex(side => least >= side * 2)
  if (finest < 0 || finest + 1 >= LEVELS) return 0
  const ratio = (print: MapPrint) => print.detail[finest] / Math.max(print.detail[finest + 1], 1e-6)
  // Of what hardly has detail, noise of the encoding says more than a blur.
  if (reference.detail[finest] < 3 / 255) return 0
  return 1 - ratio(map) / ratio(reference)
}
