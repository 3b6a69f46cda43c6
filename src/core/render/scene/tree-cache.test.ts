import { describe, expect, it } from 'vitest'
import type { Mesh } from '../../geometry/mesh'
import { createSphere } from '../../geometry/shapes'
import { createMaterial, type OpenPbrMaterial } from '../../material/open-pbr'
import { affineOf, IDENTITY } from '../../math/affine'
import { createRandom } from '../../math/random'
import { createRayHit } from './ray-caster'
import { createScene, type PlacedObjects } from './scene'
import { SimdCaster } from './simd-caster'
import { TreeCache } from './tree-cache'

const solid = createMaterial('solid', { baseColor: [0.5, 0.5, 0.5] })
const glass = createMaterial('glass', { transmissionWeight: 1 })
const tinted = createMaterial('tinted', { transmissionWeight: 1, transmissionColor: [0.2, 0.6, 0.3] })
const sheer = createMaterial('sheer', { geometryOpacity: 0.7 })
const thing = (...parts: [Mesh, OpenPbrMaterial][]): PlacedObjects => ({
  objects: parts.map(([mesh, material]) => ({ mesh, material, images: [] })),
  placements: [IDENTITY],
})
const [ball, pebble] = [createSphere(0.5, [0, 0, 0], 24), createSphere(0.2, [0.1, 0.2, 0], 12)]
/** One triangle: its tree is a leaf. */
const scrap: Mesh = { ...pebble, indices: pebble.indices.slice(0, 3) }
const nothing: Mesh = { ...pebble, indices: new Uint32Array() }
const THINGS: readonly PlacedObjects[] = [
  thing([ball, solid], [pebble, glass]),
  thing([pebble, tinted], [ball, sheer]),
  thing([scrap, solid]),
  thing([nothing, solid]),
]
const casterOf = (placed: readonly PlacedObjects[], trees?: TreeCache): SimdCaster => {
  const spread = placed.map((p, i) => ({ ...p, placements: [affineOf([i * 0.4, 0, i * 0.3], i)] }))
  const { caster } = createScene([], new Map(), [], spread, trees)
  if (!(caster instanceof SimdCaster)) throw new Error('cast elsewhere')
  return caster
}
const bytesOf = (caster: SimdCaster) => caster.memory.copy()

describe('trees that are taken over', () => {
  it('stand as they would have been built there: elsewhere, and over triangles of other numbers', () => {
    const trees = new TreeCache()
    casterOf(THINGS, trees)
    const turned = [...THINGS].reverse()
    const [taken, built] = [bytesOf(casterOf(turned, trees)), bytesOf(casterOf(turned))]
    expect(taken.roots).toEqual(built.roots)
    expect(Buffer.compare(taken.bytes, built.bytes)).toBe(0)
  })

  it('are asked no less: rays meet the same among everything, what is solid and what tints', () => {
    const trees = new TreeCache()
    casterOf(THINGS.slice(0, 2), trees)
    const [taken, built] = [casterOf(THINGS, trees), casterOf(THINGS)]
    const random = createRandom(5)
    const [a, b] = [createRayHit(), createRayHit()]
    const met = { everything: 0, solid: 0, tinted: 0 }
    for (let k = 0; k < 3000; k++) {
      const among = (['everything', 'solid', 'tinted'] as const)[k % 3]
      const o = [random.between(-1, 2), random.between(-1, 1), -3] as const
      const d = [random.between(-0.3, 0.3), random.between(-0.3, 0.3), 1] as const
      const found = taken.closestHit(...o, ...d, 1e30, a, among)
      expect(found).toBe(built.closestHit(...o, ...d, 1e30, b, among))
      if (!found) continue
      met[among]++
      expect(a).toEqual(b)
    }
    expect(Math.min(...Object.values(met))).toBeGreaterThan(20)
  })

  it('are of these parts in this order, cut and clear as they were, and of no others', () => {
    const trees = new TreeCache()
    casterOf([thing([ball, solid], [pebble, solid])], trees)
    const parts = (...of: [Mesh, number][]) => of.map(([mesh, flags]) => ({ mesh, flags }))
    expect(trees.get(parts([ball, 0], [pebble, 0]))).not.toBeNull()
    expect(trees.get(parts([ball, 1], [pebble, 0]))).toBeNull()
    expect(trees.get(parts([ball, 0]))).toBeNull()
    expect(trees.get(parts([{ ...ball, positions: ball.positions.slice() }, 0], [pebble, 0]))).toBeNull()
    // The same corners, whatever lies on them.
    expect(trees.get(parts([{ ...ball, uvs: ball.uvs.slice() }, 0], [pebble, 0]))).not.toBeNull()
    expect(trees.get([])).toBeNull()
  })

  it('are not kept of a thing in more ways than it is put together', () => {
    const trees = new TreeCache()
    const kept = {
      all: { bytes: new Uint8Array(), at: 0, root: 0 },
      solid: null,
      tinted: null,
      first: 0,
      box: new Float32Array(6),
    }
    for (let flags = 0; flags < 6; flags++) trees.set([{ mesh: ball, flags }], kept)
    expect([0, 1, 2, 3, 4, 5].map(flags => trees.get([{ mesh: ball, flags }]) !== null)).toEqual([
      ...[false, false, true, true, true, true],
    ])
  })
})
