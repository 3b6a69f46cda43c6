import { luminance } from '../../color/srgb'
import { createFloatImage, type FloatImage } from '../../image/image'
import { percentile } from '../../math/statistics'
import type { Camera } from '../film/camera'
import { type Judging, judgeTiles, prepareJudging } from '../film/judge-tiles'
import { measureNoise, planTiles, type Tile, tileMeans } from '../film/tile'
import { learnLightGuide } from '../guide/light-guide'
import type { Backdrop, EnvironmentLight } from '../lights/environment-light'
import type { Scene } from '../scene/scene'
import { createTracer, KernelTracer, type Tracer, type TracerCopy } from './kernel-tracer'
import { addHalf, type Pass, passOf, type TracedPass } from './pass'

export interface RenderSettings {
  width: number
  height: number
  seed: number
  /** Error of display luminance, 0..1, root mean square over a tile, at which the tile is done. */
  noiseTarget: number
  /** Samples of a pixel at most. */
  maxSamples: number
  background: Backdrop | null
  /** Filters the noise out of the result, and judges a tile by the error that the filter leaves. */
  denoised: boolean
  /** Light from all around is drawn from where it comes in, which is learnt first: for rooms. */
  guided?: boolean
  /** Samples after which it is judged, and filtered, for the first time: fewer where somebody waits for it. */
  firstGoal?: number
}

export interface RenderResult {
  /** Linear, scene-referred, exposure applied by the light. */
  image: FloatImage
  samples: number
  rays: number
  /** 95th percentile over the tiles of a tile's error of display luminance, as estimated from the two halves of its samples. */
  achievedError: number
  /** Share of tiles that reached the target before the sample cap. */
  convergedShare: number
  /** Share of all light that was taken off fireflies. */
  fireflyShare: number
}

/** Halves of fewer samples than that say nothing certain of their difference. */
const LEAST_SAMPLES = 8

/**
 * A rendering under way: passes over all tiles in turn, each tile until its error is small enough or the sample cap is reached.
 * A sample depends on seed, pixel, half and index alone, so the result is the same for any order and any division into parts.
 *
 * Where the result is filtered, a tile is judged together with those about it: tiles are traced up to their goals, then all are judged,
 * which gives the unfinished ones new goals. A part of several stops at the goals, and {@link judgeTiles} is for who has all the parts.
 */
export class Rendering {
  readonly tiles: Tile[]
  private tracer: Tracer
  /** Made when the first pass begins: a first look does not wait for it. */
  private guideTracer: (() => Tracer | null) | null
  private judgesItself: boolean
  private next = 0
  private readonly underWay = new Set<Tile>()
  private readonly elsewhere = { rays: 0, clampedLuminance: 0 }

  /**
   * @param part this one takes every `count`th tile from `index` on
   * @param kept tiles from an earlier run to go on with
   * @param judgesItself false: it stops at the tiles' goals even where it has all of them
   */
  constructor(
    scene: Scene,
    environment: EnvironmentLight,
    camera: Camera,
    readonly settings: RenderSettings,
    part: { index: number; count: number } = { index: 0, count: 1 },
    kept: readonly Tile[] | null = null,
    { judgesItself = part.count === 1 }: { judgesItself?: boolean } = {},
  ) {
    const { width, height, seed, background } = settings
    const view = { background, width, height, seed }
    this.tracer = createTracer(scene, environment, camera, view)
    this.guideTracer = settings.guided
      ? () => {
          const guide = learnLightGuide(scene, environment, camera)
          return guide && createTracer(scene, environment, camera, { ...view, guide })
        }
      : null
    this.tiles = kept ? [...kept] : planTiles(settings).filter((_, i) => i % part.count === part.index)
    this.judgesItself = judgesItself
  }

  /** Share of the work done. */
  get doneShare(): number {
    const { taken, expected } = this.work
    return expected > 0 ? taken / expected : 1
  }

  /** Samples of all pixels: those taken, and those that are expected in all by how the error of each tile has fallen so far. */
  get work(): { taken: number; expected: number } {
    const { noiseTarget, maxSamples } = this.settings
    let [taken, expected] = [0, 0]
    for (const { done, count, error, width, height } of this.tiles) {
      // Four times the samples halve the error.
      const needed = Number.isFinite(error) && noiseTarget > 0 ? Math.ceil(count * (error / noiseTarget) ** 2) : maxSamples
      const whole = done ? count : Math.min(maxSamples, Math.max(count + 1, needed))
      taken += count * width * height
      expected += whole * width * height
    }
    return { taken, expected }
  }

  /** Largest error of a tile so far, of display luminance 0..1; null while there is a tile of which it cannot be told. */
  get error(): number | null {
    const worst = this.tiles.reduce((most, t) => Math.max(most, t.error), 0)
    return Number.isFinite(worst) ? worst : null
  }

  get rays(): number {
    return this.tracer.rays + this.elsewhere.rays
  }

  /** Light taken off fireflies, and all light, as sums of sample luminance. */
  get clamped(): { taken: number; whole: number } {
    return {
      taken: this.tracer.clampedLuminance + this.elsewhere.clampedLuminance,
      whole: this.tiles.reduce((s, t) => s + sumOfLuminance(t), 0),
    }
  }

  /**
   * A first look, before any pass: one sample for each block of so many pixels, which counts for nothing afterwards.
   * @returns linear RGB of each tile, 3 a pixel, in the order of `tiles`
   */
  sketch(block: number): Float32Array<ArrayBuffer>[] {
    const { tracer } = this
    return this.tiles.map(({ x0, y0, width, height }) => {
      const data = new Float32Array(width * height * 3)
      for (let y = 0; y < height; y += block)
        for (let x = 0; x < width; x += block) {
          tracer.tracePixel(x0 + Math.min(width - 1, x + (block >> 1)), y0 + Math.min(height - 1, y + (block >> 1)), 0, 1)
          const [r, g, b] = tracer.sums.radiance
          // Number by number: `set` takes longer for three than the sample took.
          for (let j = y; j < Math.min(height, y + block); j++)
            for (let at = (j * width + x) * 3, end = (j * width + Math.min(width, x + block)) * 3; at < end; at += 3) {
              data[at] = r
              data[at + 1] = g
              data[at + 2] = b
            }
        }
      return data
    })
  }

  /** One pass of the next tile that is not done; false when there is none. */
  step(): boolean {
    const pass = this.takePass()
    if (!pass) return false
    this.trace(pass)
    return true
  }

  /** The next pass that nobody has taken on; null when there is none, or none before those under way are ended. */
  takePass(): Pass | null {
    const { tiles, settings, underWay } = this
    for (let tried = 0; tried < tiles.length; tried++) {
      const tile = tiles[this.next]
      this.next = (this.next + 1) % tiles.length
      if (tile.done || tile.count >= tile.goal || underWay.has(tile)) continue
      underWay.add(tile)
      return passOf(tile)
    }
    // Tiles that somebody else brought to their goals are still to be judged.
    if (!settings.denoised || !this.judgesItself || underWay.size > 0 || tiles.every(t => t.done)) return null
    this.judgeAtGoals()
    return this.takePass()
  }

  /** From now on whoever traces it judges it: see {@link takeJudging}. */
  leaveJudging(): void {
    this.judgesItself = false
  }

  /** What there is to judge before it can go on; null while passes are under way, and when it is done. */
  takeJudging(): Judging | null {
    const { tiles, settings, underWay } = this
    if (!settings.denoised || underWay.size > 0 || tiles.every(t => t.done)) return null
    return tiles.every(t => t.done || t.count >= t.goal) ? prepareJudging(tiles, settings) : null
  }

  /** Traces a pass on this thread, and ends it. */
  trace(pass: Pass): void {
    this.beGuided()
    for (const { which, from, until } of pass.halves)
      addHalf(pass.tile, which, this.tracer.traceArea(pass.tile, from, until, which))
    this.endPass(pass)
  }

  /** Ends a pass that was traced elsewhere. */
  addPass(pass: Pass, { halves, rays, clampedLuminance }: TracedPass): void {
    pass.halves.forEach(({ which }, k) => {
      addHalf(pass.tile, which, halves[k])
    })
    this.elsewhere.rays += rays
    this.elsewhere.clampedLuminance += clampedLuminance
    this.endPass(pass)
  }

  /** A pass that came to nothing: somebody else may take it on. */
  giveBack({ tile }: Pass): void {
    this.underWay.delete(tile)
  }

  /** Its tracer for other threads, and how many bytes each of them needs for it; null where it is the plain one. */
  get copied(): { bytes: number; copy: () => TracerCopy } | null {
    this.beGuided()
    const { tracer } = this
    return tracer instanceof KernelTracer ? { bytes: tracer.bytes, copy: () => tracer.copy() } : null
  }

  private beGuided(): void {
    if (!this.guideTracer) return
    this.tracer = this.guideTracer() ?? this.tracer
    this.guideTracer = null
  }

  private endPass({ tile, until }: Pass): void {
    const { settings } = this
    tile.count = until
    this.underWay.delete(tile)
    if (!settings.denoised) judgeAlone(tile, settings)
    else if (this.judgesItself) this.judgeAtGoals()
  }

  private judgeAtGoals(): void {
    if (this.tiles.every(t => t.done || t.count >= t.goal)) judgeTiles(this.tiles, this.settings)
  }
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

/** Puts the tiles of all parts together. */
export function finishRendering(
  tiles: readonly Tile[],
  settings: RenderSettings,
  rays: number,
  clamped: { taken: number; whole: number },
): RenderResult {
  const converged = tiles.filter(t => t.error <= settings.noiseTarget).length
  return {
    image: assembleTiles(tiles, settings),
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

/**
 * The picture as far as it has come, filtered where it has been.
 * @param sketch of each tile, linear RGB that stands where nothing was traced; without it, black does
 */
export function assembleTiles(
  tiles: readonly Tile[],
  { width, height }: { width: number; height: number },
  sketch: readonly Float32Array[] = [],
): FloatImage {
  const image = createFloatImage(width, height, 3)
  for (const [k, tile] of tiles.entries()) {
    const means = tile.filtered ?? (tile.count === 0 && sketch[k] ? sketch[k] : tileMeans(tile))
    for (let y = 0; y < tile.height; y++)
      image.data.set(means.subarray(y * tile.width * 3, (y + 1) * tile.width * 3), ((tile.y0 + y) * width + tile.x0) * 3)
  }
  return image
}

function judgeAlone(tile: Tile, { noiseTarget, maxSamples }: RenderSettings): void {
  if (tile.count >= LEAST_SAMPLES) tile.error = measureNoise(tile)
  tile.done = tile.count >= maxSamples || tile.error <= noiseTarget
}

const sumOfLuminance = ({ halves }: Tile): number => {
  let sum = 0
  for (const { sums } of halves) for (let i = 0; i < sums.length; i += 3) sum += luminance(sums[i], sums[i + 1], sums[i + 2])
  return sum
}
