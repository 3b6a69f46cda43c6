import { luminance } from '../../color/srgb'
import { KernelMemory } from '../kernel/kernel-memory'
import { TILE_FEATURES as FEATURES } from './tile'

/**
 * Filters noise by local linear regression: in a window about a pixel, colour is fitted as a linear function of what the camera met there
 * (base colour, normal, distance), each pixel weighted by how alike its surroundings are (non-local means). After Moon et al. 2014 and
 * Bitterli et al. 2016, "Nonlinearly Weighted First-order Regression for Denoising Monte Carlo Renderings"; the two halves of the samples
 * are filtered apart, each weighted by what the other one shows (Rousselle et al. 2012), so that their difference tells what noise is left.
 * The windows are fitted by src/kernel/filter.ts.
 */

/** One half of a picture's samples: means over them. */
export interface Half {
  /** 3 a pixel, linear RGB. */
  color: Float32Array
  /** 7 a pixel: base colour 3 (1 where nothing was met), shading normal 3 (0 where nothing was met), distance in metres. */
  features: Float32Array
}

/** How many of its own standard errors a difference of luminance may be without telling. */
const SENSITIVITY = 0.55
/** What differs by less than this in base colour, normal, or share of the distance explains little. */
const FLOORS = [0.02, 0.02, 0.02, 0.03, 0.03, 0.03, 0.01]
/** A window stands at every second pixel of every second row; each fits all its pixels, and a pixel takes the mean of what they say. */
const STRIDE = 2
/** Pixels about the picture that windows and patches may reach into. */
const MARGIN = 8
/** A row is read in fours. */
const AFTER = 12
/** A sample's own variance says too much of spread-out samples: it is taken in proportion to what the halves differ by, over so many pixels around. */
const PROPORTION_RADIUS = 5
/** A pixel so many times as bright as anything that the other half shows there, or that its own shows beside it, is an outlier. */
const FIREFLY = 2
/** The full size, a half and a quarter; smaller pictures than that are not halved. */
const SCALES = 3
const LEAST_SIZE = 48
const SCRATCH_BYTES = 10_240
const OUT = 4

/**
 * @param variance squared standard error of one half's luminance, told by its samples alone, 1 a pixel
 * @param wanted 1 for each pixel that is to be filtered; null for all
 * @param scales how often it is done again at half the size, for noise that is slower than a window is wide
 * @returns both halves filtered, 3 a pixel, linear RGB; 0 where nothing was wanted
 */
export function filterHalves(
  halves: readonly [Half, Half],
  variance: Float32Array,
  width: number,
  height: number,
  wanted: Uint8Array | null = null,
  scales = SCALES,
): [Float32Array, Float32Array] {
  const planes = new Planes(width, height)
  const luminances = halves.map(({ color }) => luminanceOf(color))
  const spread = planes.pad(proportionate(variance, luminances, width, height))
  const filter = (which: 0 | 1): Float32Array => {
    const [own, other] = [luminances[which], luminances[1 - which]]
    planes.set(halves[which], findFireflies(own, other, width, height), planes.pad(other), spread)
    return planes.fit(wanted)
  }
  const filtered: [Float32Array, Float32Array] = [filter(0), filter(1)]
  if (scales > 1 && Math.min(width, height) >= LEAST_SIZE)
    mendSlowNoise(filtered, halves, variance, { width, height, wanted, scales })
  return filtered
}

/**
 * Noise slower than a window survives it as clouds. The halves are filtered at half their size too, where a window reaches twice as far, and
 * what that says of the slow part of the picture replaces what the full size says (Delbracio et al. 2014, "Boosting Monte Carlo Rendering
 * by Ray Histogram Fusion", section 5).
 */
function mendSlowNoise(
  filtered: readonly [Float32Array, Float32Array],
  halves: readonly [Half, Half],
  variance: Float32Array,
  { width, height, wanted, scales }: { width: number; height: number; wanted: Uint8Array | null; scales: number },
): void {
  const [w, h] = [width >> 1, height >> 1]
  const reduce = (data: Float32Array, channels: number) => reduceByTwo(data, width, w, h, channels)
  const small = halves.map(({ color, features }) => ({ color: reduce(color, 3), features: reduce(features, FEATURES) })) as [
    Half,
    Half,
  ]
  const smallVariance = reduce(variance, 1).map(v => v / 4)
  const smallWanted =
    wanted && Uint8Array.from({ length: w * h }, (_, p) => (isWhollyIn(wanted, width, p % w, Math.floor(p / w)) ? 1 : 0))
  const slow = filterHalves(small, smallVariance, w, h, smallWanted, scales - 1)
  for (const which of [0, 1] as const) {
    const difference = reduce(filtered[which], 3)
    for (let p = 0; p < w * h; p++)
      for (let k = 0; k < 3; k++)
        difference[p * 3 + k] = !smallWanted || smallWanted[p] ? slow[which][p * 3 + k] - difference[p * 3 + k] : 0
    addEnlarged(filtered[which], difference, width, height, w, h, wanted)
  }
}

const isWhollyIn = (mask: Uint8Array, width: number, x: number, y: number): boolean => {
  const at = 2 * y * width + 2 * x
  return mask[at] === 1 && mask[at + 1] === 1 && mask[at + width] === 1 && mask[at + width + 1] === 1
}

/** Means of 2 x 2 pixels. */
function reduceByTwo(data: Float32Array, width: number, w: number, h: number, channels: number): Float32Array {
  const out = new Float32Array(w * h * channels)
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const from = (2 * y * width + 2 * x) * channels
      for (let k = 0; k < channels; k++)
        out[(y * w + x) * channels + k] =
          (data[from + k] +
            data[from + channels + k] +
            data[from + width * channels + k] +
            data[from + (width + 1) * channels + k]) /
          4
    }
  return out
}

/** Adds a picture of half the size, read between its pixels; nothing becomes negative by it. */
function addEnlarged(
  to: Float32Array,
  small: Float32Array,
  width: number,
  height: number,
  w: number,
  h: number,
  wanted: Uint8Array | null,
): void {
  const hold = (v: number, most: number) => Math.min(most, Math.max(0, v))
  for (let y = 0; y < height; y++) {
    const near = hold(y >> 1, h - 1) * w
    const far = hold((y >> 1) + (y & 1 ? 1 : -1), h - 1) * w
    for (let x = 0; x < width; x++) {
      if (wanted && !wanted[y * width + x]) continue
      const at = (y * width + x) * 3
      const left = hold(x >> 1, w - 1)
      const right = hold((x >> 1) + (x & 1 ? 1 : -1), w - 1)
      for (let k = 0; k < 3; k++) {
        const added =
          (9 * small[(near + left) * 3 + k] +
            3 * (small[(near + right) * 3 + k] + small[(far + left) * 3 + k]) +
            small[(far + right) * 3 + k]) /
          16
        to[at + k] = Math.max(0, to[at + k] + added)
      }
    }
  }
}

function luminanceOf(color: Float32Array): Float32Array {
  const out = new Float32Array(color.length / 3)
  for (let p = 0, i = 0; p < out.length; p++, i += 3) out[p] = Math.min(luminance(color[i], color[i + 1], color[i + 2]), 4)
  return out
}

/** The samples' variance, evened out over neighbours and brought to the size of the difference between the halves. */
function proportionate(variance: Float32Array, [a, b]: Float32Array[], width: number, height: number): Float32Array {
  const squared = new Float32Array(a.length)
  for (let p = 0; p < squared.length; p++) squared[p] = (a[p] - b[p]) ** 2 / 2
  const seen = boxMean(squared, width, height, PROPORTION_RADIUS)
  const told = boxMean(variance, width, height, PROPORTION_RADIUS)
  const out = boxMean(variance, width, height, 1)
  for (let p = 0; p < out.length; p++) out[p] = (out[p] * seen[p]) / Math.max(told[p], 1e-12)
  return out
}

/** What a pixel's light is to be held to, as a factor: 1 unless it is alone in being so bright. */
function findFireflies(own: Float32Array, other: Float32Array, width: number, height: number): Float32Array {
  const held = new Float32Array(own.length).fill(1)
  for (let p = 0; p < own.length; p++) {
    if (own[p] <= other[p] * FIREFLY) continue
    const [x, y] = [p % width, Math.floor(p / width)]
    let brightest = 1e-6
    for (let j = Math.max(0, y - 1); j <= Math.min(height - 1, y + 1); j++)
      for (let i = Math.max(0, x - 1); i <= Math.min(width - 1, x + 1); i++) {
        const q = j * width + i
        brightest = Math.max(brightest, other[q], q === p ? 0 : own[q])
      }
    held[p] = Math.min(1, (brightest * FIREFLY) / own[p])
  }
  return held
}

/** Mean over the pixels at most `radius` away in x and in y. */
export function boxMean(values: Float32Array, width: number, height: number, radius: number): Float32Array {
  const along = (from: Float32Array, count: number, lines: number, step: number, next: number): Float32Array => {
    const to = new Float32Array(from.length)
    for (let line = 0; line < lines; line++) {
      let sum = 0
      for (let i = -radius; i < count + radius; i++) {
        if (i + radius < count) sum += i + radius >= 0 ? from[line * next + (i + radius) * step] : 0
        if (i - radius - 1 >= 0) sum -= from[line * next + (i - radius - 1) * step]
        if (i >= 0 && i < count)
          to[line * next + i * step] = sum / (Math.min(count - 1, i + radius) - Math.max(0, i - radius) + 1)
      }
    }
    return to
  }
  return along(along(values, width, height, 1, width), height, width, width, 1)
}

/** The kernel's memory for pictures of one size. */
class Planes {
  private readonly stride: number
  private readonly size: number
  private readonly memory = KernelMemory.open()
  /** Floats from the start of the memory. */
  private readonly guide: number
  private readonly own: number
  private readonly out: number

  constructor(
    private readonly width: number,
    private readonly height: number,
  ) {
    this.stride = Math.ceil((width + MARGIN + AFTER) / 4) * 4
    this.size = this.stride * (height + 2 * MARGIN)
    const { memory, stride, size } = this
    const bytes = size * 4
    const [guide, own, inside, out] = [2, 3 + FEATURES, 1, OUT].map(count => memory.allocate(count * bytes))
    const scratch = memory.allocate(SCRATCH_BYTES)
    const header = memory.allocate(96)
    this.guide = guide / 4
    this.own = own / 4
    this.out = out / 4
    new Uint32Array(memory.buffer, header, 7).set([stride * 4, bytes, guide, own, inside, out, scratch])
    new Float32Array(memory.buffer, header + 28, 8).set([SENSITIVITY ** 2, ...FLOORS.map(f => 1 / f)])
    const floats = new Float32Array(memory.buffer)
    for (let y = 0; y < height; y++) floats.fill(1, inside / 4 + this.at(0, y), inside / 4 + this.at(width, y))
    memory.kernel.setFilter(header)
  }

  /** A plane of this with its edges repeated outwards. */
  pad(values: Float32Array): Float32Array {
    const { width, height, stride, size } = this
    const plane = new Float32Array(size)
    for (let row = 0; row < height + 2 * MARGIN; row++) {
      const y = Math.min(height - 1, Math.max(0, row - MARGIN))
      for (let column = 0; column < stride; column++)
        plane[row * stride + column] = values[y * width + Math.min(width - 1, Math.max(0, column - MARGIN))]
    }
    return plane
  }

  set({ color, features }: Half, held: Float32Array, guide: Float32Array, spread: Float32Array): void {
    const { width, height, own, size } = this
    const floats = new Float32Array(this.memory.buffer)
    floats.set(guide, this.guide)
    floats.set(spread, this.guide + size)
    // A plane after the other: each is written in one go.
    for (let k = 0; k < 3 + FEATURES; k++)
      for (let y = 0; y < height; y++) {
        let to = own + k * size + this.at(0, y)
        let p = y * width
        if (k < 3) for (const end = p + width; p < end; p++, to++) floats[to] = color[p * 3 + k] * held[p]
        else for (const end = p + width; p < end; p++, to++) floats[to] = features[p * FEATURES + k - 3]
      }
    floats.fill(0, this.out, this.out + OUT * size)
  }

  fit(wanted: Uint8Array | null): Float32Array {
    const { width, height, memory, out, size } = this
    const floats = new Float32Array(memory.buffer)
    const forEach = (step: number, use: (x: number, y: number) => void) => {
      for (let y = 0; y < height; y += step) for (let x = 0; x < width; x += step) if (!wanted || wanted[y * width + x]) use(x, y)
    }
    const fitAt = (x: number, y: number) => memory.kernel.fitWindow(x + MARGIN, y + MARGIN)
    forEach(STRIDE, fitAt)
    // What is like nothing about it stands for itself.
    forEach(1, (x, y) => {
      if (floats[out + this.at(x, y) + 3 * size] === 0) fitAt(x, y)
    })
    const filtered = new Float32Array(width * height * 3)
    forEach(1, (x, y) => {
      const from = out + this.at(x, y)
      for (let k = 0; k < 3; k++)
        filtered[(y * width + x) * 3 + k] = Math.max(0, floats[from + k * size] / floats[from + 3 * size])
    })
    return filtered
  }

  private at(x: number, y: number): number {
    return (y + MARGIN) * this.stride + x + MARGIN
  }
}
