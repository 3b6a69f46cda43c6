import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { basename, join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { parseExr } from '#core/codecs/exr'
import { parseHdr, writeHdr } from '#core/codecs/hdr'
import { analyseEnvironment } from '#core/environment/analyse-environment'
import { proposeFix } from '#core/fixes/fix'
import { parseGlb } from '#core/geometry/read-gltf'
import { createBox } from '#core/geometry/shapes'
import { makeSunSky } from '../../../tests/fixtures'
import { TEXTURE_RECIPES } from '../../demo/materials'
import { writeGlb } from '../../demo/model-file'
import { inspectItem } from '../items/inspect-item'
import type { ItemSource } from '../items/item-source'
import { sourceFileAt } from '../reading/source-file'
import { encodeExr } from '../writing/encode-exr'
import { applyFixes } from './apply-fixes'

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-house-'))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

const put = async (name: string, bytes: Uint8Array, role: string): Promise<ItemSource['files'][number]> => {
  await writeFile(join(folder, name), bytes)
  return { file: await sourceFileAt(join(folder, name), name), role, byContentOnly: false, handednessHint: null }
}
const itemOf = (kind: ItemSource['kind'], files: ItemSource['files']): ItemSource => ({
  kind,
  name: 'x',
  files,
  widthMm: 600,
  constants: {},
})

/** Finds, fixes what is asked for, and finds again. */
async function fix(item: ItemSource, codes: string[], category: string | null = null) {
  const before = await inspectItem(item, category, { withPictures: true })
  const fixes = before.findings.filter(f => codes.includes(f.code)).map(f => proposeFix(f)!)
  expect(fixes.length).toBe(codes.length)
  const derived = await applyFixes(item, fixes)
  const files = [...item.files]
  for (const d of derived) {
    const entry = await put(basename(d.path).replace(/^/, `fixed-${Math.random().toString(36).slice(2)}-`), d.bytes, d.role)
    const at = files.findIndex(f => f.file.path === d.from)
    if (at >= 0) files[at] = entry
    else files.push(entry)
  }
  return { before, derived, after: await inspectItem({ ...item, files }, category) }
}

describe('the house habits of skies', () => {
  for (const [type, encode, decode] of [
    ['exr', encodeExr, parseExr],
    ['hdr', writeHdr, parseHdr],
  ] as const)
    it(`heading and exposure of a .${type} are brought to the house's, at once, and nothing else changes`, async () => {
      const sky = makeSunSky(77, 40, 1024)
      const item = itemOf('environment', [await put(`sky.${type}`, encode(sky), 'environment')])
      const { before, derived, after } = await fix(item, ['headingOff', 'exposureOff'])
      expect(Math.abs(Number(after.facts.sunAzimuthDeg))).toBeLessThan(0.5)
      expect(after.facts.sunElevationDeg).toBeCloseTo(Number(before.facts.sunElevationDeg), 0)
      expect(Number(after.facts.horizontalIrradiance)).toBeCloseTo(Math.PI, 1)
      expect(after.facts.sunShare).toBeCloseTo(Number(before.facts.sunShare), 2)
      expect(after.findings.map(f => f.code)).not.toContain('headingOff')
      expect(after.findings.map(f => f.code)).not.toContain('exposureOff')
      expect(decode(derived[0].bytes).width).toBe(1024)
      // Both findings are drawn as they are and as they would be.
      const drawn = before.evidence.map(e => [before.findings[e.index].code, e.after !== null])
      expect(drawn).toEqual(
        expect.arrayContaining([
          ['headingOff', true],
          ['exposureOff', true],
        ]),
      )
    })

  it('an overcast sky has no heading to turn', async () => {
    const flat = makeSunSky(0, 40, 256, 1)
    expect(analyseEnvironment(flat).findings.map(f => f.code)).not.toContain('headingOff')
  })

  it('smaller sizes carry the same light', async () => {
    const item = itemOf('environment', [await put('Wide_4k.exr', encodeExr(makeSunSky(0, 30, 4096)), 'environment')])
    const { before, derived, after } = await fix(item, ['tiersMissing'])
    expect(derived.map(d => [basename(d.path), d.role])).toEqual([
      ['Wide_4k.exr', 'environment'],
      ['Wide_2k.exr', 'alternate'],
      ['Wide_1k.exr', 'alternate'],
    ])
    for (const d of derived.slice(1)) {
      const { facts } = analyseEnvironment(parseExr(d.bytes))
      expect(facts.horizontalIrradiance / Number(before.facts.horizontalIrradiance)).toBeCloseTo(1, 2)
      expect(facts.sunElevationDeg).toBeCloseTo(30, 0)
    }
    expect(after.findings.map(f => f.code)).not.toContain('tiersMissing')
  })
})

describe('maps', () => {
  it('packed ones become maps of their own, to the value; the packed one stands aside', async () => {
    const pixels = Buffer.alloc(64 * 64 * 3)
    for (let i = 0; i < 64 * 64; i++) pixels.set([200, i % 256, i % 2 ? 255 : 0], i * 3)
    const packed = await sharp(pixels, { raw: { width: 64, height: 64, channels: 3 } })
      .png()
      .toBuffer()
    const color = await sharp({ create: { width: 64, height: 64, channels: 3, background: '#a86' } })
      .png()
      .toBuffer()
    const item = itemOf('material', [await put('Tin_basecolor.png', color, 'baseColor'), await put('Tin_ORM.png', packed, 'orm')])
    const { derived, after } = await fix(item, ['packedMaps'])
    expect(derived.map(d => [basename(d.path), d.role])).toEqual([
      ['Tin_ORM.png', 'alternate'],
      ['Tin_ambientOcclusion.png', 'ambientOcclusion'],
      ['Tin_roughness.png', 'roughness'],
      ['Tin_metalness.png', 'metalness'],
    ])
    const values = async (k: number) => [...(await sharp(derived[k].bytes).toColourspace('b-w').raw().toBuffer())].slice(0, 6)
    expect(await values(1)).toEqual([200, 200, 200, 200, 200, 200])
    expect(await values(2)).toEqual([0, 1, 2, 3, 4, 5])
    expect(await values(3)).toEqual([0, 255, 0, 255, 0, 255])
    expect(after.facts.maps).toBe('baseColor, ambientOcclusion, roughness, metalness')
  })

  it('over budget are reduced to it, all of a set alike', async () => {
    const flat = (background: string) =>
      sharp({ create: { width: 5000, height: 2500, channels: 3, background } })
        .png()
        .toBuffer()
    const item = itemOf('material', [
      await put('Wide_basecolor.png', await flat('#a86'), 'baseColor'),
      await put('Wide_normal.png', await flat('#8080ff'), 'normal'),
    ])
    const { derived, after } = await fix(item, ['mapsOverBudget'])
    for (const d of derived) expect(await sharp(d.bytes).metadata()).toMatchObject({ width: 4096, height: 2048 })
    expect(after.findings.map(f => f.code)).not.toContain('mapsOverBudget')
  })
})

describe('textures inside a model', () => {
  it('over budget are reduced to it; the shape stays', async () => {
    const document = await writeGlb({
      folder: '',
      stem: 'Slab',
      parts: [
        {
          name: 'slab',
          mesh: createBox(1, 0.1, 1),
          finish: { name: 'Oak', color: [1, 1, 1], roughness: 0.5, recipe: TEXTURE_RECIPES[0] },
        },
      ],
    })
    const { WebIO } = await import('@gltf-transform/core')
    const { ALL_EXTENSIONS } = await import('@gltf-transform/extensions')
    const io = new WebIO().registerExtensions(ALL_EXTENSIONS)
    const model = await io.readBinary(document)
    const huge = await sharp({ create: { width: 3000, height: 1500, channels: 3, background: '#a86' } })
      .png()
      .toBuffer()
    model.getRoot().listTextures()[0].setImage(new Uint8Array(huge)).setMimeType('image/png')
    const item = itemOf('model', [await put('Slab.glb', await io.writeBinary(model), 'model')])
    const { before, derived, after } = await fix(item, ['texturesOverBudget'], 'building')
    expect(before.findings.find(f => f.code === 'texturesOverBudget')?.evidence).toMatchObject({ count: 1, largestPx: 3000 })
    const { images, parts } = await parseGlb(derived[0].bytes)
    for (const image of images)
      expect(
        Math.max(
          ...Object.values(
            await sharp(image.bytes)
              .metadata()
              .then(m => [m.width ?? 0, m.height ?? 0]),
          ),
        ),
      ).toBeLessThanOrEqual(2048)
    expect(parts[0].mesh.indices.length).toBe(36)
    expect(after.findings.map(f => f.code)).not.toContain('texturesOverBudget')
  })
})
