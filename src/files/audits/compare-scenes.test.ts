import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { createBox } from '#core/geometry/shapes'
import { beginLight } from '#core/mock-up/scene/begin'
import { EMPTY_SCENE, type Scene, sceneSchema } from '#core/mock-up/scene/scene'
import { writeGlb } from '../../demo/model-file'
import type { ItemSource } from '../items/item-source'
import { writeMockUp } from '../mock-ups/write-mock-up'
import { sourceFileAt } from '../reading/source-file'
import { compareScenes } from './compare-scenes'
import { withScene } from './gather-scene'
import { readScene } from './read-scene'

const STOOL = { code: 'CHR-0001', version: 2, inputKey: 'a'.repeat(64) }
const BULB = { ...beginLight('Pendant', [0, 2, 0], { kind: 'bulb' }), lumens: 800, kelvin: 3000 }

let folder: string
let sources: Record<string, ItemSource>
let serial = 0
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-compare-scenes-'))
  const parts = ['seat', 'back'].map((name, k) => ({
    name,
    mesh: createBox(0.4, 0.05 + k * 0.3, 0.4),
    finish: { name: 'cloth', color: [0.5, 0.4, 0.3] as [number, number, number], roughness: 0.8 },
  }))
  const diskPath = join(folder, 'stool.glb')
  await writeFile(diskPath, await writeGlb({ folder: '', stem: 'stool', parts }))
  const file = await sourceFileAt(diskPath, 'stool.glb')
  sources = {
    [STOOL.inputKey]: {
      kind: 'model',
      name: 'stool',
      widthMm: null,
      constants: {},
      files: [{ role: 'model', byContentOnly: false, handednessHint: null, file }],
    },
  }
})
afterAll(() => rm(folder, { recursive: true, force: true }))

const SCENE = sceneSchema.parse({
  ...EMPTY_SCENE,
  pieces: { s: { item: STOOL, name: 'Stool', position: [0, 0, 0], turn: [0, 0, 0, 1] } },
  shots: {
    a: { name: 'Front', place: 0, position: [0, 1.6, 4], target: [0, 1, 0], focalMm: 35, aspect: 1.5, sky: 'k' },
    b: { name: 'Side', place: 1, position: [4, 1.6, 0], target: [0, 1, 0], focalMm: 50, aspect: 1.5 },
  },
  skies: { k: { item: { code: 'SKY-0001', version: 1, inputKey: 'b'.repeat(64) }, name: 'Harbour', turnDeg: 20 } },
  lights: { p: BULB },
})

async function written(scene: Scene) {
  const diskPath = join(folder, `scene-${++serial}.glb`)
  await writeFile(diskPath, (await writeMockUp(scene, sources, 64)).bytes)
  return [await sourceFileAt(diskPath, 'scene.glb')]
}
const inventoryOf = (files: Awaited<ReturnType<typeof written>>) => withScene(files, readScene)

describe('two exports of a mock-up', () => {
  it('that are the same have nothing different', async () => {
    const files = await written(SCENE)
    const { roots, lights, views } = await inventoryOf(files)
    const stool = roots.find(r => r.stamp?.code === STOOL.code)!
    expect(views.map(v => [v.name, Math.round(v.focalMm), v.note?.sky?.code ?? null])).toEqual([
      ['Front', 35, 'SKY-0001'],
      ['Side', 50, null],
    ])
    const pairs = {
      materials: [],
      models: [{ own: { nodes: [stool.id], count: 1 }, other: { nodes: [stool.id], count: 1 } }],
      lights: [{ own: lights[0].node, other: lights[0].node }],
    }
    expect(await compareScenes([files, files], pairs)).toEqual({
      ...{ materials: [], models: [[]], lights: [[]] },
      views: [
        { name: 'Front', changes: [] },
        { name: 'Side', changes: [] },
      ],
      ...{ viewsOnlyOwn: [], viewsOnlyOther: [] },
    })
    await expect(
      compareScenes([files, files], {
        ...pairs,
        models: [{ own: { nodes: [999], count: 1 }, other: { nodes: [stool.id], count: 1 } }],
      }),
    ).rejects.toThrow('nothing of this number')
  })

  it('say what makes a model, a light and a view another', async () => {
    const [before, after] = [
      await written(SCENE),
      await written({
        ...SCENE,
        pieces: { s: SCENE.pieces.s, t: { ...SCENE.pieces.s, position: [2, 0, 0], scale: 1.07 } },
        lights: { p: { ...BULB, lumens: 400 } },
        skies: { k: { ...SCENE.skies.k, turnDeg: 65, ev: 1 } },
        shots: { a: { ...SCENE.shots.a, ev: -0.5 }, c: { ...SCENE.shots.b, name: 'Above' } },
      }),
    ]
    const [there, here] = [await inventoryOf(before), await inventoryOf(after)]
    const stoolsOf = ({ roots }: typeof here) => {
      const nodes = roots.filter(r => r.stamp?.code === STOOL.code).map(r => r.id)
      return { nodes, count: nodes.length }
    }
    const compared = await compareScenes([after, before], {
      materials: [],
      models: [{ own: stoolsOf(here), other: stoolsOf(there) }],
      lights: [{ own: here.lights[0].node, other: there.lights[0].node }],
    })
    expect(compared.models).toEqual([
      [
        { what: 'size', from: '100 %', to: '107 %' },
        { what: 'count', from: 1, to: 2 },
      ],
    ])
    expect(compared.lights[0].map(c => c.what)).toEqual(['intensity'])
    const [from, to] = [compared.lights[0][0].from, compared.lights[0][0].to].map(said => Number.parseFloat(String(said)))
    // Rounded to whole candela.
    expect(Math.abs(from / to - 2)).toBeLessThan(0.05)
    expect(compared.views).toEqual([
      {
        name: 'Front',
        changes: [
          { what: 'headingOfTheSky', from: '20°', to: '65°' },
          { what: 'brightnessOfTheSky', from: '0 EV', to: '+1 EV' },
          { what: 'exposure', from: '0 EV', to: '-0.5 EV' },
        ],
      },
    ])
    expect(compared).toMatchObject({ viewsOnlyOwn: ['Above'], viewsOnlyOther: ['Side'] })
  })
})
