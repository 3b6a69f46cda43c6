import { describe, expect, it } from 'vitest'
import { SHIPPED_TAG_WORDS } from '../../find/tags/tag-words'
import { type Mesh, placeMesh } from '../../geometry/mesh'
import { createBox } from '../../geometry/shapes'
import { createMaterial } from '../../material/open-pbr'
import { createRandom } from '../../math/random'
import type { Vec3 } from '../../math/vec3'
import { measureScene } from '../../takeoff/measure-scene'
import { composeStage } from '../composing/compose'
import { listKeys, listRefs } from '../materials/list-refs'
import { replaceRef, useOf } from '../materials/uses'
import { listReached, type PartBook } from '../materials/wearing'
import { placeBox, placeOfPiece } from '../placing/placing'
import { applyChange } from '../scene/change'
import { type Assignment, EMPTY_SCENE, type Scene, sceneSchema } from '../scene/scene'
import type { ResourcePart } from '../things/resources'
import { listAlikeThings } from './alike-things'
import { createNameMatcher } from './match-names'
import { proposeMaterials } from './propose-materials'
import { replaceThings, showAllParts } from './replace-things'

const KEY = 'c'.repeat(64)
const refOf = (code: string) => ({
  code,
  version: 1,
  inputKey: code
    .toLowerCase()
    .padEnd(64, '0')
    .replace(/[^0-9a-f]/g, '1'),
})
const wearing = (code: string): Assignment => ({
  material: refOf(code),
  turnDeg: 0,
  offsetM: [0, 0],
  mapping: 'own',
  override: {},
})
const partOf = (name: string, own: string, mesh: Mesh, node?: number): ResourcePart => ({
  name,
  mesh,
  hasUvs: true,
  node,
  material: createMaterial(own),
  images: [],
})
/** A shape that looks like itself from no other side. */
const hook = (seed = 1): Mesh => {
  const random = createRandom(seed)
  const mesh = createBox(0.6, 2, 0.4)
  return { ...mesh, positions: mesh.positions.map(v => v + 0.3 * random.next()) }
}
const standing = (parts: readonly ResourcePart[], stage: object = {}): { scene: Scene; models: Map<string, ResourcePart[]> } => ({
  scene: sceneSchema.parse({ ...EMPTY_SCENE, stage: { kind: 'model', model: { key: KEY, name: 'Site' }, ...stage } }),
  models: new Map([[KEY, [...parts]]]),
})

describe('a stage that is a model', () => {
  const parts = [
    partOf('slab', 'MAT concrete', createBox(4, 0.2, 3)),
    partOf('wall', 'MAT plaster', createBox(4, 2, 0.2)),
    partOf('wall 2', 'MAT plaster', createBox(3, 2, 0.2)),
  ]
  const oak = { material: createMaterial('oak'), images: [] }
  const materials = new Map([[refOf('TIM-0001').inputKey, oak]])
  const namesOn = (scene: Scene, models: Map<string, ResourcePart[]>) =>
    composeStage(scene.stage, { models, materials }).map(p => `${p.name}: ${p.material.name}`)

  it('shows its own parts as they came, and what was decided for their materials on all that have them', () => {
    const { scene, models } = standing(parts)
    expect(namesOn(scene, models)).toEqual(['slab: MAT concrete', 'wall: MAT plaster', 'wall 2: MAT plaster'])
    const decided = standing(parts, { wears: { 'MAT plaster': wearing('TIM-0001') } })
    expect(namesOn(decided.scene, models)).toEqual(['slab: MAT concrete', 'wall: oak', 'wall 2: oak'])
    expect(listRefs(decided.scene).map(r => r.code)).toEqual(['TIM-0001'])
    expect(listKeys(decided.scene)).toEqual([refOf('TIM-0001').inputKey, KEY])
  })

  it('lets what was put on one part stand before what was decided for its material', () => {
    const { scene, models } = standing(parts, {
      wears: { 'MAT plaster': wearing('TIM-0009') },
      materials: { 'wall 2': wearing('TIM-0001') },
    })
    // The first is not there to be drawn, and wears its own until it is.
    expect(namesOn(scene, models)).toEqual(['slab: MAT concrete', 'wall: MAT plaster', 'wall 2: oak'])
  })

  it('reaches what came with the same material, and what is decided for it', () => {
    const book: PartBook = { partsOf: () => [], stageParts: parts.map(p => ({ name: p.name, own: p.material.name })) }
    const reached = (scene: Scene) => listReached(scene, { piece: null, part: 'wall' }, 'alike', book).map(s => s.part)
    expect(reached(standing(parts).scene)).toEqual(['wall', 'wall 2'])
    expect(reached(standing(parts, { materials: { 'wall 2': wearing('TIM-0001') } }).scene)).toEqual(['wall'])
    const both = { wears: { 'MAT plaster': wearing('TIM-0001') }, materials: { slab: wearing('TIM-0001') } }
    expect(reached(standing(parts, both).scene)).toEqual(['slab', 'wall', 'wall 2'])
  })

  it('is measured by what its parts wear, and named where it is not there', () => {
    const { scene, models } = standing(parts, { wears: { 'MAT plaster': wearing('TIM-0001') }, without: ['wall 2'] })
    const takeoff = measureScene(scene, models)
    expect(takeoff.materials.map(m => [m.ref?.code ?? m.name, Math.round(m.areaM2 * 100) / 100])).toEqual([
      ['MAT concrete', 26.8],
      ['TIM-0001', 18.4],
    ])
    expect(measureScene(scene, new Map()).missing).toEqual(['Site'])
  })

  it('takes a new version of an item wherever it was decided', () => {
    const { scene } = standing(parts, { wears: { 'MAT plaster': wearing('TIM-0001') } })
    expect(useOf(scene, 'TIM-0001')?.parts).toBe(1)
    const next = { ...refOf('TIM-0001'), version: 2 }
    const { scene: after, inverse } = applyChange(scene, replaceRef(scene, 'TIM-0001', next))
    expect(listRefs(after)).toEqual([next])
    expect(applyChange(after, inverse).scene).toEqual(scene)
  })
})

describe('things of one shape', () => {
  const tree = (name: string, node: number, at: Vec3, yawRad: number, size = 1, seed = 1) => [
    partOf(`${name} trunk`, 'bark', placeMesh(hook(seed), at, yawRad, size), node),
    partOf(`${name} crown`, 'leaf', placeMesh(hook(seed + 50), at, yawRad, size), node),
  ]
  const parts = [
    ...tree('Tree', 1, [0, 0, 0], 0),
    ...tree('Tree 2', 2, [8, 0, 3], 1.1),
    ...tree('Tree 3', 3, [-4, 1, 6], -2.5, 1.3),
    ...tree('Bush', 4, [2, 0, 2], 0, 1, 7),
    partOf('Block', 'bark', hook(), 5),
  ]

  it('are found with how they are turned and how large they are, whatever part of one is asked for', () => {
    for (const name of ['Tree trunk', 'Tree crown']) {
      const found = listAlikeThings(parts, name)
      expect(found.map(t => t.parts)).toEqual([
        ['Tree trunk', 'Tree crown'],
        ['Tree 2 trunk', 'Tree 2 crown'],
        ['Tree 3 trunk', 'Tree 3 crown'],
      ])
      expect(found.map(t => Math.round(t.turnDeg * 10) / 10)).toEqual([0, 63, -143.2])
      expect(found.map(t => Math.round(t.size * 1000) / 1000)).toEqual([1, 1, 1.3])
    }
    expect(listAlikeThings(parts, 'Bush trunk')).toHaveLength(1)
    expect(listAlikeThings(parts, 'nothing')).toEqual([])
  })

  it('give their places to a piece each, which stands on their foot, turned as they are, as high as they are', () => {
    const { scene } = standing(parts)
    const things = listAlikeThings(parts, 'Tree trunk')
    const box = { min: [-1, 0, -1] as Vec3, max: [1, 4, 1] as Vec3 }
    const given = { item: refOf('TRE-0001'), name: 'Hornbeam', box, isFitted: true, group: null }
    const change = replaceThings(scene, things, given, k => `p${k}`)
    const { scene: after, inverse } = applyChange(scene, change)
    for (const [k, thing] of things.entries()) {
      const placed = placeBox(placeOfPiece(after.pieces[`p${k}`]), box)
      expect(placed.min[1]).toBeCloseTo(thing.box.min[1], 6)
      expect(placed.max[1]).toBeCloseTo(thing.box.max[1], 6)
      expect((placed.min[0] + placed.max[0]) / 2).toBeCloseTo(thing.foot[0], 6)
      expect((placed.min[2] + placed.max[2]) / 2).toBeCloseTo(thing.foot[2], 6)
    }
    expect(after.stage.kind === 'model' && after.stage.without).toHaveLength(6)
    expect(sceneSchema.parse(after)).toEqual(after)
    expect(applyChange(after, inverse).scene).toEqual(scene)
    const shown = applyChange(after, showAllParts(after)).scene
    expect(shown.stage.kind === 'model' && shown.stage.without).toEqual([])
    expect(Object.keys(shown.pieces)).toHaveLength(3)
    // At the size it is made.
    const made = replaceThings(scene, things, { ...given, isFitted: false }, k => `p${k}`)
    expect(Object.values(made.pieces ?? {}).map(p => p?.scale)).toEqual([1, 1, 1])
  })

  it('are left alone on a stage that is built here', () => {
    expect(replaceThings(EMPTY_SCENE, listAlikeThings(parts, 'Tree trunk'), {} as never, () => 'p')).toEqual({})
  })
})

describe('what a foreign name could mean', () => {
  const items = [
    { code: 'TIM-0001', name: 'Smoked oak floorboards', tags: 'oak, brown', category: 'surfaces.timber' },
    { code: 'TIM-0002', name: 'Pale ash', tags: 'ash, light', category: 'surfaces.timber' },
    { code: 'STO-0001', name: 'Honed travertine', tags: 'stone', category: 'surfaces.stone' },
    { code: 'PLA-0001', name: 'Lime plaster', tags: 'white, matt', category: 'surfaces.plaster' },
  ]
  const match = createNameMatcher(items, SHIPPED_TAG_WORDS)
  const first = (name: string) => match(name)[0]?.code

  it('is told from its words, however programs write them and in another language', () => {
    expect(first('MAT_Smoked-Oak.001')).toBe('TIM-0001')
    expect(first('oakFloor_02')).toBe('TIM-0001')
    expect(first('Esche hell')).toBe('TIM-0002')
    expect(first('Travertine 60x60')).toBe('STO-0001')
  })

  it('is an item whose code it has, and no other', () => {
    expect(match('Pale ash, see sto_0001')).toEqual([{ code: 'STO-0001', likeness: 1, hasCode: true }])
    expect(first('XSTO-00012 oak')).toBe('TIM-0001')
  })

  it('is nothing where it says nothing', () => {
    for (const name of ['Material', 'Material.012', 'default 3', '', 'xq17']) expect(match(name)).toEqual([])
  })

  it('is the surer the more both say the same', () => {
    expect(match('Smoked oak floorboards')[0].likeness).toBeCloseTo(1, 6)
    expect(match('oak')[0].likeness).toBeLessThan(match('smoked oak')[0].likeness)
  })
})

describe('proposals for a material', () => {
  it('are surest of what was decided before, and surer where name and look agree', () => {
    const proposals = proposeMaterials({
      before: 'PLA-0001',
      byName: [{ code: 'TIM-0001', likeness: 0.6 }],
      byLook: [
        { code: 'TIM-0001', unlike: 0.4 },
        { code: 'TIM-0002', unlike: 0.4 },
        { code: 'STO-0001', unlike: 9 },
      ],
    })
    expect(proposals.map(p => [p.code, p.reasons])).toEqual([
      ['PLA-0001', ['before']],
      ['TIM-0001', ['name', 'look']],
      ['TIM-0002', ['look']],
    ])
    const [before, both, look] = proposals.map(p => p.confidence)
    expect(before).toBe(1)
    expect(both).toBeGreaterThan(look)
    expect(both).toBeLessThan(1)
  })

  it('are no sure thing where there is nothing but a colour', () => {
    const byLook = [{ code: 'TIM-0001', unlike: 0 }]
    const [plain] = proposeMaterials({ before: null, byName: [], byLook, isPlain: true })
    const [patterned] = proposeMaterials({ before: null, byName: [], byLook })
    expect(plain.confidence).toBeLessThan(0.6)
    expect(patterned.confidence).toBeGreaterThan(0.6)
  })

  it('are none without evidence', () => {
    expect(proposeMaterials({ before: null, byName: [], byLook: [] })).toEqual([])
  })
})
