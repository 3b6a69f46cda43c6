import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { HOUSE_PROFILE } from '#core/hand-over/profile'
import { integrateFlux } from '#core/photometry/candela-web'
import { readEulumdat } from '#core/photometry/read-eulumdat'
import { readIes } from '#core/photometry/read-ies'
import { type Curve, writeEulumdat, writeIes } from '../../../tests/formats/photometry'
import { sourceFileAt } from '../reading/source-file'
import { writeExport } from './write-export'

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-lights-'))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

const curve: Curve = {
  planesDeg: [0, 90, 180, 270],
  gammaDeg: Array.from({ length: 37 }, (_, i) => i * 5),
  intensity: (c, g) => 100 + 40 * Math.cos((g * Math.PI) / 180) + (c === 0 ? 10 : 0),
}

async function exportLight(name: string, text: string) {
  await writeFile(join(folder, name), text, 'latin1')
  const file = await sourceFileAt(join(folder, name), `Lamps/${name}`)
  const source = {
    kind: 'light' as const,
    name: 'Quay spot',
    files: [{ file, role: 'photometry', byContentOnly: false, handednessHint: null }],
    widthMm: null,
    constants: {},
  }
  const zipPath = join(folder, `${name}.zip`)
  const { manifest } = await writeExport(
    [{ code: 'SPO-0007', version: 3, category: 'luminaires.spots', licence: '', source } as never],
    HOUSE_PROFILE,
    { project: { code: 'FERRY', title: 'Ferry hall' } },
    zipPath,
  )
  const files = unzipSync(new Uint8Array(await readFile(zipPath)))
  const find = (ending: string) => Object.entries(files).find(([path]) => path.endsWith(ending))?.[1]
  const textOf = (bytes: Uint8Array | undefined) => (bytes ? Buffer.from(bytes).toString('latin1') : null)
  return { manifest, ies: textOf(find('.ies')), ldt: textOf(find('.ldt')), paths: Object.keys(files) }
}

describe('a luminaire in an export', () => {
  it('goes as its maker gave it, under the house code', async () => {
    const text = writeIes({ ...curve, planesDeg: [...curve.planesDeg, 360] })
    const { ies, ldt, paths, manifest } = await exportLight('spot.ies', text)
    expect(ies).toBe(text)
    expect(ldt).toBeNull()
    expect(paths.some(p => p.includes('SPO_0007_Quay_spot_v3'))).toBe(true)
    expect(manifest.failures).toEqual([])
    expect(manifest.items).toMatchObject([{ code: 'SPO-0007' }])
  })

  it('in EULUMDAT goes as it is, and as IES beside it for those who read only that', async () => {
    const text = writeEulumdat(curve, 0)
    const { ies, ldt } = await exportLight('spot.ldt', text)
    expect(ldt).toBe(text)
    const [before, after] = [readEulumdat(text), readIes(ies!)]
    expect(integrateFlux(after) / integrateFlux(before)).toBeCloseTo(1, 4)
    expect([after.maker, after.name, after.cctK, after.lampLumens]).toEqual([
      before.maker,
      before.name,
      before.cctK,
      before.lampLumens,
    ])
  })

  it('that does not read is named in the manifest, and the rest goes on', async () => {
    const { manifest, ies } = await exportLight('broken.ldt', 'x\n1\n0\nmany\n')
    expect(ies).toBeNull()
    expect(manifest.failures).toMatchObject([{ code: 'SPO-0007' }])
  })
})
