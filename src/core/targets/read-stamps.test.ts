import { describe, expect, it } from 'vitest'
import { createMaterial } from '../material/open-pbr'
import { writeMtl } from './obj-mtl'
import { readObjStamps, readUsdStamps } from './read-stamps'
import { samplePatch } from './sample-patch'
import { METRES_Y_UP } from './space'
import { writeUsdStage } from './usd/write-stage'
import { writeObj } from './write-obj'

const oak = createMaterial('oak plank', {}, { tileSizeM: [0.6, 0.6] })
const stamp = { code: 'TIM-0001', version: 3 }
const part = { name: 'sample patch', mesh: samplePatch([0.6, 0.6]), hasUvs: true }
const textOf = (bytes: Uint8Array) => new TextDecoder().decode(bytes)

describe('a stamp', () => {
  it('is read again from OBJ and MTL, where it is told in comments', () => {
    const obj = textOf(writeObj({ library: 'oak.mtl', parts: [{ ...part, material: 'oak plank' }], stamp }, METRES_Y_UP))
    const library = `${writeMtl(oak, new Map(), { stamp })}\nnewmtl plain\nKd 1 1 1\n`
    const read = readObjStamps(obj, [library])
    expect(read.whole).toEqual(stamp)
    expect([...read.materials]).toEqual([['oak_plank', stamp]])
  })

  it('says of an editable copy that it is one, in either form', () => {
    const copy = { ...stamp, isCopy: true as const }
    const groups = [{ node: 1, name: 'Chair', stamp: copy }]
    const subject = { library: 'oak.mtl', parts: [{ ...part, material: 'oak plank', groups }], stamp: copy }
    const obj = readObjStamps(textOf(writeObj(subject, METRES_Y_UP)), [writeMtl(oak, new Map(), { stamp: copy })])
    expect([obj.whole, ...obj.materials.values(), ...obj.nodes.values()]).toEqual([copy, copy, copy])
    const stage = { name: 'Oak', parts: [{ ...part, material: 0, groups }], materials: [oak], stamp: copy }
    const usd = readUsdStamps(textOf(writeUsdStage(stage, { ...METRES_Y_UP, files: new Map() })))
    expect([usd.whole, ...usd.materials.values(), ...usd.nodes.values()]).toEqual([copy, copy, copy, copy])
  })

  it('is read again from OpenUSD, of the prims that have it', () => {
    const stage = { name: 'Oak', parts: [{ ...part, material: 0 }], materials: [oak], stamp }
    const read = readUsdStamps(textOf(writeUsdStage(stage, { ...METRES_Y_UP, files: new Map() })))
    expect(read.whole).toEqual(stamp)
    expect([...read.nodes]).toEqual([['Oak', stamp]])
    expect([...read.materials]).toEqual([['oak_plank', stamp]])
  })

  it('stands on the group that it is of, with its parts below it, wherever they come in the list', () => {
    const group = (node: number, name: string, of: typeof stamp | null) => ({ node, name, stamp: of })
    const room = group(4, 'Room', null)
    const parts = [
      { ...part, name: 'seat', material: 0, groups: [room, group(7, 'Chair', stamp)] },
      { ...part, name: 'floor', material: 0 },
      { ...part, name: 'seat', material: 0, groups: [room, group(9, 'Chair', stamp)] },
      { ...part, name: 'legs', material: 0, groups: [room, group(7, 'Chair', stamp)] },
    ]
    const layer = textOf(
      writeUsdStage({ name: 'All', parts, materials: [oak], stamp: null }, { ...METRES_Y_UP, files: new Map() }),
    )
    const prims = [...layer.matchAll(/^( *)def (Xform|Mesh) "(\w+)"/gm)].map(([, pad, , name]) => `${pad.length / 4} ${name}`)
    expect(prims).toEqual(['0 All', '1 floor', '1 Room', '2 Chair', '3 seat', '3 legs', '2 Chair_2', '3 seat_2'])
    expect([...readUsdStamps(layer).nodes]).toEqual([
      ['Chair', stamp],
      ['Chair_2', stamp],
    ])
    expect(layer.match(/\{/g)).toHaveLength(layer.match(/\}/g)!.length)
  })

  it('comes with the names that people gave, but for those of a prim name that stands for several', () => {
    const parts = [
      { ...part, name: 'Sitzfläche "hoch"', material: 0 },
      { ...part, name: 'legs', material: 0 },
    ]
    const layer = textOf(
      writeUsdStage({ name: 'All', parts, materials: [oak], stamp: null }, { ...METRES_Y_UP, files: new Map() }),
    )
    expect([...readUsdStamps(layer).displayNames.values()]).toContain('Sitzfläche "hoch"')
    const twice = ['a b', 'a-b', 'c d'].map((shown, k) => `def Mesh "${k < 2 ? 'a_b' : 'c_d'}" (\n displayName = "${shown}"\n)`)
    expect([...readUsdStamps(twice.join('\n')).displayNames]).toEqual([['c_d', 'c d']])
  })

  it('is not made up of anything else', () => {
    expect(
      readObjStamps('v 0 0 0\n# muscovite TIM-0001 3\n', ['# muscovite TIM-0001 3\nnewmtl a\n# muscovite TIM-0001\n']),
    ).toEqual({
      materials: new Map(),
      nodes: new Map(),
      whole: null,
      displayNames: new Map(),
    })
    expect(readUsdStamps('def Xform "A" (\n customData = {\n string code = "X"\n int version = 1\n }\n)').nodes.size).toBe(0)
  })
})
