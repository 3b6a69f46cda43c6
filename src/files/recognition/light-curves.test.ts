import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { makeModelBytes } from '../../../tests/fixtures'
import { writeEulumdat, writeIes } from '../../../tests/formats/photometry'
import { inspectItem } from '../items/inspect-item'
import { sourceFileAt } from '../reading/source-file'
import { recognizeDelivery } from './recognize-delivery'

let folder: string
let lamp: Uint8Array
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-lamps-'))
  lamp = await makeModelBytes()
})
afterAll(() => rm(folder, { recursive: true, force: true }))

const curve = {
  planesDeg: [0],
  gammaDeg: [0, 15, 30, 45, 60, 75, 90],
  intensity: (_: number, g: number) => 500 * Math.cos((g * Math.PI) / 180),
}
const ies = writeIes(curve, { lumens: -1 })

async function deliver(files: Record<string, string | Uint8Array>) {
  const made = await Promise.all(
    Object.entries(files).map(async ([path, bytes]) => {
      await mkdir(dirname(join(folder, path)), { recursive: true })
      await writeFile(join(folder, path), bytes)
      return sourceFileAt(join(folder, path), path)
    }),
  )
  const { items, leftOver, failures } = await recognizeDelivery(made)
  return { items, failures, leftOver, curves: items.map(i => i.files.filter(f => f.role === 'photometry').map(f => f.file.path)) }
}

describe('light curves of a delivery', () => {
  it('join the lamp of their name, or the only one there; the lamp has its figures', async () => {
    const two = await deliver({ 'a/Desk_Lamp.glb': lamp, 'a/Pendant_Lamp.glb': lamp, 'a/Pendant_Lamp_3000K.ies': ies })
    expect(two.items.map(i => [i.name, i.files.length])).toEqual([
      ['Desk lamp', 1],
      ['Pendant lamp', 2],
    ])
    const one = await deliver({
      'b/Lamp.glb': lamp,
      'b/report 114.ldt': writeEulumdat({ ...curve, planesDeg: [0, 90, 180, 270] }, 1),
    })
    expect(one.curves).toEqual([['b/report 114.ldt']])
    const { facts, findings, failures } = await inspectItem(two.items[1], null)
    expect(facts).toMatchObject({ lightSymmetry: 'rotational', beamAngleDeg: expect.closeTo(120, -1), lampCctK: 3000 })
    expect(findings.filter(f => f.code === 'photometryCoarse')).toHaveLength(1)
    expect(failures).toEqual([])
  })

  it('without a lamp, or beside several that are not theirs, are left over as what they are', async () => {
    expect(await deliver({ 'c/street.ies': ies })).toMatchObject({ leftOver: [{ path: 'c/street.ies', reason: 'photometry' }] })
    expect(await deliver({ 'd/one.glb': lamp, 'd/two.glb': lamp, 'd/other.ies': ies })).toMatchObject({ curves: [[], []] })
  })

  it('that do not read are named, and the lamp goes on', async () => {
    const { items } = await deliver({ 'e/Lamp.glb': lamp, 'e/Lamp.ies': ies.slice(0, 120) })
    const { facts, failures } = await inspectItem(items[0], null)
    expect(failures).toMatchObject([{ path: 'e/Lamp.ies' }])
    expect(facts.luminousFluxLm).toBeUndefined()
    expect(facts.triangles).toBeGreaterThan(0)
  })
})
