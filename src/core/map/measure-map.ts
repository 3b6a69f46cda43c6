import { fullScale, type Image } from '../image/image'

/** What a stand-alone map holds, as numbers; values are codes over their full scale, 0..1. */
export interface MapFigures {
  /** Whether every texel is a grey, however it is stored. */
  isGrey: boolean
  /** none: no such channel; unused: opaque everywhere, or all but; cutOut: something is seen through it. */
  alpha: 'none' | 'unused' | 'cutOut'
  /** Share of the area that is there, by its alpha. */
  coverShare: number
  /** Mean value of what is there: of colours the luma of their codes (ITU-R BT.709). */
  mean: number
  /** Values under which 0.5 % and 99.5 % of what is there lie. */
  low: number
  high: number
  /** Share of what is there within 6 % of either end. */
  extremeShare: number
  /** Shares of what is there in equal steps from 0 to 1. */
  histogram: number[]
}

export const HISTOGRAM_BINS = 32
/** Texels a side that are looked at. */
const LOOKED_AT = 1024
/** Codes of 8 bits by which the channels of a grey differ where it went through a lossy file. */
const GREY_SPREAD = 6
const MOST_TINTED = 0.005
const CLEAR = 0.98
/** A texel or two that is clear is an accident. */
const MOST_STRAY = 0.0005
const EXTREME = 0.06
const FINE_BINS = 1024

/** @throws RangeError for floats: what has no full scale has no share of it */
export function measureMap(image: Image): MapFigures {
  const { width, height, channels, data } = image
  if (data instanceof Float32Array) throw new RangeError('a map is measured in codes')
  const scale = 1 / fullScale(data)
  const isColor = channels >= 3
  const alphaAt = channels === 2 || channels === 4 ? channels - 1 : -1
  const stepOf = (size: number) => Math.max(1, Math.floor(size / LOOKED_AT))
  const [stepX, stepY] = [stepOf(width), stepOf(height)]
  const fine = new Float64Array(FINE_BINS)
  let [count, there, sum, tinted, clear] = [0, 0, 0, 0, 0]
  for (let y = 0; y < height; y += stepY)
    for (let x = 0; x < width; x += stepX, count++) {
      const p = (y * width + x) * channels
      const alpha = alphaAt < 0 ? 1 : data[p + alphaAt] * scale
      if (alpha < CLEAR) clear++
      if (alpha === 0) continue
      there += alpha
      let value = data[p] * scale
      if (isColor) {
        const [r, g, b] = [data[p], data[p + 1], data[p + 2]]
        if ((Math.max(r, g, b) - Math.min(r, g, b)) * scale * 255 > GREY_SPREAD) tinted++
        value = (0.2126 * r + 0.7152 * g + 0.0722 * b) * scale
      }
      sum += alpha * value
      fine[Math.min(FINE_BINS - 1, Math.floor(value * FINE_BINS))] += alpha
    }
  const all = Math.max(there, 1e-9)
  const shareWithin = (from: number, to: number) => {
    let share = 0
    for (let k = Math.floor(from * FINE_BINS); k < Math.min(FINE_BINS, Math.ceil(to * FINE_BINS)); k++) share += fine[k]
    return share / all
  }
  return {
    isGrey: tinted / Math.max(count, 1) <= MOST_TINTED,
    alpha: alphaAt < 0 ? 'none' : clear > MOST_STRAY * count ? 'cutOut' : 'unused',
    coverShare: there / Math.max(count, 1),
    mean: sum / all,
    low: valueAt(fine, all * 0.005),
    high: valueAt(fine, all * 0.995),
    extremeShare: shareWithin(0, EXTREME) + shareWithin(1 - EXTREME, 1),
    histogram: Array.from({ length: HISTOGRAM_BINS }, (_, k) => shareWithin(k / HISTOGRAM_BINS, (k + 1) / HISTOGRAM_BINS)),
  }
}

/** The value below which so much of a histogram lies. */
function valueAt(fine: Float64Array, wanted: number): number {
  let sum = 0
  for (let k = 0; k < fine.length; k++) {
    sum += fine[k]
    if (sum >= wanted) return k / (fine.length - 1)
  }
  return 1
}
