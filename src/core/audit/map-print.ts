import { SRGB_TO_LINEAR } from '../color/srgb'
import type { ByteImage } from '../image/image'
import { computePerceptualHash } from '../image/perceptual-hash'
import { coverage } from '../image/row-reducer'
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
  /** Mean of each channel's codes, 0 to 1: what programs that resize codes as they are leave alone. */
  meanOfCodes: number[]
  /** Standard deviation of the first channel over the grid: how much there is to see. */
  spread: number
  /** Mean values of the cells of a square grid, channels interleaved, 0 to 255 as encoded. */
  grid: Uint8Array
  /** Root mean square of what each halving takes away, from the finest shared level on: of 256, 128 and 64 cells a side. */
  detail: number[]
}

/** Hash of bytes; the core has none of its own. */
export type Digest = (bytes: Uint8Array) => string

/** Cells of the grid, a side; of normals, whose low frequencies say little, more. */
const GRID = 48
const NORMAL_GRID = 96
/** A side of the picture that details are measured on. */
const FINE = 256
const LEVELS = 3

/**
 * Prints one slot of a material.
 * @param image as decoded, 8 bits
 */
export function printMap(slot: AuditedSlot, image: ByteImage, binding: TextureBinding, digest: Digest): MapPrint {
  const { width, height } = image
  const own = pickPlanes(image, planesOf(slot, image, binding))
  const channels = (own.length / (width * height)) as MapPrint['channels']
  const fine = averageCells(own, width, height, channels, FINE, FINE)
  const side = slot === 'geometryNormal' ? NORMAL_GRID : GRID
  // The mean of means of equal cells is the mean: of the fine picture, not of all of it once more.
  const cells = averageCells(fine, FINE, FINE, channels, side, side)
  const grid = Uint8Array.from(cells, v => Math.round(v))
  const { codes, light } = meansOf(own, channels)
  const first = Float64Array.from({ length: side * side }, (_, i) => cells[i * channels])
  return {
    width,
    height,
    channels,
    content: `${width}x${height}:${digest(own)}`,
    look: computePerceptualHash({ width: side, height: side, channels, data: grid }),
    mean: isColored(slot) ? light : codes,
    meanOfCodes: codes,
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

/** The values of some planes, interleaved: the picture's own where that is what it holds. */
function pickPlanes({ width, height, channels: stride, data }: ByteImage, planes: readonly Plane[]): Uint8Array {
  if (planes.length === stride && planes.every(({ at, inverted }, c) => at === c && !inverted)) return data
  const count = planes.length
  const own = new Uint8Array(width * height * count)
  for (let c = 0; c < count; c++) {
    const { at, inverted } = planes[c]
    const flip = inverted ? 255 : 0
    for (let from = at, to = c; to < own.length; from += stride, to += count) own[to] = data[from] ^ flip
  }
  return own
}

/** Of each channel: the mean of its codes, and of the light that they stand for. */
function meansOf(data: Uint8Array, channels: number): { codes: number[]; light: number[] } {
  const counts = Array.from({ length: channels }, () => new Uint32Array(256))
  for (let c = 0; c < channels; c++) {
    const own = counts[c]
    for (let i = c; i < data.length; i += channels) own[data[i]]++
  }
  const count = data.length / channels
  const sum = (own: Uint32Array, of: (code: number) => number) => own.reduce((all, n, code) => all + n * of(code), 0) / count
  return {
    codes: counts.map(own => sum(own, code => code / 255)),
    light: counts.map(own => sum(own, code => SRGB_TO_LINEAR[code])),
  }
}

/** Means over the cells of a grid, texels that two cells share by how much of them lies in each. */
function averageCells(
  data: Uint8Array | Float32Array,
  width: number,
  height: number,
  channels: number,
  columns: number,
  rows: number,
) {
  if (width % columns === 0 && height % rows === 0) return averageBlocks(data, width, height, channels, columns, rows)
  const row = columns * channels
  const lines = new Float32Array(row * height)
  const across = coverage(width, columns)
  const starts = Int32Array.from(across, cell => cell.start * channels)
  const ends = Int32Array.from(across, cell => (cell.start + cell.weights.length) * channels)
  const weights = Float32Array.from(across.flatMap(cell => cell.weights))
  for (let y = 0, to = 0; y < height; y++) {
    const line = y * width * channels
    for (let i = 0, first = 0; i < columns; i++) {
      for (let c = 0; c < channels; c++, to++) {
        let sum = 0
        for (let from = line + starts[i] + c, w = first; from < line + ends[i]; from += channels, w++)
          sum += data[from] * weights[w]
        lines[to] = sum
      }
      first += (ends[i] - starts[i]) / channels
    }
  }
  const out = new Float32Array(row * rows)
  for (const [j, { start, weights }] of coverage(height, rows).entries())
    for (let k = 0; k < weights.length; k++) {
      const weight = weights[k]
      const from = (start + k) * row
      const to = j * row
      for (let i = 0; i < row; i++) out[to + i] += lines[from + i] * weight
    }
  return out
}

/** The same where cells are whole texels, which is quicker. */
function averageBlocks(
  data: Uint8Array | Float32Array,
  width: number,
  height: number,
  channels: number,
  columns: number,
  rows: number,
) {
  const out = new Float32Array(columns * rows * channels)
  const [across, down] = [width / columns, height / rows]
  const share = 1 / (across * down)
  for (let c = 0; c < channels; c++)
    for (let j = 0; j < rows; j++)
      for (let i = 0; i < columns; i++) {
        let sum = 0
        for (let y = 0; y < down; y++) {
          let from = ((j * down + y) * width + i * across) * channels + c
          for (let x = 0; x < across; x++, from += channels) sum += data[from]
        }
        out[(j * columns + i) * channels + c] = sum * share
      }
  return out
}

function measureDetail(fine: Float32Array, channels: number): number[] {
  const detail: number[] = []
  let [level, side] = [fine, FINE]
  for (let k = 0; k < LEVELS; k++) {
    const half = side / 2
    const next = new Float32Array(half * half * channels)
    const [right, below] = [channels, side * channels]
    let sum = 0
    for (let y = 0, to = 0; y < half; y++)
      for (let x = 0, from = 2 * y * below; x < half; x++, from += 2 * right)
        for (let c = 0; c < channels; c++, to++) {
          const at = from + c
          const [p, q, r, s] = [level[at], level[at + right], level[at + below], level[at + below + right]]
          const mean = (p + q + r + s) / 4
          next[to] = mean
          sum += (p - mean) ** 2 + (q - mean) ** 2 + (r - mean) ** 2 + (s - mean) ** 2
        }
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
  /** Whether it has another number of pixels. */
  isResized: boolean
  /** Normalised correlation of the grids, -1 to 1; null where there is too little to see in either. */
  correlation: number | null
  /** Of each channel what the reference's deviations are multiplied by. */
  gain: number[]
  /** Of each channel how far the reference deviates from its mean, 0 to 1: what a gain is a gain of. */
  spread: number[]
  /** What the worst cells (the 98th of a hundred) are off by after gain and means are allowed for, 0 to 1. */
  local: number
  /** Share of the finest detail that both could hold that is gone; negative where there is more. */
  blur: number
}

/** How one map differs from another, the reference; channels of both are the same. */
export function compareMaps(map: MapPrint, reference: MapPrint): MapDifference {
  const channels = Math.min(map.channels, reference.channels)
  const [a, b] = [map.grid, reference.grid]
  const cells = b.length / reference.channels
  const gain: number[] = []
  const spread: number[] = []
  const means: [number, number][] = []
  let [covariance, ofMap, ofReference] = [0, 0, 0]
  for (let c = 0; c < channels; c++) {
    let [sumA, sumB] = [0, 0]
    for (let i = 0; i < cells; i++) {
      sumA += a[i * map.channels + c]
      sumB += b[i * reference.channels + c]
    }
    const [meanA, meanB] = [sumA / cells, sumB / cells]
    let [ab, aa, bb] = [0, 0, 0]
    for (let i = 0; i < cells; i++) {
      const [x, y] = [a[i * map.channels + c] - meanA, b[i * reference.channels + c] - meanB]
      ab += x * y
      aa += x * x
      bb += y * y
    }
    gain.push(bb > cells * ROUNDING ? ab / bb : 1)
    spread.push(Math.sqrt(bb / cells) / 255)
    means.push([meanA, meanB])
    covariance += ab
    ofMap += aa
    ofReference += bb
  }
  const isQuiet = Math.min(ofMap, ofReference) < channels * cells * QUIET
  const off: number[] = []
  for (let i = 0; i < cells; i++) {
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
    isResized: map.width !== reference.width || map.height !== reference.height,
    correlation: isQuiet ? null : covariance / Math.sqrt(ofMap * ofReference),
    gain,
    spread,
    local: off[Math.floor(off.length * 0.98)],
    blur: blurOf(map, reference),
  }
}

/** Variance of a grid's codes that is rounding alone, and below which a picture's own says too little. */
const ROUNDING = 0.5
const QUIET = 2.5

/** At the finest level that both are larger than, as far as it stands out from the next, which a gain changes as well. */
function blurOf(map: MapPrint, reference: MapPrint): number {
  const least = Math.min(map.width, map.height, reference.width, reference.height)
  const finest = [256, 128, 64].findIndex(side => least >= side * 2)
  if (finest < 0 || finest + 1 >= LEVELS) return 0
  // Of what hardly has detail, noise of the encoding says more than a blur.
  if (reference.detail[finest] < 3 / 255) return 0
  const ratio = (print: MapPrint) => print.detail[finest] / Math.max(print.detail[finest + 1], 1e-6)
  return 1 - ratio(map) / ratio(reference)
}
