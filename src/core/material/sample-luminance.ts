import { luminance, SRGB_TO_LINEAR } from '../color/srgb'
import { fullScale, type Image } from '../image/image'

/** Samples a side: a multiple of every grid that a check lays over a map. */
export const SAMPLES_A_SIDE = 192

const known = new WeakMap<Image, Float32Array>()

/**
 * Linear luminance (0..1) of a display-encoded picture at 192 x 192 evenly spread texels, in rows; of a smaller picture some are read
 * more than once. Several checks ask for the same ones, so they are kept as long as the picture is.
 */
export function sampleLuminance(image: Image): Float32Array {
  const found = known.get(image)
  if (found) return found
  const { width, height, channels, data } = image
  const scale = 255 / fullScale(data)
  const [green, blue] = channels < 3 ? [0, 0] : [1, 2]
  const linear = (index: number): number => SRGB_TO_LINEAR[Math.round(data[index] * scale)]
  const values = new Float32Array(SAMPLES_A_SIDE * SAMPLES_A_SIDE)
  const texelOf = (sample: number, size: number) => Math.floor(((sample + 0.5) * size) / SAMPLES_A_SIDE)
  for (let j = 0, at = 0; j < SAMPLES_A_SIDE; j++) {
    const row = texelOf(j, height) * width
    for (let i = 0; i < SAMPLES_A_SIDE; i++, at++) {
      const p = (row + texelOf(i, width)) * channels
      values[at] = luminance(linear(p), linear(p + green), linear(p + blue))
    }
  }
  known.set(image, values)
  return values
}

/** Means of samples over the cells of a grid, in rows. */
export function meansOfCells(samples: Float32Array, grid: number): Float64Array {
  const means = new Float64Array(grid * grid)
  const side = SAMPLES_A_SIDE / grid
  for (let j = 0, at = 0; j < SAMPLES_A_SIDE; j++) {
    const row = Math.floor(j / side) * grid
    for (let i = 0; i < SAMPLES_A_SIDE; i++, at++) means[row + Math.floor(i / side)] += samples[at]
  }
  for (let cell = 0; cell < means.length; cell++) means[cell] /= side * side
  return means
}
