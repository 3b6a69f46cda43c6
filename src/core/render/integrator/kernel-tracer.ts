import { luminance } from '../../color/srgb'
import type { Camera } from '../film/camera'
import type { LightGuide } from '../guide/light-guide'
import { KernelMemory, type MemoryCopy } from '../kernel/kernel-memory'
import type { Backdrop, EnvironmentLight } from '../lights/environment-light'
import type { Scene } from '../scene/scene'
import { SimdCaster } from '../scene/simd-caster'
import { makeTablesFor, packScene, packView } from './kernel-scene'
import { PathTracer } from './path-tracer'

/** What samples of a pixel add up to. */
export interface PixelSums {
  /** Linear RGB. */
  readonly radiance: Float64Array
  /** What the camera's rays met: base colour 0..2 (1 for nothing), shading normal 3..5 (0 for nothing), distance 6. */
  readonly feature: Float64Array
  /** Squares of luminance, held to 4. */
  squares: number
}

/** What renders samples of a picture: whichever of the two tracers. */
export interface Tracer {
  readonly sums: PixelSums
  readonly rays: number
  /** Luminance taken off fireflies so far, summed over samples. */
  readonly clampedLuminance: number
  /** Index of the material the last sample's camera ray met first; −1 for none. */
  readonly firstMaterial: number
  /**
   * Traces samples of pixel (px, py) and sets `sums` to what they add up to. A pixel has two halves, whose samples have nothing to do with
   * each other: how far they are apart tells the error of both.
   */
  tracePixel(px: number, py: number, from: number, until: number, half?: 0 | 1): void
  /**
   * Traces samples of each pixel of an area.
   * @returns {@link AREA_NUMBERS} for each, row by row: radiance 3, squares, feature 7; good until the next call
   */
  traceArea(area: Area, from: number, until: number, half: 0 | 1): Float64Array
}

export interface Area {
  x0: number
  y0: number
  width: number
  height: number
}
export const AREA_NUMBERS = 11

export const createPixelSums = (): PixelSums => ({
  radiance: new Float64Array(3),
  feature: new Float64Array(7),
  squares: 0,
})

export interface Background {
  /** What a camera ray sees when it hits nothing; null shows the environment. */
  background: Backdrop | null
  width: number
  height: number
  seed: number
  /** To where the environment's light comes in. */
  guide?: LightGuide | null
}

/** The tracer of a scene: in WebAssembly where its rays are cast there, else the plain one that it is held against. */
export function createTracer(scene: Scene, environment: EnvironmentLight, camera: Camera, view: Background): Tracer {
  if (scene.caster instanceof SimdCaster) {
    const { memory } = scene.caster
    return new KernelTracer(memory, packScene(memory, scene), packView(memory, { ...camera, ...view, environment }))
  }
  const { background, width, height, seed, guide } = view
  return new PlainTracer(new PathTracer(scene, environment, camera, background, width, height, seed, false, guide))
}

/** The plain tracer, its samples added up. */
export class PlainTracer implements Tracer {
  readonly sums = createPixelSums()

  constructor(private readonly tracer: PathTracer) {}

  get rays(): number {
    return this.tracer.rays
  }
  get clampedLuminance(): number {
    return this.tracer.clampedLuminance
  }
  get firstMaterial(): number {
    return this.tracer.firstMaterial
  }

  tracePixel(px: number, py: number, from: number, until: number, half: 0 | 1 = 0): void {
    const { sums, tracer } = this
    const { radiance, feature } = tracer
    sums.radiance.fill(0)
    sums.feature.fill(0)
    sums.squares = 0
    for (let index = from; index < until; index++) {
      tracer.trace(px, py, index, half)
      for (let k = 0; k < 3; k++) sums.radiance[k] += radiance[k]
      for (let k = 0; k < 7; k++) sums.feature[k] += feature[k]
      sums.squares += Math.min(luminance(radiance[0], radiance[1], radiance[2]), 4) ** 2
    }
  }

  traceArea({ x0, y0, width, height }: Area, from: number, until: number, half: 0 | 1): Float64Array {
    const out = new Float64Array(width * height * AREA_NUMBERS)
    for (let p = 0; p < width * height; p++) {
      this.tracePixel(x0 + (p % width), y0 + Math.floor(p / width), from, until, half)
      const { radiance, squares, feature } = this.sums
      out.set([...radiance, squares, ...feature], p * AREA_NUMBERS)
    }
    return out
  }
}

const FIRST_MATERIAL = 4176
const RAYS = 4184
const SUMS = 4880
const SUMS_COUNT = 11

/** A tracer as another thread opens it: survives structured cloning, and is one memory for all of them until then. */
export interface TracerCopy {
  memory: MemoryCopy
  scene: number
  view: number
}

/**
 * The path tracer in WebAssembly (src/kernel/trace.ts): the estimator of {@link PathTracer} by the same numbers, sample for sample but for
 * rounding. Several may share a scene; they take turns.
 */
export class KernelTracer implements Tracer {
  readonly sums = createPixelSums()
  rays = 0
  clampedLuminance = 0
  private numbers = new Float64Array(0)
  private counts = new Float64Array(0)
  private words = new Int32Array(0)

  /** @param scene and view: their addresses in the memory */
  constructor(
    private readonly memory: KernelMemory,
    private readonly scene: number,
    private readonly view: number,
  ) {
    this.look()
  }

  /** One that traces the same in a memory of its own. */
  static reopen({ memory: copied, scene, view }: TracerCopy): KernelTracer {
    const memory = KernelMemory.reopen(copied)
    makeTablesFor(memory)
    return new KernelTracer(memory, scene, view)
  }

  copy(): TracerCopy {
    return { memory: this.memory.copy(), scene: this.scene, view: this.view }
  }

  /** Of the memory in which it works. */
  get bytes(): number {
    return this.memory.bytes
  }

  get firstMaterial(): number {
    return this.words[0]
  }

  traceArea({ x0, y0, width, height }: Area, from: number, until: number, half: 0 | 1): Float64Array {
    const { memory } = this
    this.takeTurn()
    const count = width * height * AREA_NUMBERS
    const at = memory.lend(count * 8)
    if (this.numbers.buffer !== memory.buffer) this.look()
    this.counts.fill(0)
    memory.kernel.traceArea(x0, y0, width, height, from, until, half, at)
    if (this.numbers.buffer !== memory.buffer) this.look()
    this.rays += this.counts[0]
    this.clampedLuminance += this.counts[1]
    return new Float64Array(memory.buffer, at, count)
  }

  private takeTurn(): void {
    const { memory } = this
    if (memory.user !== this) {
      memory.kernel.setScene(this.scene)
      memory.kernel.setView(this.view)
      memory.user = this
    }
    if (this.numbers.buffer !== memory.buffer) this.look()
  }

  tracePixel(px: number, py: number, from: number, until: number, half: 0 | 1 = 0): void {
    const { memory, sums } = this
    this.takeTurn()
    this.numbers.fill(0)
    this.counts.fill(0)
    memory.kernel.tracePixel(px, py, from, until, half)
    // A table made on the way may have moved the memory.
    if (this.numbers.buffer !== memory.buffer) this.look()
    const { numbers, counts } = this
    for (let k = 0; k < 3; k++) sums.radiance[k] = numbers[k]
    for (let k = 0; k < 7; k++) sums.feature[k] = numbers[4 + k]
    sums.squares = numbers[3]
    this.rays += counts[0]
    this.clampedLuminance += counts[1]
  }

  private look(): void {
    const { buffer } = this.memory
    this.numbers = new Float64Array(buffer, SUMS, SUMS_COUNT)
    this.counts = new Float64Array(buffer, RAYS, 2)
    this.words = new Int32Array(buffer, FIRST_MATERIAL, 1)
  }
}
