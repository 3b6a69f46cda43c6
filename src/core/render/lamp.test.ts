import { describe, expect, it } from 'vitest'
import { placeMesh } from '../geometry/mesh'
import { createBox, createSheet, createSphere } from '../geometry/shapes'
import { createFloatImage } from '../image/image'
import { createMaterial } from '../material/open-pbr'
import type { Vec3 } from '../math/vec3'
import { createCamera } from './film/camera'
import { PathTracer } from './integrator/path-tracer'
import { EnvironmentLight } from './lights/environment-light'
import { renderPreview } from './pictures/preview'
import { HOUSE_RIGS } from './rigs/house-rigs'
import { findLamps } from './scene/find-lamps'
import { createBeam, type Lamp } from './scene/lamp'
import { createScene, type SceneObject } from './scene/scene'

const floor: SceneObject = {
  mesh: createSheet(
    1,
    1,
    (s, t) => [(s - 0.5) * 8, 0, (0.5 - t) * 8],
    () => [0, 0],
  ),
  material: createMaterial('floor', { baseColor: [0.5, 0.5, 0.5], specularWeight: 0 }),
  images: [],
}
const DARK = new EnvironmentLight(createFloatImage(8, 4, 3), 1)
const bulb = (over: Partial<Lamp> = {}): Lamp => ({
  position: [0, 1.5, 0],
  radius: 0.01,
  nearest: 0.1,
  intensity: [3, 2, 1],
  photometricProfile: null,
  ...over,
})

/** Mean linear RGB of the floor at a place, seen from straight above it. */
function reading(objects: SceneObject[], lamps: Lamp[], at: Vec3): Vec3 {
  const camera = createCamera([at[0], 1, at[2] + 1e-4], at, 400, 1)
  const tracer = new PathTracer(createScene(objects, new Map(), lamps), DARK, camera, null, 4, 4, 1)
  const sum: Vec3 = [0, 0, 0]
  for (let s = 0; s < 64; s++) {
    tracer.trace(2, 2, s)
    for (let c = 0; c < 3; c++) sum[c] += tracer.radiance[c] / 64
  }
  return sum
}

describe('a lamp', () => {
  it('lights by the inverse square and the cosine, in its own colour', () => {
    for (const x of [0.3, 1, 2]) {
      const squared = x * x + 1.5 * 1.5
      const expected = (0.5 / Math.PI / squared) * (1.5 / Math.sqrt(squared))
      const seen = reading([floor], [bulb()], [x, 0, 0])
      for (let c = 0; c < 3; c++) expect(seen[c] / (expected * (3 - c))).toBeCloseTo(1, 1.7)
    }
  })

  it('casts a shadow, and none of itself', () => {
    const board: SceneObject = { ...floor, mesh: placeMesh(createBox(0.4, 0.02, 0.4), [1, 0.5, 0]) }
    const ball: SceneObject = {
      mesh: createSphere(0.1, [0, 1.5, 0], 24),
      material: createMaterial('bulb', { emissionLuminance: 1000, emissionColor: [1, 0.8, 0.5] }),
      images: [],
    }
    expect(reading([floor, board], [bulb()], [1.3, 0, 0])[0]).toBeLessThan(0.02)
    const lamps = findLamps([ball], 1)
    expect(lamps).toHaveLength(1)
    const beside = reading([floor, ball], lamps, [0.5, 0, 0])
    const free = reading([floor], lamps, [0.5, 0, 0])
    // The ball keeps some of what the floor sends back; it does not stand in its own light.
    expect(beside[0] / free[0]).toBeGreaterThan(0.97)
    expect(beside[2] / beside[0]).toBeCloseTo(0.5, 1)
  })

  it('follows its photometricProfile', () => {
    const beam = bulb({ photometricProfile: createBeam([0, -1, 0], 20) })
    expect(reading([floor], [beam], [0.1, 0, 0])[0] / reading([floor], [bulb()], [0.1, 0, 0])[0]).toBeCloseTo(1, 1)
    expect(reading([floor], [beam], [1.5, 0, 0])[0]).toBe(0)
  })

  it('is where something glows; above a fixture of which nothing does', () => {
    const [above] = findLamps([{ ...floor, mesh: createBox(0.2, 1, 0.2) }], 0.5)
    expect(above.position[1]).toBeGreaterThan(1)
    expect(above.intensity).toEqual([above.intensity[0], above.intensity[0], above.intensity[0]])
  })
})

describe('the wall-wash rig', () => {
  it('shows the wall brighter near the light than far from it, and the fixture in front', () => {
    const pole: SceneObject = {
      mesh: createBox(0.1, 1.2, 0.1),
      material: createMaterial('pole', { baseColor: [0.02, 0.02, 0.02] }),
      images: [],
    }
    const glow: SceneObject = {
      mesh: createSphere(0.12, [0, 1.35, 0], 24),
      material: createMaterial('glow', { emissionLuminance: 600, emissionColor: [1, 0.9, 0.8] }),
      images: [],
    }
    const { image, backdrop } = renderPreview(
      { kind: 'model', objects: [pole, glow] },
      {
        rig: { ...HOUSE_RIGS['light-wall-wash'], scaleBar: false },
        quality: { width: 80, noiseTarget: 0, maxSamples: 8, denoised: false },
        seed: 1,
      },
    )!
    const at = (x: number, y: number) => image.data[(y * image.width + x) * 3 + 1]
    expect(at(46, 12) / at(2, 40)).toBeGreaterThan(2)
    expect(Math.max(...image.data)).toBeGreaterThan(0.8)
    expect(backdrop!.coverage).toBeGreaterThan(0.6)
    expect(backdrop!.coverage).toBeLessThan(0.8)
  })
})
