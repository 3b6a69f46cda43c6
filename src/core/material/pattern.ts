import { toLightness } from '../color/lightness'
import { luminance, SRGB_TO_LINEAR } from '../color/srgb'
import type { ByteImage } from '../image/image'
import { fourierOfRealSquare } from '../math/fourier'

/** What a surface does across its picture, in shares of the picture's width: nothing of it depends on the real size. */
export interface Pattern {
  /** Standard deviation of L*. */
  contrast: number
  /** Share of that variance in waves of 1 to 1/2 the width, 1/2 to 1/4, and so on: eight octaves. */
  octaves: number[]
  /** Distance after which it looks like itself again, as a share of the width; 0 where it does not. */
  period: number
  /** How much like itself, 0..1. */
  periodStrength: number
  /** Of the gradients: 0 in every direction alike, 1 in one alone. */
  coherence: number
  /** Along which it runs, degrees in 0..180 from the horizontal, anticlockwise; no meaning where it runs nowhere. */
  directionDeg: number
}

const SIDE = 256
export const OCTAVES = 8
/** Samples a side that one cell is the mean of: more change nothing. */
const MOST_IN_CELL = 3
/** A pattern that repeats less well than this does not. */
const LEAST_STRENGTH = 0.15
/** By so much autocorrelation is less half way to a period. */
const LEAST_FALL = 0.1
/** Under this standard deviation of L* there is nothing to see. */
const FLAT_CONTRAST = 0.15

/**
 * Of a display-encoded colour picture, as if it tiled. Energy of lightness by wavelength, dominant period from the autocorrelation
 * (Wiener and Khinchin: the transform of the power), direction and coherence from the structure tensor (Bigün & Granlund 1987).
 */
export function measurePattern(image: ByteImage): Pattern {
  const cells = lightnessCells(image)
  const mean = cells.reduce((sum, l) => sum + l, 0) / cells.length
  const real = cells.map(l => l - mean)
  const variance = real.reduce((sum, l) => sum + l * l, 0) / real.length
  const contrast = Math.sqrt(variance)
  const tensor = structureTensor(cells, image.height / image.width)
  if (contrast < FLAT_CONTRAST)
    return { contrast, octaves: new Array(OCTAVES).fill(0), period: 0, periodStrength: 0, coherence: 0, directionDeg: 0 }
  const spectrum = fourierOfRealSquare(real, SIDE)
  const power = spectrum.real.map((re, i) => re * re + spectrum.imaginary[i] * spectrum.imaginary[i])
  const aspect = image.height / image.width
  const octaves = sumOctaves(power, aspect)
  return { contrast, octaves, ...findPeriod(power, aspect), ...tensor }
}

/** What each code of a channel gives to the luminance. */
const RED = Float64Array.from(SRGB_TO_LINEAR, r => luminance(r, 0, 0))
const GREEN = Float64Array.from(SRGB_TO_LINEAR, g => luminance(0, g, 0))
const BLUE = Float64Array.from(SRGB_TO_LINEAR, b => luminance(0, 0, b))

/** Mean L* of each cell of a 256 x 256 grid. */
function lightnessCells({ width, height, channels, data }: ByteImage): Float64Array {
  const sums = new Float64Array(SIDE * SIDE)
  const [green, blue] = channels < 3 ? [0, 0] : [1, 2]
  const [columns, rows] = [sampledPlaces(width), sampledPlaces(height)]
  const [nx, ny] = [columns.length / SIDE, rows.length / SIDE]
  for (let y = 0; y < rows.length; y++) {
    const cellsOfRow = Math.floor(y / ny) * SIDE
    const row = rows[y] * width
    for (let cell = 0, x = 0; cell < SIDE; cell++) {
      let sum = 0
      for (let k = 0; k < nx; k++, x++) {
        const p = (row + columns[x]) * channels
        sum += RED[data[p]] + GREEN[data[p + green]] + BLUE[data[p + blue]]
      }
      sums[cellsOfRow + cell] += sum
    }
  }
  return sums.map(sum => toLightness(sum / (nx * ny)))
}

/** Along one side of a picture: the texels that are looked at, as many for each cell. */
function sampledPlaces(size: number): Int32Array {
  const inCell = Math.max(1, Math.min(MOST_IN_CELL, Math.floor(size / SIDE)))
  return Int32Array.from({ length: SIDE * inCell }, (_, k) =>
    Math.min(size - 1, Math.floor(((k + 0.5) * size) / (inCell * SIDE))),
  )
}

/** Signed frequency of a place in a transform, in cycles. */
const cyclesOf = (place: number): number => (place < SIDE / 2 ? place : place - SIDE)
/** Frequencies downwards of half a spectrum: 0 to one half of the side. */
const DOWN = SIDE / 2 + 1

/** @param power for each frequency across those downwards, as a transform of real numbers has it */
function sumOctaves(power: Float64Array, aspect: number): number[] {
  const octaves = new Array<number>(OCTAVES).fill(0)
  let all = 0
  for (let i = 0; i < SIDE; i++)
    for (let j = 0; j < DOWN; j++) {
      if (i === 0 && j === 0) continue
      const squared = cyclesOf(i) ** 2 + (j / aspect) ** 2
      // What is left out is the same again.
      const energy = power[i * DOWN + j] * (j === 0 || j === DOWN - 1 ? 1 : 2)
      octaves[Math.min(OCTAVES - 1, Math.max(0, Math.floor(Math.log2(squared) / 2)))] += energy
      all += energy
    }
  return octaves.map(energy => (all > 0 ? energy / all : 0))
}

/** The nearest shift after which most of it is back, where autocorrelation has a peak of its own. */
function findPeriod(power: Float64Array, aspect: number): Pick<Pattern, 'period' | 'periodStrength'> {
  const likeness = autocorrelate(power)
  const at = (i: number, j: number) => likeness[(j & (SIDE - 1)) * SIDE + (i & (SIDE - 1))]
  const peaks: Pick<Pattern, 'period' | 'periodStrength'>[] = []
  // Half of the square says all: the other half is its mirror image.
  for (let j = 0; j <= SIDE / 2; j++)
    for (let i = -SIDE / 2; i <= SIDE / 2; i++) {
      const here = at(i, j)
      if (here <= LEAST_STRENGTH) continue
      const length = Math.hypot(i, j * aspect)
      if (length < 4 || length > SIDE / 2) continue
      // Along a stripe everything is like everything: half way to a period it is something else.
      if (here - at(Math.round(i / 2), Math.round(j / 2)) < LEAST_FALL) continue
      let isPeak = true
      for (let y = -2; y <= 2 && isPeak; y++) for (let x = -2; x <= 2; x++) if (at(i + x, j + y) > here + 1e-9) isPeak = false
      if (!isPeak) continue
      peaks.push({ period: length / SIDE, periodStrength: here })
    }
  // Of multiples of a period the first counts.
  const strongest = Math.max(...peaks.map(p => p.periodStrength))
  const [first] = peaks.filter(p => p.periodStrength > strongest - 0.1).sort((a, b) => a.period - b.period)
  return first ?? { period: 0, periodStrength: 0 }
}

/** How much like itself after each shift, 1 after none. The transform of an even square of real numbers is one as well. */
function autocorrelate(power: Float64Array): Float64Array {
  const whole = new Float64Array(SIDE * SIDE)
  for (let j = 0; j < SIDE; j++)
    for (let i = 0; i < SIDE; i++)
      whole[j * SIDE + i] = j < DOWN ? power[i * DOWN + j] : power[((SIDE - i) % SIDE) * DOWN + SIDE - j]
  const { real } = fourierOfRealSquare(whole, SIDE)
  for (let j = 0; j < SIDE; j++)
    for (let i = 0; i < SIDE; i++)
      whole[j * SIDE + i] = (j < DOWN ? real[i * DOWN + j] : real[((SIDE - i) % SIDE) * DOWN + SIDE - j]) / real[0]
  return whole
}

function structureTensor(cells: Float64Array, aspect: number): Pick<Pattern, 'coherence' | 'directionDeg'> {
  let [xx, yy, xy] = [0, 0, 0]
  for (let j = 0; j < SIDE; j++)
    for (let i = 0; i < SIDE; i++) {
      const gx = cells[j * SIDE + ((i + 1) % SIDE)] - cells[j * SIDE + ((i + SIDE - 1) % SIDE)]
      const gy = (cells[((j + 1) % SIDE) * SIDE + i] - cells[((j + SIDE - 1) % SIDE) * SIDE + i]) / aspect
      xx += gx * gx
      yy += gy * gy
      xy += gx * gy
    }
  const trace = xx + yy
  if (trace === 0) return { coherence: 0, directionDeg: 0 }
  const coherence = Math.sqrt((xx - yy) ** 2 + 4 * xy * xy) / trace
  // Gradients stand across what they bound; rows run downwards.
  const across = 0.5 * Math.atan2(2 * xy, xx - yy)
  return { coherence, directionDeg: (((90 - (across * 180) / Math.PI) % 180) + 180) % 180 }
}
