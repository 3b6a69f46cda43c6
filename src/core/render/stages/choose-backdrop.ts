import { toneMapNeutral } from '../../color/display-transform'
import { toLightness } from '../../color/lightness'
import { luminance } from '../../color/srgb'
import { percentile } from '../../math/statistics'
import type { Camera } from '../film/camera'
import { createTracer } from '../integrator/kernel-tracer'
import type { EnvironmentLight } from '../lights/environment-light'
import type { Scene } from '../scene/scene'

/** What a rig chose behind a subject, and how well that stands out. */
export interface BackdropChoice {
  albedo: number
  /** Difference in CIE L* between the subject along its outline and the backdrop beside it; null when no outline is in the frame. */
  contrast: number | null
  /** How much of the side of the frame that it reaches first the subject takes; null when it is not in the frame. */
  coverage: number | null
}

const WIDTH = 96
const SAMPLES = 6

/**
 * Takes the first of the albedos that stands out enough along the subject's outline, else the one that stands out most. Seen in
 * one small rendering: the backdrop's luminance goes with its albedo.
 * @param scene with the backdrop as its last material, of albedo `albedos[0]`
 * @param subjectMaterials materials 0..n−1 are the subject's
 */
export function chooseBackdrop(
  scene: Scene,
  light: EnvironmentLight,
  camera: Camera,
  subjectMaterials: number,
  albedos: readonly number[],
  minContrast: number,
): BackdropChoice {
  const height = Math.round(WIDTH / camera.aspect)
  const tracer = createTracer(scene, light, camera, { background: null, width: WIDTH, height, seed: 1 })
  const behind = scene.materials.length - 1
  const color = new Float64Array(WIDTH * height * 3)
  const isSubject = new Float64Array(WIDTH * height)
  const isBehind = new Float64Array(WIDTH * height)
  for (let p = 0; p < WIDTH * height; p++)
    for (let s = 0; s < SAMPLES; s++) {
      tracer.tracePixel(p % WIDTH, Math.floor(p / WIDTH), s, s + 1)
      for (let k = 0; k < 3; k++) color[p * 3 + k] += tracer.sums.radiance[k] / SAMPLES
      if (tracer.firstMaterial >= 0 && tracer.firstMaterial < subjectMaterials) isSubject[p] += 1 / SAMPLES
      if (tracer.firstMaterial === behind) isBehind[p] += 1 / SAMPLES
    }
  const outline: number[] = []
  const beside: number[] = []
  let [x0, x1, y0, y1] = [WIDTH, -1, height, -1]
  for (let y = 0; y < height; y++)
    for (let x = 0; x < WIDTH; x++) {
      const p = y * WIDTH + x
      if (isSubject[p] > 0.5) {
        x0 = Math.min(x0, x)
        x1 = Math.max(x1, x)
        y0 = Math.min(y0, y)
        y1 = Math.max(y1, y)
      }
      if (isSubject[p] < 0.9 && isBehind[p] < 0.9) continue
      if (!hasNear(isSubject[p] >= 0.9 ? isBehind : isSubject, x, y, height)) continue
      ;(isSubject[p] >= 0.9 ? outline : beside).push(p)
    }
  const coverage = x1 >= x0 ? Math.max((x1 - x0 + 1) / WIDTH, (y1 - y0 + 1) / height) : null
  if (outline.length < 4 || beside.length < 4) return { albedo: albedos[0], contrast: null, coverage }
  const subject = percentile(
    outline.map(p => lightnessOf(color[p * 3], color[p * 3 + 1], color[p * 3 + 2], 1)),
    0.5,
  )
  const contrasts = albedos.map(albedo => {
    const scale = albedo / albedos[0]
    const backdrop = percentile(
      beside.map(p => lightnessOf(color[p * 3], color[p * 3 + 1], color[p * 3 + 2], scale)),
      0.5,
    )
    return Math.abs(subject - backdrop)
  })
  const enough = contrasts.findIndex(c => c >= minContrast)
  const chosen = enough >= 0 ? enough : contrasts.indexOf(Math.max(...contrasts))
  return { albedo: albedos[chosen], contrast: contrasts[chosen], coverage }
}

/** Whether the mask is full within three pixels. */
function hasNear(mask: Float64Array, x: number, y: number, height: number): boolean {
  for (let j = Math.max(0, y - 3); j <= Math.min(height - 1, y + 3); j++)
    for (let i = Math.max(0, x - 3); i <= Math.min(WIDTH - 1, x + 3); i++) if (mask[j * WIDTH + i] >= 0.9) return true
  return false
}

const mapped = new Float32Array(3)

/** CIE L* (0..100) of a scene colour as displayed. */
function lightnessOf(r: number, g: number, b: number, scale: number): number {
  toneMapNeutral(r * scale, g * scale, b * scale, mapped)
  return toLightness(luminance(mapped[0], mapped[1], mapped[2]))
}
