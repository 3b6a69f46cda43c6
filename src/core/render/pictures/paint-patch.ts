import { columnAzimuth, directionOf, rowElevation } from '../../environment/sphere'
import { createSheet } from '../../geometry/shapes'
import { createFloatImage } from '../../image/image'
import { createMaterial, type OpenPbrParameters } from '../../material/open-pbr'
import { toRadians } from '../../math/angles'
import { dot, type Vec3 } from '../../math/vec3'
import { createCamera } from '../film/camera'
import { render } from '../integrator/render'
import { EnvironmentLight } from '../lights/environment-light'
import { createScene } from '../scene/scene'

/**
 * A painted panel as a spectrophotometer sees it, rendered by the renderer of the previews: lit evenly from all sides and looked at 8°
 * off its normal, with a trap where the mirrored light would come from (CIE 15, geometry de:8°, specular excluded). So a gloss reads as
 * the eye does that looks past its reflections, and a matt surface, whose shine goes everywhere, reads with it.
 */

const VIEW_DEG = 8
/** Half the opening of the trap. */
const TRAP_DEG = 10
/** Long, so that the whole panel is seen under nearly that angle. */
const LENS_MM = 400
const SIZE_PX = 16
const SAMPLES = 64

/** Mean linear RGB of a panel of a material without textures, in [0, 1]. */
export function renderPatch(parameters: Partial<OpenPbrParameters>): Vec3 {
  const panel = createSheet(
    1,
    1,
    (s, t) => [(s - 0.5) * 20, 0, (t - 0.5) * 20],
    () => [0, 0],
  )
  const tilt = toRadians(VIEW_DEG)
  // The camera looks from +Z and above; what it would see mirrored comes from −Z at the same angle.
  const mirrored: Vec3 = [0, Math.cos(tilt), -Math.sin(tilt)]
  const even = createFloatImage(128, 64, 3)
  for (let j = 0; j < even.height; j++)
    for (let i = 0; i < even.width; i++) {
      const d = directionOf(columnAzimuth(i, even.width), rowElevation(j, even.height))
      if (dot(d, mirrored) < Math.cos(toRadians(TRAP_DEG)))
        even.data.fill(1, (j * even.width + i) * 3, (j * even.width + i) * 3 + 3)
    }
  const { image } = render(
    createScene([{ mesh: panel, material: createMaterial('paint', parameters), images: [] }]),
    new EnvironmentLight(even, 1),
    createCamera([0, 10 * Math.cos(tilt), 10 * Math.sin(tilt)], [0, 0, 0], LENS_MM, 1),
    { width: SIZE_PX, height: SIZE_PX, seed: 1, noiseTarget: 0, maxSamples: SAMPLES, background: null, denoised: false },
  )!
  const sum: Vec3 = [0, 0, 0]
  for (let i = 0; i < image.data.length; i++) sum[i % 3] += image.data[i]
  const count = SIZE_PX * SIZE_PX
  return [sum[0] / count, sum[1] / count, sum[2] / count]
}

/**
 * Finds what the base colour has to be for a panel of one sheen to read as specified. The mirrored light and what passes it are rendered
 * once and serve every colour: what a base reflects passes the surface in proportion, so black and white tell all between.
 */
export function createPaintMatcher(specularRoughness: number): (specified: Vec3) => Vec3 {
  const black = renderPatch({ baseColor: [0, 0, 0], specularRoughness })
  const white = renderPatch({ baseColor: [1, 1, 1], specularRoughness })
  return specified =>
    specified.map((v, c) => Math.min(1, Math.max(0, (v - black[c]) / Math.max(white[c] - black[c], 1e-4)))) as Vec3
}
