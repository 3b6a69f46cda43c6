import { describe, expect, it } from 'vitest'
import { placeMesh } from '../geometry/mesh'
import { createBox } from '../geometry/shapes'
import type { ByteImage } from '../image/image'
import { createMaterial, type OpenPbrParameters } from '../material/open-pbr'
import { createRandom } from '../math/random'
import { auditMaterial, MaterialIndex } from './audit-material'
import { auditModel, compareModels, ModelIndex } from './audit-model'
import { compareMaterials } from './compare-materials'
import { asDelivered, printMaterial } from './material-print'
import { addMoments, type Matrix, momentsOf, moveMoments, printPart, shapeDistance, shapeOf } from './model-print'
import { type MaterialReference, type ModelReference, NameIndex } from './reference'
import { listThings, printModel, type SceneTreeNode } from './scene-tree'

/** Not safe, but enough to tell a handful of small pictures apart. */
const digest = (bytes: Uint8Array): string => String(bytes.reduce((h, b) => (Math.imul(h, 31) + b) | 0, bytes.length))

/** Blotches of two colours from a seed. */
function picture(seed: number, size = 128): ByteImage {
  const random = createRandom(seed)
  const cells = Array.from({ length: 64 }, () => random.next())
  const data = new Uint8Array(size * size * 3)
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const v = cells[Math.floor((y * 8) / size) * 8 + Math.floor((x * 8) / size)]
      data.set([60 + 120 * v, 90 + 80 * v, 40 + 60 * v], (y * size + x) * 3)
    }
  return { width: size, height: size, channels: 3, data }
}
const changed = (image: ByteImage, change: (v: number, i: number) => number): ByteImage => ({
  ...image,
  data: image.data.map((v, i) => Math.round(Math.min(255, Math.max(0, change(v, i))))),
})

const print = (name: string, image: ByteImage | null, given: Partial<OpenPbrParameters> = {}, more = {}) =>
  printMaterial(
    createMaterial(
      name,
      { ...(image ? { baseColor: [1, 1, 1] } : {}), ...given },
      image ? { textures: { baseColor: { image: 0, channel: 0 } } } : {},
    ),
    () => image,
    digest,
    more,
  )

const reference = async (
  code: string,
  version: number,
  of: Awaited<ReturnType<typeof print>>,
  more: Partial<MaterialReference> = {},
): Promise<MaterialReference> => ({
  code,
  version,
  name: of.name,
  pinned: version,
  isWithdrawn: false,
  print: of,
  ofModel: null,
  repeatM: null,
  ...more,
})

describe('a material of a scene', () => {
  const oak = picture(1)
  const library = async () =>
    new MaterialIndex([
      await reference('TIM-0001', 1, await print('Oak plank', oak), { pinned: 2 }),
      await reference(
        'TIM-0001',
        2,
        await print(
          'Oak plank',
          changed(oak, v => v * 1.1),
        ),
      ),
      await reference('TIM-0002', 1, await print('Ash', picture(2)), { pinned: null }),
      await reference('TIM-0003', 1, await print('Elm', picture(3)), { isWithdrawn: true }),
      await reference('PNT-0001', 1, await print('Signal red', null, { baseColor: [0.5, 0.02, 0.02], specularRoughness: 0.41 })),
    ])

  it('is known by its pixels, whatever it is called, at the version that they are of', async () => {
    const index = await library()
    expect(
      auditMaterial(
        await print(
          'shader 7',
          changed(oak, v => v * 1.1),
        ),
        index,
      ),
    ).toMatchObject({
      class: 'pinned',
      code: 'TIM-0001',
      version: 2,
      changes: [],
      evidence: [{ kind: 'pixels' }],
    })
    expect(auditMaterial(await print('shader 7', oak), index)).toMatchObject({ class: 'older', version: 1 })
    expect(auditMaterial(await print('x', picture(2)), index)).toMatchObject({ class: 'other', code: 'TIM-0002' })
    expect(auditMaterial(await print('x', picture(3)), index)).toMatchObject({ class: 'withdrawn', code: 'TIM-0003' })
  })

  it('is known by its picture when it was saved with loss, and told as altered from 1 ΔE00 on', async () => {
    const index = await library()
    const random = createRandom(9)
    const lossy = changed(picture(2), v => v + random.between(-2, 2))
    expect(auditMaterial(await print('x', lossy), index)).toMatchObject({ class: 'other', evidence: [{ kind: 'picture' }] })
    const tinted = auditMaterial(
      await print(
        'x',
        changed(picture(2), (v, i) => (i % 3 === 0 ? v * 0.9 : v)),
      ),
      index,
    )
    expect(tinted).toMatchObject({ class: 'altered', code: 'TIM-0002' })
    expect(tinted.changes[0]).toMatchObject({ what: 'baseColor' })
    expect(tinted.changes[0].deltaE00).toBeGreaterThan(1)
  })

  it('is told with the parameters that were changed, by 2 % and more, and not by less', async () => {
    const index = await library()
    const red = { baseColor: [0.5, 0.02, 0.02] as [number, number, number] }
    const rougher = (specularRoughness: number) => print('Signal red', null, { ...red, specularRoughness })
    expect(auditMaterial(await rougher(0.415), index)).toMatchObject({ class: 'pinned', code: 'PNT-0001' })
    expect(auditMaterial(await rougher(0.44), index)).toMatchObject({
      class: 'altered',
      changes: [{ what: 'specularRoughness', from: 0.41, to: 0.44 }],
    })
  })

  it('is believed to be what its picture shows rather than what its stamp or its name says', async () => {
    const index = await library()
    const stamp = { code: 'TIM-0001', version: 2 }
    const swapped = auditMaterial(await print('Oak plank', picture(2), {}, { stamp }), index)
    expect(swapped).toMatchObject({ class: 'other', code: 'TIM-0002' })
    expect(swapped.remarks.join()).toContain('carries the stamp of TIM-0001')
    // With a picture that nobody knows the stamp is all there is.
    expect(auditMaterial(await print('Oak plank', picture(40), {}, { stamp }), index)).toMatchObject({
      class: 'altered',
      code: 'TIM-0001',
    })
    const named = auditMaterial(await print('Oak plank', picture(41)), index)
    expect(named).toMatchObject({ class: 'foreign', code: null })
    expect(named.remarks.join()).toContain('carries the name of TIM-0001')
  })

  it('of which pictures did not come along is told as such, and what it is where it says so', async () => {
    const lost = await print('Oak', null, {}, { stamp: { code: 'TIM-0001', version: 2 }, missing: ['oak.png'] })
    expect(auditMaterial(lost, await library())).toMatchObject({
      class: 'missing',
      code: 'TIM-0001',
      remarks: ['Not there: oak.png'],
    })
  })

  it('of a plain grey that every program begins with is nothing that can be known', async () => {
    const grey = await print('Material', null, { baseColor: [0.8, 0.8, 0.8], specularRoughness: 0.5 })
    const index = new MaterialIndex([await reference('PNT-0002', 1, { ...grey, name: 'Grey' })])
    expect(auditMaterial(grey, index)).toMatchObject({ class: 'foreign' })
  })
})

describe('two maps', () => {
  it('are told apart by what was done: contrast, a place painted over, a picture put in its place', async () => {
    const was = await print('a', picture(5))
    const whats = async (image: ByteImage) => compareMaterials(await print('a', image), was).changes.map(c => c.what)
    expect(await whats(picture(5))).toEqual([])
    expect(await whats(changed(picture(5), v => 110 + (v - 110) * 0.6))).toContain('baseColor map, contrast')
    expect(await whats(changed(picture(5), (v, i) => (i % (128 * 3) < 75 && i < 128 * 3 * 25 ? v + 40 : v)))).toContain(
      'baseColor map, places',
    )
    expect(await whats(picture(6))).toContain('baseColor map, picture')
    const isNoMap = compareMaterials(await print('a', null), was).changes[0]
    expect(isNoMap).toMatchObject({ what: 'baseColor map', from: 'there', to: 'none' })
  })

  it('may hold a tint in the map or beside it: that makes no difference', async () => {
    const darker = changed(picture(5), v => v * 0.9)
    const factor = (0.9 ** 2.2) as number
    const beside = await print('a', picture(5), { baseColor: [factor, factor, factor] })
    expect(compareMaterials(beside, await print('a', darker)).changes.filter(c => c.what === 'baseColor')).toEqual([])
  })

  it('of one value count as the parameter', async () => {
    const flat = changed(picture(5), () => 188)
    const { maps, parameters } = await print('a', flat)
    expect(maps).toEqual({})
    expect(parameters.baseColor[0]).toBeCloseTo(0.503, 2)
  })
})

it('what glTF cannot hold is no alteration: a library material is compared as it is delivered', () => {
  const delivered = asDelivered(
    createMaterial('m', { baseDiffuseRoughness: 0.4, subsurfaceWeight: 0.5, coatWeight: 0.6, coatIor: 1.7 }),
  )
  expect(delivered.parameters).toMatchObject({ baseDiffuseRoughness: 0, subsurfaceWeight: 0, coatWeight: 0.6, coatIor: 1.5 })
})

it('names are of an item by its code, or by its name with the endings that programs give', () => {
  const item = { code: 'TIM-0004', name: 'Oak plank natural' }
  const names = new NameIndex([item])
  for (const name of ['TIM_0004_oak_v2', 'Oak plank natural (TIM-0004)', 'oak_plank_natural.001', 'Oak Plank Natural_mat'])
    expect([name, names.find(name)]).toEqual([name, [item]])
  for (const name of ['TIM-00041', 'Oak', 'oak plank natural dark']) expect([name, names.find(name)]).toEqual([name, []])
})

describe('shapes', () => {
  const box = createBox(2, 1, 0.5)
  const matrix = (scale: number, yaw: number, x = 0): Matrix => {
    const [c, s] = [Math.cos(yaw) * scale, Math.sin(yaw) * scale]
    return [c, 0, -s, 0, 0, scale, 0, 0, s, 0, c, 0, x, 3, -2, 1]
  }

  it('have moments that add up, and follow a turn, a move and a scale exactly', () => {
    const whole = momentsOf(box)
    expect(whole.areaM2).toBeCloseTo(2 * (2 * 1 + 2 * 0.5 + 1 * 0.5))
    const moved = moveMoments(whole, matrix(1.5, 0.7, 4))
    const byHand = momentsOf(placeMesh(box, [4, 3, -2], 0.7, 1.5))
    expect(moved.areaM2).toBeCloseTo(byHand.areaM2, 4)
    for (let k = 0; k < 6; k++) expect(moved.second[k]).toBeCloseTo(byHand.second[k], 2)
    const [a, b] = [shapeOf(whole)!, shapeOf(moved)!]
    expect(shapeDistance(a, b)).toBeLessThan(1e-5)
    expect(b.radiusM / a.radiusM).toBeCloseTo(1.5, 5)
    const parts = [box, placeMesh(box, [5, 0, 0])]
    expect(addMoments(parts.map(momentsOf)).areaM2).toBeCloseTo(2 * whole.areaM2, 5)
    expect(shapeOf(momentsOf({ positions: new Float32Array(9), indices: Uint32Array.of(0, 1, 2) }))).toBeNull()
  })

  const node = (
    name: string,
    meshes: Parameters<typeof printPart>[1][],
    world: Matrix,
    more: Partial<SceneTreeNode> = {},
  ): SceneTreeNode => ({
    id: 1,
    name,
    stamp: null,
    world,
    parts: meshes.map((m, k) => printPart(`part ${k}`, m, null, digest)),
    children: [],
    instances: 1,
    ...more,
  })
  const stool = [
    createBox(0.5, 0.05, 0.4),
    placeMesh(createBox(0.05, 0.4, 0.05), [0.2, -0.2, 0.15]),
    placeMesh(createBox(0.05, 0.4, 0.05), [-0.2, -0.2, -0.15]),
  ]
  const known = (meshes: typeof stool, more: Partial<ModelReference> = {}): ModelReference => ({
    code: 'CHR-0001',
    version: 1,
    name: 'Stool',
    pinned: 1,
    isWithdrawn: false,
    print: printModel(node('Stool', meshes, matrix(1, 0))),
    ...more,
  })

  it('know a model again where it was turned, scaled and worked into its vertices, without stamp and name', () => {
    const index = new ModelIndex([known(stool)])
    const baked = stool.map(m => placeMesh(m, [3, 0, 1], 1.1, 1.2))
    const found = auditModel(printModel(node('Mesh.004', baked, matrix(1, 0))), index)
    expect(found).toMatchObject({ class: 'pinned', code: 'CHR-0001', changes: [], evidence: [{ kind: 'shape' }] })
    expect(found.remarks).toEqual(['Stands at 120 % of its size.'])
    expect(auditModel(printModel(node('x', [createBox(1, 1, 1)], matrix(1, 0))), index)).toMatchObject({
      class: 'foreign',
      nearest: [{ code: 'CHR-0001' }],
    })
  })

  it('tell a part that is gone, one that was moved, and triangles that were taken out', () => {
    const { print: was } = known(stool)
    const whats = (meshes: typeof stool) =>
      compareModels(printModel(node('x', meshes, matrix(1, 0.3))), was).changes.map(c => c.what)
    expect(whats(stool)).toEqual([])
    expect(whats(stool.slice(0, 2))).toEqual(['parts'])
    expect(whats([stool[0], stool[1], placeMesh(stool[2], [0, 0.1, 0.1])])).toEqual(['part part 2'])
    const cut = { ...stool[0], indices: stool[0].indices.slice(0, stool[0].indices.length - 6) }
    expect(whats([cut, stool[1], stool[2]])).toEqual(['triangles'])
  })

  it('are told by version: the one that is the same, else the one that is nearest', () => {
    const wider = stool.map(m => placeMesh(m, [0, 0, 0], 0, [1.05, 1, 1]))
    const index = new ModelIndex([known(stool, { pinned: 2 }), known(wider, { version: 2, pinned: 2 })])
    expect(auditModel(printModel(node('Stool', stool, matrix(1, 0))), index)).toMatchObject({ class: 'older', version: 1 })
    expect(auditModel(printModel(node('Stool', wider, matrix(1, 0))), index)).toMatchObject({ class: 'pinned', version: 2 })
  })

  it('are listed as things: what is stamped, what is known inside a group, what is foreign as a whole, and no walls', () => {
    const stands = (name: string, x: number, id: number, meshes = stool, more: Partial<SceneTreeNode> = {}) =>
      node(name, meshes, matrix(1, 0, x), { id, ...more })
    const vase = stands('vase', 4, 20, [createBox(0.2, 0.5, 0.2)])
    const group = node('group', [], matrix(1, 0), { id: 10, children: [stands('a', 1, 11), stands('b', 3, 12), vase] })
    const wall = node('wall', [createBox(5, 3, 0.001)], matrix(1, 0), { id: 30 })
    const stamped = stands('odd', 9, 40, [createBox(1, 2, 3)], { stamp: { code: 'CHR-0009', version: 1 } })
    const things = listThings([group, wall, stamped], new ModelIndex([known(stool)]))
    expect(things.map(t => t.node.id).sort((a, b) => a - b)).toEqual([11, 12, 20, 40])
  })

  it('a foreign one by the name of its own group, not of those that are only around it', () => {
    const holds = (id: number, name: string, ...children: SceneTreeNode[]) => node(name, [], matrix(1, 0), { id, children })
    const part = (id: number, size: number) => node('part', [createBox(size, 0.4, 0.3)], matrix(1, 0), { id })
    const cart = holds(3, 'Tea cart', part(4, 0.5), part(5, 0.6))
    const box = holds(6, 'Box', part(7, 0.2))
    const things = listThings([holds(1, 'RootNode', holds(2, 'group 7', cart)), box], new ModelIndex([]))
    expect(things.map(t => t.print.name)).toEqual(['Tea cart', 'Box'])
  })
})
