import { encodeSrgb, luminance } from '../color/srgb'
import { createFloatImage, type FloatImage } from '../image/image'
import { percentile } from '../math/statistics'
import type { Camera } from './camera'
import { denoise, type Features } from './denoise'
import type { EnvironmentLight } from './environment-light'
import { PathTracer } from './path-tracer'
import type { Scene } from './scene'

export interface RenderSettings {
  width: number
  height: number
  seed: number
  /** 95th percentile of a tile's standard error of display luminance, in 0..1, at which the tile is done. */
  noiseTarget: number
  /** Samples of a pixel at most. */
  maxSamples: number
  background: [number, number, number] | null
  /** Filters the noise out of the result; for drafts. */
  denoised: boolean
}

export interface RenderResult {
  /** Linear, scene-referred, exposure applied by the light. */
  image: FloatImage
  samples: number
  rays: number
  /** Worst tile's 95th percentile of the standard error of display luminance. */
  achievedError: number
  /** Share of tiles that reached the target before the sample cap. */
  convergedShare: number
}

const TILE = 32
const PASS = 8

/**
 * Renders tile by tile, each until its noise target or the sample cap. The result does not depend on tile order.
 * @param onTile called after each tile with the share done; returning false stops, and null is returned
 */
export function render(
  scene: Scene,
  environment: EnvironmentLight,
  camera: Camera,
  settings: RenderSettings,
  onTile: (doneShare: number) => boolean = () => true,
): RenderResult | null {
  const { width, height } = settings
  const tracer = new PathTracer(scene, environment, camera, settings.background, width, height, settings.seed)
  const image = createFloatImage(width, height, 3)
  const features: Features | null = settings.denoised
    ? {
        albedo: new Float32Array(width * height * 3),
        normal: new Float32Array(width * height * 3),
        depth: new Float32Array(width * height),
        variance: new Float32Array(width * height),
      }
    : null
  const columns = Math.ceil(width / TILE)
  const tileCount = columns * Math.ceil(height / TILE)
  let samples = 0
  let worst = 0
  let converged = 0
  for (let tile = 0; tile < tileCount; tile++) {
    const x0 = (tile % columns) * TILE
    const y0 = Math.floor(tile / columns) * TILE
    const done = renderTile(tracer, image, features, x0, y0, settings)
    samples += done.samples
    worst = Math.max(worst, done.error)
    if (done.error <= settings.noiseTarget) converged++
    if (!onTile((tile + 1) / tileCount)) return null
  }
  return {
    image: features ? denoise(image, features) : image,
    samples,
    rays: tracer.rays,
    achievedError: worst,
    convergedShare: converged / tileCount,
  }
}

function renderTile(
  tracer: PathTracer,
  dst: FloatImage,
  dstFeatures: Features | null,
  x0: number,
  y0: number,
  settings: RenderSettings,
) {
  const x1 = Math.min(x0 + TILE, dst.width)
  const y1 = Math.min(y0 + TILE, dst.height)
  const w = x1 - x0
  const pixels = w * (y1 - y0)
  const sums = new Float64Array(pixels * 3)
  const squares = new Float64Array(pixels)
  const errors = new Float64Array(pixels)
  let count = 0
  let error = Number.POSITIVE_INFINITY
  while (count < settings.maxSamples && !(error <= settings.noiseTarget && count >= PASS * 2)) {
    const until = Math.min(count + PASS, settings.maxSamples)
    for (let p = 0; p < pixels; p++) {
      const x = x0 + (p % w)
      const y = y0 + Math.floor(p / w)
      for (let s = count; s < until; s++) {
        tracer.trace(x, y, s)
        const { radiance, feature } = tracer
        if (dstFeatures) {
          const at = y * dst.width + x
          for (let k = 0; k < 3; k++) {
            dstFeatures.albedo[at * 3 + k] += feature[k]
            dstFeatures.normal[at * 3 + k] += feature[3 + k]
          }
          dstFeatures.depth[at] += feature[6]
        }
        sums[p * 3] += radiance[0]
        sums[p * 3 + 1] += radiance[1]
        sums[p * 3 + 2] += radiance[2]
        const l = Math.min(luminance(radiance[0], radiance[1], radiance[2]), 4)
        squares[p] += l * l
      }
    }
    count = until
    for (let p = 0; p < pixels; p++) errors[p] = displayError(sums, squares, p, count)
    error = percentile(errors, 0.95)
  }
  for (let p = 0; p < pixels; p++) {
    const at = ((y0 + Math.floor(p / w)) * dst.width + x0 + (p % w)) * 3
    for (let k = 0; k < 3; k++) dst.data[at + k] = sums[p * 3 + k] / count
    if (dstFeatures) finishFeatures(dstFeatures, at / 3, count, luminanceVariance(sums, squares, p, count))
  }
  return { samples: count * pixels, error }
}

/** Standard error of a pixel's luminance carried into display space by the slope of the transfer function. */
function displayError(sums: Float64Array, squares: Float64Array, p: number, count: number): number {
  const mean = luminance(sums[p * 3], sums[p * 3 + 1], sums[p * 3 + 2]) / count
  const standardError = Math.sqrt(luminanceVariance(sums, squares, p, count))
  const m = Math.min(mean, 1)
  // Highlights past display white cannot be seen to differ.
  return Math.min(encodeSrgb(Math.min(m + standardError, 1)) - encodeSrgb(m), 1)
}

/** Squared standard error of a pixel's mean luminance. */
function luminanceVariance(sums: Float64Array, squares: Float64Array, p: number, count: number): number {
  const mean = luminance(sums[p * 3], sums[p * 3 + 1], sums[p * 3 + 2]) / count
  return Math.max(0, squares[p] / count - mean * mean) / Math.max(1, count - 1)
}

/** Turns a pixel's sums into means, its normal into a unit one. */
function finishFeatures({ albedo, normal, depth, variance }: Features, p: number, count: number, squaredError: number): void {
  const l = Math.hypot(normal[p * 3], normal[p * 3 + 1], normal[p * 3 + 2])
  for (let k = 0; k < 3; k++) {
    albedo[p * 3 + k] /= count
    if (l > 0) normal[p * 3 + k] /= l
  }
  depth[p] /= count
  variance[p] = squaredError
}
