import type { Camera } from '../film/camera'
import type { EnvironmentLight } from '../lights/environment-light'
import type { Scene } from '../scene/scene'
import { type KernelMemory, SimdCaster } from '../scene/simd-caster'
import { packScene, packView } from './kernel-scene'
import { PathTracer } from './path-tracer'

/** What renders samples of a picture: whichever of the two tracers. */
export interface Tracer {
  /** Linear RGB of the last sample. */
  readonly radiance: Float64Array
  /** What the last sample's camera ray met: base colour 0..2 (1 for nothing), shading normal 3..5 (0 for nothing), distance 6. */
  readonly feature: Float64Array
  /** Index of the material the last sample's camera ray met first; −1 for none. */
  readonly firstMaterial: number
  readonly rays: number
  /** Luminance taken off fireflies so far, summed over samples. */
  readonly clampedLuminance: number
  /** Traces one camera sample of pixel (px, py) into `radiance`. */
  trace(px: number, py: number, sample: number): void
}

export interface Background {
  /** What a camera ray sees when it hits nothing; null shows the environment. */
  background: readonly [number, number, number] | null
  width: number
  height: number
  seed: number
}

/** The tracer of a scene: in WebAssembly where its rays are cast there, else the plain one that it is held against. */
export function createTracer(scene: Scene, environment: EnvironmentLight, camera: Camera, view: Background): Tracer {
  if (scene.caster instanceof SimdCaster) return new KernelTracer(scene, scene.caster.memory, environment, camera, view)
  return new PathTracer(scene, environment, camera, view.background, view.width, view.height, view.seed)
}

const RADIANCE = 4096
const FEATURE = 4120
const FIRST_MATERIAL = 4176
const RAYS = 4184

/**
 * The path tracer in WebAssembly (src/kernel/trace.ts): the estimator of {@link PathTracer} by the same numbers, sample for sample. Several may
 * share a scene; they take turns.
 */
export class KernelTracer implements Tracer {
  readonly radiance = new Float64Array(3)
  readonly feature = new Float64Array(7)
  firstMaterial = -1
  rays = 0
  clampedLuminance = 0
  private readonly view: number
  private readonly scene: number
  private numbers: Float64Array

  constructor(
    scene: Scene,
    private readonly memory: KernelMemory,
    environment: EnvironmentLight,
    camera: Camera,
    view: Background,
  ) {
    this.scene = packScene(memory, scene)
    this.view = packView(memory, { ...camera, ...view, environment })
    this.numbers = new Float64Array(memory.buffer, RADIANCE, 13)
  }

  trace(px: number, py: number, sample: number): void {
    const { memory, radiance, feature } = this
    if (memory.user !== this) {
      memory.kernel.setScene(this.scene)
      memory.kernel.setView(this.view)
      memory.user = this
    }
    if (this.numbers.buffer !== memory.buffer) this.numbers = new Float64Array(memory.buffer, RADIANCE, 13)
    this.numbers[(RAYS - RADIANCE) / 8] = 0
    this.numbers[(RAYS - RADIANCE) / 8 + 1] = 0
    memory.kernel.trace(px, py, sample)
    // A table made on the way may have moved the memory.
    if (this.numbers.buffer !== memory.buffer) this.numbers = new Float64Array(memory.buffer, RADIANCE, 13)
    const { numbers } = this
    for (let k = 0; k < 3; k++) radiance[k] = numbers[k]
    for (let k = 0; k < 7; k++) feature[k] = numbers[(FEATURE - RADIANCE) / 8 + k]
    this.firstMaterial = new Int32Array(numbers.buffer, FIRST_MATERIAL, 1)[0]
    this.rays += numbers[(RAYS - RADIANCE) / 8]
    this.clampedLuminance += numbers[(RAYS - RADIANCE) / 8 + 1]
  }
}
