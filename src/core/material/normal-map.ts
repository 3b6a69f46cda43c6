import { fullScale, type Image } from '../image/image'

export interface HandednessVerdict {
  handedness: 'openGl' | 'directX' | 'unsure'
  /** Mean squared curl read the other way up over that read as found; far from 1 either way is certain. */
  curlRatio: number
  /** 0..1 */
  confidence: number
}

/** Below this mean squared slope a map is flat and its handedness cannot be told, nor matters. */
const FLAT_SLOPE = 1e-5

/**
 * Which way a normal map's green channel points. For a surface z(x, y) with y up, the slopes p = −nx/nz and
 * q = −ny/nz satisfy ∂p/∂y = ∂q/∂x. Flipping green changes the sign of q, so the sign with the smaller mean squared
 * curl is the true one. Derivatives wrap: maps tile. Rows run downwards, hence the sign of the y derivative.
 */
export function findNormalHandedness(image: Image): HandednessVerdict {
  const { width, height } = image
  const slopes = createSlopeReader(image)
  if (width < 4 || height < 4) return { handedness: 'unsure', curlRatio: 1, confidence: 0 }
  const [stepX, stepY] = sampleSteps(image)
  let asOpenGl = 0
  let asDirectX = 0
  let squaredSlope = 0
  let count = 0
  for (let y = 0; y < height; y += stepY) {
    const above = ((y + height - 1) % height) * width
    const below = ((y + 1) % height) * width
    for (let x = 0; x < width; x += stepX) {
      const dpdy = slopes.p(above + x) - slopes.p(below + x)
      const dqdx = slopes.q(y * width + ((x + 1) % width)) - slopes.q(y * width + ((x + width - 1) % width))
      asOpenGl += (dpdy - dqdx) ** 2
      asDirectX += (dpdy + dqdx) ** 2
      squaredSlope += slopes.p(y * width + x) ** 2 + slopes.q(y * width + x) ** 2
      count++
    }
  }
  if (squaredSlope / count < FLAT_SLOPE) return { handedness: 'unsure', curlRatio: 1, confidence: 0 }
  const curlRatio = asOpenGl > 0 ? asDirectX / asOpenGl : asDirectX > 0 ? 1e6 : 1
  const certainty = Math.abs(Math.log2(curlRatio))
  const confidence = Math.min(1, certainty / 1.5)
  // A fifth of a stop: below it noise or one-directional relief decides.
  if (certainty < 0.2) return { handedness: 'unsure', curlRatio, confidence }
  return { handedness: curlRatio > 1 ? 'openGl' : 'directX', curlRatio, confidence }
}

/** Some ten thousand texels, evenly spread, say of a map what all of them do; an odd step meets every phase of a weave. */
const SAMPLES_A_SIDE = 200

const sampleSteps = ({ width, height }: Image): [number, number] => [
  Math.ceil(width / SAMPLES_A_SIDE) | 1,
  Math.ceil(height / SAMPLES_A_SIDE) | 1,
]

/** Slopes p = −nx/nz and q = −ny/nz of a texel. */
function createSlopeReader({ channels, data }: Image) {
  const scale = 2 / fullScale(data)
  const depth = (i: number) => Math.max(data[i * channels + 2] * scale - 1, 0.05)
  return {
    p: (i: number) => (1 - data[i * channels] * scale) / depth(i),
    q: (i: number) => (1 - data[i * channels + 1] * scale) / depth(i),
  }
}

/**
 * Share of texels whose decoded length differs from 1 by more than 5 %, and the root mean square of the slopes about their mean: eight
 * bits have no exact zero, and a map may be tilted as a whole.
 */
export function measureNormalLengths(image: Image): { offLengthShare: number; rmsSlope: number } {
  const { channels, data, width, height } = image
  const scale = 2 / fullScale(data)
  const slopes = createSlopeReader(image)
  const [stepX, stepY] = sampleSteps(image)
  let off = 0
  let [sumP, sumQ, squares, count] = [0, 0, 0, 0]
  for (let y = 0; y < height; y += stepY)
    for (let x = 0; x < width; x += stepX) {
      const i = y * width + x
      const nx = data[i * channels] * scale - 1
      const ny = data[i * channels + 1] * scale - 1
      const nz = data[i * channels + 2] * scale - 1
      if (Math.abs(Math.sqrt(nx * nx + ny * ny + nz * nz) - 1) > 0.05) off++
      const [p, q] = [slopes.p(i), slopes.q(i)]
      sumP += p
      sumQ += q
      squares += p * p + q * q
      count++
    }
  if (count === 0) return { offLengthShare: 0, rmsSlope: 0 }
  const variance = squares / count - (sumP / count) ** 2 - (sumQ / count) ** 2
  return { offLengthShare: off / count, rmsSlope: Math.sqrt(Math.max(0, variance)) }
}
