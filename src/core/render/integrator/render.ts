import { encodeSrgb, luminance } from '../../color/srgb'
import { createFloatImage, type FloatImage } from '../../image/image'
import { percentile } from '../../math/statistics'
import type { Camera } from '../film/camera'
import { denoise, type Features } from '../film/denoise'
import type { EnvironmentLight } from '../lights/environment-light'
import type { Scene } from '../scene/scene'
import { createTracer, type Tracer } from './kernel-tracer'

export interface RenderSettings {
  width: number
  height: number
  seed: number
  /** Standard error of display luminance, 0..1, root mean square over a tile, at which the tile is done. */
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
  /** 95th percentile over the tiles of a tile's standard error of display luminance. */
  achievedError: number
  /** Share of tiles that reached the target before the sample cap. */
  convergedShare: number
  /** Share of all light that was taken off fireflies. */
  fireflyShare: number
}

/** Everything one tile knows; survives structured cloning, so that threads can hand tiles over. */
export interface Tile {
  x0: number
  y0: number
  width: number
  height: number
  /** Samples of each pixel so far. */
  count: number
  done: boolean
  /** Standard error of display luminance, root mean square; infinite before it can be told. */
  error: number
  /** Sums over samples: 3 a pixel; and of squared luminance. */
  sums: Float64Array
  squares: Float64Array
  /** Sum over finished blocks of the squared mean luminance of a block; and luminance of the block under way. */
  blockSquares: Float64Array
  block: Float64Array
  /** Sums of base colour (3), normal (3) and depth of what the camera met; null when nobody filters. */
  features: Float64Array | null
}

const TILE = 32
/** Samples in a block, whose means tell the error: within a block samples are spread evenly and their own variance says too much. */
const BLOCK = 4
/** Samples of a pass; the first ones are small so that a picture shows soon. */
const FIRST_PASSES = [1, 1, 2, 4]
const PASS = 8
const FEATURES = 7

/**
 * A rendering under way: passes over all tiles in turn, each tile until its noise target or the sample cap.
 * A sample depends on seed, pixel and index alone, so the result is the same for any order and any division into parts.
 */
export class Rendering {
  readonly tiles: Tile[]
  private readonly tracer: Tracer
  private next = 0

  /** @param part this one takes every `count`th tile from `index` on; `kept` are tiles from an earlier run to go on with */
  constructor(
    scene: Scene,
    environment: EnvironmentLight,
    camera: Camera,
    readonly settings: RenderSettings,
    part: { index: number; count: number } = { index: 0, count: 1 },
    kept: readonly Tile[] | null = null,
  ) {
    const { width, height, seed, background } = settings
    this.tracer = createTracer(scene, environment, camera, { background, width, height, seed })
    this.tiles = kept ? [...kept] : planTiles(settings).filter((_, i) => i % part.count === part.index)
  }

  /** Share of the work done: samples taken over those that are expected, by how the error of each tile has fallen so far. */
  get doneShare(): number {
    const { noiseTarget, maxSamples } = this.settings
    let [taken, expected] = [0, 0]
    for (const { done, count, error, width, height } of this.tiles) {
      // Four times the samples halve the error.
      const needed = Number.isFinite(error) && noiseTarget > 0 ? Math.ceil(count * (error / noiseTarget) ** 2) : maxSamples
      const whole = done ? count : Math.min(maxSamples, Math.max(count + 1, needed))
      taken += count * width * height
      expected += whole * width * height
    }
    return expected > 0 ? taken / expected : 1
  }

  /** Largest error of a tile so far, of display luminance 0..1; null while there is a tile of which it cannot be told. */
  get error(): number | null {
    const worst = this.tiles.reduce((most, t) => Math.max(most, t.error), 0)
    return Number.isFinite(worst) ? worst : null
  }

  get rays(): number {
    return this.tracer.rays
  }

  /** Light taken off fireflies, and all light, as sums of sample luminance. */
  get clamped(): { taken: number; whole: number } {
    return { taken: this.tracer.clampedLuminance, whole: this.tiles.reduce((s, t) => s + sumOfLuminance(t), 0) }
  }

  /** One pass of the next tile that is not done; false when there is none. */
  step(): boolean {
    const { tiles } = this
    for (let tried = 0; tried < tiles.length; tried++) {
      const tile = tiles[this.next]
      this.next = (this.next + 1) % tiles.length
      if (tile.done) continue
      tracePass(this.tracer, tile, this.settings)
      return true
    }
    return false
  }
}

/** The tiles of a picture, row by row, nothing traced yet. */
export function planTiles({ width, height, denoised }: RenderSettings): Tile[] {
  const tiles: Tile[] = []
  for (let y0 = 0; y0 < height; y0 += TILE)
    for (let x0 = 0; x0 < width; x0 += TILE) {
      const w = Math.min(TILE, width - x0)
      const h = Math.min(TILE, height - y0)
      tiles.push({
        x0,
        y0,
        width: w,
        height: h,
        count: 0,
        done: false,
        error: Number.POSITIVE_INFINITY,
        sums: new Float64Array(w * h * 3),
        squares: new Float64Array(w * h),
        blockSquares: new Float64Array(w * h),
        block: new Float64Array(w * h),
        features: denoised ? new Float64Array(w * h * FEATURES) : null,
      })
    }
  return tiles
}

/**
 * Renders on this thread.
 * @param onPass called after each pass of a tile with the share done; returning false stops, and null is returned
 */
export function render(
  scene: Scene,
  environment: EnvironmentLight,
  camera: Camera,
  settings: RenderSettings,
  onPass: (doneShare: number) => boolean = () => true,
): RenderResult | null {
  const rendering = new Rendering(scene, environment, camera, settings)
  while (rendering.step()) if (!onPass(rendering.doneShare)) return null
  return finishRendering(rendering.tiles, settings, rendering.rays, rendering.clamped)
}

/** Puts the tiles of all parts together, and filters them if the settings say so. */
export function finishRendering(
  tiles: readonly Tile[],
  settings: RenderSettings,
  rays: number,
  clamped: { taken: number; whole: number },
): RenderResult {
  const image = assembleTiles(tiles, settings)
  const converged = tiles.filter(t => t.error <= settings.noiseTarget).length
  return {
    image: settings.denoised ? denoise(image, assembleFeatures(tiles, settings)) : image,
    samples: tiles.reduce((sum, t) => sum + t.count * t.width * t.height, 0),
    rays,
    achievedError:
      tiles.length > 0
        ? percentile(
            tiles.map(t => t.error),
            0.95,
          )
        : 0,
    convergedShare: tiles.length > 0 ? converged / tiles.length : 1,
    fireflyShare: clamped.whole > 0 ? clamped.taken / (clamped.taken + clamped.whole) : 0,
  }
}

/** The picture as far as it has come; black where nothing was traced. */
export function assembleTiles(tiles: readonly Tile[], { width, height }: { width: number; height: number }): FloatImage {
  const image = createFloatImage(width, height, 3)
  for (const tile of tiles) {
    if (tile.count === 0) continue
    for (let p = 0; p < tile.width * tile.height; p++) {
      const at = pixelOf(tile, p, width) * 3
      for (let k = 0; k < 3; k++) image.data[at + k] = tile.sums[p * 3 + k] / tile.count
    }
  }
  return image
}

const pixelOf = (tile: Tile, p: number, width: number): number =>
  (tile.y0 + Math.floor(p / tile.width)) * width + tile.x0 + (p % tile.width)

function tracePass(tracer: Tracer, tile: Tile, settings: RenderSettings): void {
  const first = FIRST_PASSES.reduce((a, b) => a + b)
  const size = tile.count < first ? passAfter(tile.count) : PASS
  const until = Math.min(tile.count + size, settings.maxSamples)
  const pixels = tile.width * tile.height
  const { sums, squares, block, features } = tile
  for (let p = 0; p < pixels; p++) {
    const x = tile.x0 + (p % tile.width)
    const y = tile.y0 + Math.floor(p / tile.width)
    tracer.tracePixel(x, y, tile.count, until, block[p])
    const { radiance, feature, ...luminances } = tracer.sums
    for (let k = 0; k < 3; k++) sums[p * 3 + k] += radiance[k]
    if (features) for (let k = 0; k < FEATURES; k++) features[p * FEATURES + k] += feature[k]
    squares[p] += luminances.squares
    tile.blockSquares[p] += luminances.blockSquares
    block[p] = luminances.block
  }
  tile.count = until
  if (tile.count >= BLOCK * 2) tile.error = measureError(tile)
  tile.done = tile.count >= settings.maxSamples || tile.error <= settings.noiseTarget
}

function passAfter(count: number): number {
  let sum = 0
  for (const size of FIRST_PASSES) {
    sum += size
    if (count < sum) return sum - count
  }
  return PASS
}

/** Root mean square over the tile of the standard error of display luminance. */
function measureError(tile: Tile): number {
  const { width, height, sums, count } = tile
  const blocks = Math.floor(count / BLOCK)
  const pixels = width * height
  const variance = new Float64Array(pixels)
  for (let p = 0; p < pixels; p++) {
    const mean = Math.min(luminance(sums[p * 3], sums[p * 3 + 1], sums[p * 3 + 2]) / count, 4)
    variance[p] = Math.max(0, tile.blockSquares[p] / blocks - mean * mean) / (blocks - 1)
  }
  let squared = 0
  for (let p = 0; p < pixels; p++) {
    const mean = Math.min(1, luminance(sums[p * 3], sums[p * 3 + 1], sums[p * 3 + 2]) / count)
    // Into display space by the transfer function; what lies past display white cannot be seen to differ.
    squared += (encodeSrgb(Math.min(1, mean + Math.sqrt(variance[p]))) - encodeSrgb(mean)) ** 2
  }
  return Math.sqrt(squared / pixels)
}

function sumOfLuminance({ sums }: Tile): number {
  let sum = 0
  for (let i = 0; i < sums.length; i += 3) sum += luminance(sums[i], sums[i + 1], sums[i + 2])
  return sum
}

/** Means of what the camera met, with unit normals, and the squared standard error of luminance. */
function assembleFeatures(tiles: readonly Tile[], { width, height }: RenderSettings): Features {
  const albedo = new Float32Array(width * height * 3)
  const normal = new Float32Array(width * height * 3)
  const depth = new Float32Array(width * height)
  const variance = new Float32Array(width * height)
  for (const tile of tiles) {
    const { features, count, sums, squares } = tile
    if (!features) continue
    for (let p = 0; p < tile.width * tile.height; p++) {
      const at = pixelOf(tile, p, width)
      const f = p * FEATURES
      const l = Math.hypot(features[f + 3], features[f + 4], features[f + 5]) || 1
      for (let k = 0; k < 3; k++) {
        albedo[at * 3 + k] = features[f + k] / count
        normal[at * 3 + k] = features[f + 3 + k] / l
      }
      depth[at] = features[f + 6] / count
      const mean = luminance(sums[p * 3], sums[p * 3 + 1], sums[p * 3 + 2]) / count
      variance[at] = Math.max(0, squares[p] / count - mean * mean) / Math.max(1, count - 1)
    }
  }
  return { albedo, normal, depth, variance }
}
