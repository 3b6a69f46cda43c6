import { describe, expect, it } from 'vitest'
import { placeMesh } from '../../geometry/mesh'
import { createBox, createSheet, createSphere } from '../../geometry/shapes'
import { createMaterial, type OpenPbrParameters } from '../../material/open-pbr'
import { affineOf } from '../../math/affine'
import { createRandom } from '../../math/random'
import { createScene, type SceneObject } from '../scene/scene'
import { ClearLight } from './clear-light'

const GREEN: [number, number, number] = [0.2, 0.8, 0.4]
/** What a boundary of an index of 1.5 reflects of light along its normal. */
const F0 = 0.04

const glass = (mesh: SceneObject['mesh'], parameters: Partial<OpenPbrParameters>): SceneObject => ({
  mesh,
  material: createMaterial('glass', { transmissionWeight: 1, transmissionColor: GREEN, specularIor: 1.5, ...parameters }),
  images: [],
})
const slab = placeMesh(createBox(2, 0.5, 2), [0, 0, 0])
const pane = createSheet(
  2,
  2,
  (s, t) => [2 * s - 1, 0.25, 2 * t - 1],
  (s, t) => [s, t],
)

function tintOf(light: ClearLight, o: number[], d: number[], far = 1e30): number[] {
  const l = Math.hypot(...d)
  light.trace(o[0], o[1], o[2], d[0] / l, d[1] / l, d[2] / l, far)
  return [...light.tint]
}

function expectTint(tint: number[], expected: readonly number[]): void {
  for (let k = 0; k < 3; k++) expect(tint[k]).toBeCloseTo(expected[k], 4)
}

describe('light straight through what is clear', () => {
  it('loses at a pane what both its sides reflect, to and fro, and takes its colour', () => {
    const light = new ClearLight(createScene([glass(pane, { geometryThinWalled: true })]))
    const expected = GREEN.map(c => c * (1 - (2 * F0) / (1 + F0)))
    for (const y of [-1, 1.5]) expectTint(tintOf(light, [0.1, y, 0.2], [0, -Math.sign(y), 0]), expected)
  })

  it('is absorbed by a slab as far as it is thick, aslant for longer, and reflected at both its faces', () => {
    const light = new ClearLight(createScene([glass(slab, { transmissionDepth: 0.25 })]))
    const straight = tintOf(light, [0, 3, 0], [0, -1, 0])
    expectTint(
      straight,
      GREEN.map(c => (1 - F0) ** 2 * c ** 2),
    )
    const aslant = tintOf(light, [-1.2, 3, 0], [0.6, -1, 0])
    for (let k = 0; k < 3; k++) expect(aslant[k]).toBeLessThan(straight[k])
    // From within: half the way, and one face.
    expectTint(
      tintOf(light, [0, 0.25, 0], [0, 1, 0]),
      GREEN.map(c => (1 - F0) * c),
    )
  })

  it('counts only what lies on its way', () => {
    const light = new ClearLight(createScene([glass(slab, {})]))
    expect(tintOf(light, [0, 3, 0], [0, -1, 0], 2)).toEqual([1, 1, 1])
    expect(tintOf(light, [0, 3, 0], [0, 1, 0])).toEqual([1, 1, 1])
    const opaque = { ...glass(slab, {}), material: createMaterial('wall') }
    expect(tintOf(new ClearLight(createScene([opaque])), [0, 3, 0], [0, -1, 0])).toEqual([1, 1, 1])
  })

  it('leaves alone what goes through clear glass: what that bends aside falls elsewhere', () => {
    const light = new ClearLight(createScene([glass(slab, { transmissionColor: [1, 0.99, 0.98] })]))
    expectTint(tintOf(light, [0, 3, 0], [0, -1, 0]), [1, 1, 1])
  })

  it('passes a placed slab as if it stood there, mirrored and stretched', () => {
    const parts = [{ objects: [glass(slab, { transmissionDepth: 0.3 })], placements: [affineOf([5, 0, 0], 0.7, [1, 2, -1])] }]
    const placed = new ClearLight(createScene([], new Map(), [], parts))
    // A metre of it: twice half a metre.
    expectTint(
      tintOf(placed, [5, 3, 0], [0, -1, 0]),
      GREEN.map(c => (1 - F0) ** 2 * c ** (1 / 0.3)),
    )
  })

  it('is never more than there was, whatever the glass and the way', () => {
    const random = createRandom(3)
    const scene = createScene([
      glass(createSphere(0.5, [0, 0.6, 0], 32), { specularIor: 2.2, transmissionDepth: 0.1 }),
      glass(slab, { geometryThinWalled: true }),
      glass(createBox(0.3, 2, 0.3), { transmissionColor: [0.5, 1, 1], specularIor: 1 }),
    ])
    const light = new ClearLight(scene)
    for (let k = 0; k < 2000; k++) {
      const [o, d] = [0, 1].map(() => [0, 1, 2].map(() => random.between(-1, 1)))
      for (const t of tintOf(light, o, d)) expect(t >= 0 && t <= 1).toBe(true)
    }
  })
})
