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

  it('is read again from OpenUSD, of the prims that have it', () => {
    const stage = { name: 'Oak', parts: [{ ...part, material: 0 }], materials: [oak], stamp }
    const read = readUsdStamps(textOf(writeUsdStage(stage, { ...METRES_Y_UP, files: new Map() })))
    expect(read.whole).toEqual(stamp)
    expect([...read.nodes]).toEqual([['Oak', stamp]])
    expect([...read.materials]).toEqual([['oak_plank', stamp]])
  })

  it('is not made up of anything else', () => {
    expect(
      readObjStamps('v 0 0 0\n# muscovite TIM-0001 3\n', ['# muscovite TIM-0001 3\nnewmtl a\n# muscovite TIM-0001\n']),
    ).toEqual({
      materials: new Map(),
      nodes: new Map(),
      whole: null,
    })
    expect(readUsdStamps('def Xform "A" (\n customData = {\n string code = "X"\n int version = 1\n }\n)').nodes.size).toBe(0)
  })
})
