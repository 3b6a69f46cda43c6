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

  it('without a lamp, or beside several that are not theirs, are luminaires by themselves, filed by how they shine', async () => {
    const street = await deliver({ 'c/Tall_Panel_4000K.ies': ies })
    expect(street.items).toMatchObject([{ kind: 'light', name: 'Tall panel 4000K', category: 'luminaires.downlights' }])
    expect(street.items[0].given).toEqual({ maker: 'Oddmere Lamps', number: 'OL-7' })
    const { facts, fingerprint, findings } = await inspectItem(street.items[0], 'luminaires')
    expect(facts).toMatchObject({ beamAngleDeg: expect.closeTo(120, -1), lightDownShare: expect.closeTo(1, 5) })
    expect(fingerprint).toMatchObject({ path: 'c/Tall_Panel_4000K.ies', perceptualHash: null })
    expect(findings.map(f => f.code)).toEqual(['photometryCoarse'])
    const beside = await deliver({ 'd/one.glb': lamp, 'd/two.glb': lamp, 'd/other.ies': ies })
    expect(beside.items.map(i => [i.kind, i.files.length])).toEqual([
      ['model', 1],
      ['model', 1],
      ['light', 1],
    ])
    expect([street, beside].flatMap(d => d.leftOver)).toEqual([])
  })

  it('the same light is known again in another form, and another is not', async () => {
    const measured = { ...curve, gammaDeg: [0, 10, 20, 30, 40, 50, 60, 70, 80, 90] }
    const texts = [writeIes(measured, { lumens: -1 }), writeIes(measured, { lumens: -1, year: '1986' }), ies]
    const prints = []
    for (const [i, text] of texts.entries()) {
      const { items } = await deliver({ [`f${i}/a.ies`]: text })
      prints.push((await inspectItem(items[0], null)).fingerprint?.content)
    }
    expect(prints[0]).toBe(prints[1])
    expect(prints[0]).not.toBe(prints[2])
  })

  it('a luminaire whose only file does not read fails by name', async () => {
    const { items } = await deliver({ 'g/Cut.ies': ies.slice(0, 120) })
    await expect(inspectItem(items[0], null)).rejects.toThrow(/photometric file/)
  })

  it('that do not read are named, and the lamp goes on', async () => {
    const { items } = await deliver({ 'e/Lamp.glb': lamp, 'e/Lamp.ies': ies.slice(0, 120) })
    const { facts, failures } = await inspectItem(items[0], null)
    expect(failures).toMatchObject([{ path: 'e/Lamp.ies' }])
    expect(facts.luminousFluxLm).toBeUndefined()
    expect(facts.triangles).toBeGreaterThan(0)
  })
})
