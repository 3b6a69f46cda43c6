import { luminance } from '../../color/srgb'
import { type FitTask, fitRows, REACH, STRIDE } from './fit-rows'
import { TILE_FEATURES as FEATURES } from './tile'

/**
 * Filters noise by local linear regression: in a window about a pixel, colour is fitted as a linear function of what the camera met there
 * (base colour, normal, distance), each pixel weighted by how alike its surroundings are (non-local means). After Moon et al. 2014 and
 * Bitterli et al. 2016, "Nonlinearly Weighted First-order Regression for Denoising Monte Carlo Renderings"; the two halves of the samples
 * are filtered apart, each weighted by what the other one shows (Rousselle et al. 2012), so that their difference tells what noise is left.
 * The windows are fitted by src/kernel/filter.ts, which fit-rows.ts brings the rows to.
 */

/** One half of a picture's samples: means over them. */
export interface Half {
  /** 3 a pixel, linear RGB. */
  color: Float32Array
  /** 7 a pixel: base colour 3 (1 where nothing was met), shading normal 3 (0 where nothing was met), distance in metres. */
  features: Float32Array
}

/** A sample's own variance says too much of spread-out samples: it is taken in proportion to what the halves differ by, over so many pixels around. */
const PROPORTION_RADIUS = 5
/** A pixel so many times as bright as anything that the other half shows there, or that its own shows beside it, is an outlier. */
const FIREFLY = 2
/** The full size, a half and a quarter; smaller pictures than that are not halved. */
const SCALES = 3
const LEAST_SIZE = 48
/** A tall picture is fitted in parts of about so many rows. */
const PART_ROWS = 192

/** A filtering whose greater part is in tasks that have nothing to do with each other, for as many threads as there are. */
export interface Filtering {
  /** The largest first. */
  tasks: FitTask[]
  /**
   * @param fitted what {@link fitRows} made of each task
   * @returns both halves filtered, 3 a pixel, linear RGB; 0 where nothing was wanted
   */
  finish: (fitted: readonly Float32Array[]) => [Float32Array, Float32Array]
}

/** A picture at the full size, or halved. */
interface Level {
  halves: readonly [Half, Half]
  variance: Float32Array
  width: number
  height: number
  wanted: Uint8Array | null
}

/**
 * @param variance squared standard error of one half's luminance, told by its samples alone, 1 a pixel
 * @param wanted 1 for each pixel that is to be filtered; null for all
 * @param scales how often it is done again at half the size, for noise that is slower than a window is wide
 */
export function prepareFilter(
  halves: readonly [Half, Half],
  variance: Float32Array,
  width: number,
  height: number,
  wanted: Uint8Array | null = null,
  scales = SCALES,
): Filtering {
  const levels: Level[] = [{ halves, variance, width, height, wanted }]
  while (levels.length < scales && Math.min(levels.at(-1)!.width, levels.at(-1)!.height) >= LEAST_SIZE)
    levels.push(halve(levels.at(-1)!))
  const parts = levels.map(tasksOf)
  return {
    tasks: parts.flat(2),
    finish: fitted => {
      let next = 0
      const filtered = parts.map(
        (ofHalves, k) =>
          ofHalves.map(tasks =>
            join(
              tasks.map(() => fitted[next++]),
              levels[k],
            ),
          ) as [Float32Array, Float32Array],
      )
      for (let k = levels.length - 2; k >= 0; k--) mendSlowNoise(filtered[k], filtered[k + 1], levels[k], levels[k + 1])
      return filtered[0]
    },
  }
}

/** The same, here and now. */
export function filterHalves(...given: Parameters<typeof prepareFilter>): [Float32Array, Float32Array] {
  const { tasks, finish } = prepareFilter(...given)
  return finish(tasks.map(fitRows))
}

/** Of each half its parts, from the top down. */
function tasksOf({ halves, variance, width, height, wanted }: Level): [FitTask[], FitTask[]] {
  const luminances = halves.map(({ color }) => luminanceOf(color))
  const spread = proportionate(variance, luminances, width, height)
  const rows = Math.ceil(height / Math.max(1, Math.round(height / PART_ROWS)) / STRIDE) * STRIDE
  return halves.map(({ color, features }, which) => {
    const [own, guide] = [luminances[which], luminances[1 - which]]
    const held = holdFireflies(color, own, guide, width, height)
    const tasks: FitTask[] = []
    for (let top = 0; top < height; top += rows) {
      // Windows beyond its edges reach into it, and as far beyond themselves, their patches one more.
      const first = Math.max(0, top - 2 * REACH - STRIDE)
      const end = Math.min(height, top + rows + 2 * REACH + STRIDE)
      const crop = <T extends Float32Array | Uint8Array>(data: T, channels: number) =>
        data.slice(first * width * channels, end * width * channels) as T
      tasks.push({
        width,
        height: end - first,
        from: top - first,
        until: Math.min(height, top + rows) - first,
        color: crop(held, 3),
        features: crop(features, FEATURES),
        guide: crop(guide, 1),
        spread: crop(spread, 1),
        wanted: wanted && crop(wanted, 1),
      })
    }
    return tasks
  }) as [FitTask[], FitTask[]]
}

function join(parts: readonly Float32Array[], { width, height }: Level): Float32Array {
  const whole = new Float32Array(width * height * 3)
  let at = 0
  for (const part of parts) {
    whole.set(part, at)
    at += part.length
  }
  return whole
}

function halve({ halves, variance, width, height, wanted }: Level): Level {
  const [w, h] = [width >> 1, height >> 1]
  const reduce = (data: Float32Array, channels: number) => reduceByTwo(data, width, w, h, channels)
  return {
    halves: halves.map(({ color, features }) => ({ color: reduce(color, 3), features: reduce(features, FEATURES) })) as [
      Half,
      Half,
    ],
    variance: reduce(variance, 1).map(v => v / 4),
    width: w,
    height: h,
    wanted: wanted && Uint8Array.from({ length: w * h }, (_, p) => (isWhollyIn(wanted, width, p % w, Math.floor(p / w)) ? 1 : 0)),
  }
}

/**
 * Noise slower than a window survives it as clouds. The halves are filtered at half their size too, where a window reaches twice as far, and
 * what that says of the slow part of the picture replaces what the full size says (Delbracio et al. 2014, "Boosting Monte Carlo Rendering
 * by Ray Histogram Fusion", section 5).
 */
function mendSlowNoise(
  filtered: readonly [Float32Array, Float32Array],
  slow: readonly [Float32Array, Float32Array],
  { width, height, wanted }: Level,
  { width: w, height: h, wanted: smallWanted }: Level,
): void {
  for (const which of [0, 1] as const) {
    const difference = reduceByTwo(filtered[which], width, w, h, 3)
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

/** The colours, those of pixels that are alone in being so bright held back. */
function holdFireflies(color: Float32Array, own: Float32Array, other: Float32Array, width: number, height: number): Float32Array {
  const held = color.slice()
  for (let p = 0; p < own.length; p++) {
    if (own[p] <= other[p] * FIREFLY) continue
    const [x, y] = [p % width, Math.floor(p / width)]
    let brightest = 1e-6
    for (let j = Math.max(0, y - 1); j <= Math.min(height - 1, y + 1); j++)
      for (let i = Math.max(0, x - 1); i <= Math.min(width - 1, x + 1); i++) {
        const q = j * width + i
        brightest = Math.max(brightest, other[q], q === p ? 0 : own[q])
      }
    const factor = Math.min(1, (brightest * FIREFLY) / own[p])
    for (let k = 0; k < 3; k++) held[p * 3 + k] *= factor
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
