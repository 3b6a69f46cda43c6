import { fullScale, type Image } from '../image/image'
import { mean } from '../math/statistics'

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
  const { width, height, p, q, meanSquaredSlope } = slopesOf(image)
  if (meanSquaredSlope < FLAT_SLOPE || width < 4 || height < 4) return { handedness: 'unsure', curlRatio: 1, confidence: 0 }
  let asOpenGl = 0
  let asDirectX = 0
  for (let y = 0; y < height; y++) {
    const above = ((y + height - 1) % height) * width
    const below = ((y + 1) % height) * width
    for (let x = 0; x < width; x++) {
      const dpdy = p[above + x] - p[below + x]
      const dqdx = q[y * width + ((x + 1) % width)] - q[y * width + ((x + width - 1) % width)]
      asOpenGl += (dpdy - dqdx) ** 2
      asDirectX += (dpdy + dqdx) ** 2
    }
  }
  const curlRatio = asOpenGl > 0 ? asDirectX / asOpenGl : asDirectX > 0 ? 1e6 : 1
  const certainty = Math.abs(Math.log2(curlRatio))
  const confidence = Math.min(1, certainty / 1.5)
  // A fifth of a stop: below it noise or one-directional relief decides.
  if (certainty < 0.2) return { handedness: 'unsure', curlRatio, confidence }
  return { handedness: curlRatio > 1 ? 'openGl' : 'directX', curlRatio, confidence }
}

function slopesOf(image: Image) {
  const { width, height, channels, data } = image
  const scale = 2 / fullScale(data)
  const p = new Float32Array(width * height)
  const q = new Float32Array(width * height)
  let sum = 0
  for (let i = 0; i < p.length; i++) {
    const z = Math.max(data[i * channels + 2] * scale - 1, 0.05)
    p[i] = -(data[i * channels] * scale - 1) / z
    q[i] = -(data[i * channels + 1] * scale - 1) / z
    sum += p[i] * p[i] + q[i] * q[i]
  }
  return { width, height, p, q, meanSquaredSlope: p.length ? sum / p.length : 0 }
}

/** Root mean square of the slopes about their mean: eight bits have no exact zero, and a map may be tilted as a whole. */
function deviationOfSlopes(image: Image): number {
  const { p, q, meanSquaredSlope } = slopesOf(image)
  const [meanP, meanQ] = [mean(p), mean(q)]
  return Math.sqrt(Math.max(0, meanSquaredSlope - meanP * meanP - meanQ * meanQ))
}

/** Share of texels whose decoded length differs from 1 by more than 5 %, and the root mean square slope about the mean. */
export function measureNormalLengths(image: Image): { offLengthShare: number; rmsSlope: number } {
  const { channels, data, width, height } = image
  const scale = 2 / fullScale(data)
  const count = width * height
  let off = 0
  for (let i = 0; i < count; i++) {
    const length = Math.hypot(
      data[i * channels] * scale - 1,
      data[i * channels + 1] * scale - 1,
      data[i * channels + 2] * scale - 1,
    )
    if (Math.abs(length - 1) > 0.05) off++
  }
  return { offLengthShare: count ? off / count : 0, rmsSlope: deviationOfSlopes(image) }
}
