import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { writeHdr } from '#core/codecs/hdr'
import { writeExr } from '#core/codecs/write-exr'
import { createMaterial } from '#core/material/open-pbr'
import { writeMaterialX } from '#core/targets/materialx/write-materialx'
import { makeSunSky } from '../../../tests/fixtures'
import { collectSources } from '../reading/collect-sources'
import { recognizeDelivery } from './recognize-delivery'

let base: string
let folder: string
let count = 0
beforeAll(async () => {
  base = await mkdtemp(join(tmpdir(), 'muscovite-recognize-'))
})
beforeEach(() => {
  folder = join(base, String(count++))
})
afterAll(() => rm(base, { recursive: true, force: true }))

const put = async (path: string, bytes: Uint8Array | string) => {
  await mkdir(dirname(join(folder, path)), { recursive: true })
  await writeFile(join(folder, path), bytes)
}
const picture = (width: number, background = '#a87', height = width) =>
  sharp({ create: { width, height, channels: 3, background } })
    .png()
    .toBuffer()
const recognize = async () => recognizeDelivery((await collectSources([folder])).files)
const rolesOf = (item: { files: { role: string; file: { path: string } }[] }) =>
  Object.fromEntries(item.files.map(f => [f.file.path.split('/').pop()!, f.role]))

describe('skies', () => {
  it('several sizes of one sky are one item, the largest leading', async () => {
    await put('Noon_1k.exr', writeExr(makeSunSky(0, 40, 64)))
    await put('Noon_2k.exr', writeExr(makeSunSky(0, 40, 128)))
    await put('Noon_4k.hdr', writeHdr(makeSunSky(0, 40, 256)))
    await put('Dusk_2k.hdr', writeHdr(makeSunSky(0, 5, 128)))
    const { items } = await recognize()
    expect(items.map(i => [i.name, i.files.length]).sort()).toEqual([
      ['Dusk', 1],
      ['Noon', 3],
    ])
    expect(rolesOf(items.find(i => i.name === 'Noon')!)).toEqual({
      'Noon_4k.hdr': 'environment',
      'Noon_2k.exr': 'alternate',
      'Noon_1k.exr': 'alternate',
    })
  })

  it('an OpenEXR whose name says a map is a map', async () => {
    await put('Stone_height_2k.exr', writeExr(makeSunSky(0, 40, 64)))
    const { items, failures } = await recognize()
    // Its content is no picture that the picture reader knows; it is named, not swallowed.
    expect(items.every(i => i.kind !== 'environment')).toBe(true)
    expect(items.length + failures.length).toBeGreaterThan(0)
  })
})

describe('definitions', () => {
  it('join the set whose files they name, and bring size and constants', async () => {
    await put('Oak/Oak_basecolor.png', await picture(16))
    await put('Oak/Oak_roughness.png', await picture(16, '#888'))
    const oak = createMaterial(
      'oak',
      { specularIor: 1.45 },
      { textures: { baseColor: { image: 0, channel: 0 } }, tileSizeM: [0.8, 0.8] },
    )
    await put('Oak/Oak.mtlx', writeMaterialX(oak, new Map([[0, 'Oak_basecolor.png']])))
    const { items } = await recognize()
    expect(items).toHaveLength(1)
    expect(items[0]).toMatchObject({ widthMm: 800, constants: { specularIor: 1.45 } })
    expect(rolesOf(items[0])).toEqual({
      'Oak_basecolor.png': 'baseColor',
      'Oak_roughness.png': 'roughness',
      'Oak.mtlx': 'definition',
    })
  })

  it('that do not read are failures with a sentence, and the set goes on', async () => {
    await put('Oak/Oak_basecolor.png', await picture(16))
    await put('Oak/Oak.mtlx', '<materialx version="1.39"><broken')
    const { items, failures } = await recognize()
    expect(items).toHaveLength(1)
    expect(failures).toMatchObject([{ path: 'Oak/Oak.mtlx', code: 'malformed' }])
  })
})

describe('pictures', () => {
  it('that came along go with the item in their folder; others are left over', async () => {
    await put('Oak/Oak_basecolor.png', await picture(16))
    await put(
      'Oak/preview.jpg',
      await sharp(await picture(16))
        .jpeg()
        .toBuffer(),
    )
    await put('Elsewhere/thumbnail.png', await picture(8))
    const { items, leftOver } = await recognize()
    expect(rolesOf(items[0])).toEqual({ 'Oak_basecolor.png': 'baseColor', 'preview.jpg': 'picture' })
    expect(leftOver).toEqual([{ path: 'Elsewhere/thumbnail.png', reason: 'picture' }])
  })

  it('one whose name says nothing is judged by what it looks like, and that is said', async () => {
    const noisy = Buffer.alloc(32 * 32 * 3)
    for (let i = 0; i < noisy.length; i += 3) noisy.set([120 + (i % 60), 90 + (i % 31), 40], i)
    await put(
      'scan_001.png',
      await sharp(noisy, { raw: { width: 32, height: 32, channels: 3 } })
        .png()
        .toBuffer(),
    )
    const { items } = await recognize()
    expect(items[0].files[0]).toMatchObject({ role: 'baseColor', byContentOnly: true })
  })

  it('with another picture type behind their ending are taken: only the ending is wrong', async () => {
    await put('Oak_basecolor.jpg', await picture(16))
    const { items, failures } = await recognize()
    expect(failures).toEqual([])
    expect(items).toHaveLength(1)
  })
})

describe('what is in no item', () => {
  it('is left over with its reason; a text beside one item only goes with it', async () => {
    await put('c.pdf', '%PDF-1.4 words')
    await put('d.bin', Buffer.from([0, 1, 2, 250, 251]))
    await put('loose.mtl', 'newmtl nobody\n')
    await put('Skies/Noon/Noon_1k.exr', writeExr(makeSunSky(0, 40, 64)))
    await put('Skies/Noon/licence.txt', 'For all projects.')
    const { items, failures, leftOver } = await recognize()
    expect(failures).toEqual([])
    expect(rolesOf(items[0])).toEqual({ 'Noon_1k.exr': 'environment', 'licence.txt': 'document' })
    expect(leftOver).toEqual([
      { path: 'd.bin', reason: 'unknownType' },
      { path: 'loose.mtl', reason: 'noItem' },
      { path: 'c.pdf', reason: 'document' },
    ])
  })
})
