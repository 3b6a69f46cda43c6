import { spawnSync } from 'node:child_process'
import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { unzipSync } from 'fflate'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { analyseEnvironment } from '#core/environment/analyse-environment'
import type { Model } from '#core/geometry/model'
import { parseGlb } from '#core/geometry/read-gltf'
import { createBox } from '#core/geometry/shapes'
import { HOUSE_PROFILE, type Profile } from '#core/hand-over/profile'
import { findNormalHandedness } from '#core/material/normal-map'
import { parseMaterialX } from '#core/targets/materialx/read-materialx'
import { parseMtl } from '#core/targets/obj-mtl'
import { parseUsdPreviewSurface } from '#core/targets/usd/usd-preview-surface'
import { makeSunSky, makeSurfaceMaps } from '../../../tests/fixtures'
import { DEMO_PIECES, encodeMap, makePiece } from '../../demo/make-file'
import { type ModelRecipe, writeGlb } from '../../demo/model-file'
import { tileFbm } from '../../demo/tile-noise'
import type { ItemSource } from '../items/item-source'
import { assembleModel } from '../models/assemble-model'
import { decodeEnvironment } from '../reading/decode-environment'
import { decodeAsIs, readImageHeader } from '../reading/decode-image'
import { sourceFileAt } from '../reading/source-file'
import { encodeExr } from '../writing/encode-exr'
import { type ExportItem, writeExport } from './write-export'

/** A plank with a map for everything, its normal map of the other handedness and its roughness told as gloss. */
const ROLES = {
  basecolor: 'baseColor',
  normal: 'normal',
  roughness: 'gloss',
  metalness: 'metalness',
  height: 'height',
  ao: 'ambientOcclusion',
} as const

let folder: string
let wall: ExportItem
let chair: ExportItem
let plain: Model
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-forms-'))
  const files: ItemSource['files'] = []
  for (const map of makeSurfaceMaps(128)) {
    const role = ROLES[map.role as keyof typeof ROLES]
    if (!role) continue
    const data = map.role === 'normal' ? map.data.map((v, i) => (i % 3 === 1 ? 255 - v : v)) : map.data
    const bytes = await encodeMap({ ...map, data } as typeof map)
    await writeFile(join(folder, `${map.role}.png`), bytes)
    const file = await sourceFileAt(join(folder, `${map.role}.png`), `${map.role}.png`)
    files.push({ file, role, byContentOnly: false, handednessHint: null })
  }
  wall = {
    source: { kind: 'material', name: 'Lime wall', widthMm: 600, constants: {}, files },
    ...{ code: 'PLA-0001', version: 2, category: 'surfaces.plaster', maker: 'Oddmere', licence: '' },
  }
  const [path] = await makePiece(DEMO_PIECES.find(piece => piece.stem === 'Slat_Back_Chair')!, folder)
  plain = await parseGlb(new Uint8Array(await readFile(join(folder, path))))
  chair = {
    source: {
      ...{ kind: 'model', name: 'Slat back chair', widthMm: null, constants: {} },
      files: [{ file: await sourceFileAt(join(folder, path), path), role: 'model', byContentOnly: false, handednessHint: null }],
    },
    ...{ code: 'CHR-0001', version: 1, category: 'furniture.chairs', maker: '', licence: '' },
  }
})
afterAll(() => rm(folder, { recursive: true, force: true }))

let serial = 0
async function write(items: ExportItem[], profile: Partial<Profile>) {
  const zip = join(folder, `${++serial}.zip`)
  const { manifest } = await writeExport(items, { ...HOUSE_PROFILE, ...profile }, { project: null }, zip)
  expect(manifest.failures).toEqual([])
  const entries = unzipSync(new Uint8Array(await readFile(zip)))
  const root = join(folder, `out-${serial}`)
  for (const [path, bytes] of Object.entries(entries)) {
    await mkdir(dirname(join(root, path)), { recursive: true })
    await writeFile(join(root, path), bytes)
  }
  const pathOf = (ending: string) => Object.keys(entries).find(path => path.endsWith(ending))!
  return { manifest, entries, root, pathOf, text: (ending: string) => Buffer.from(entries[pathOf(ending)]).toString('utf8') }
}

const trianglesOf = (model: Model) => model.parts.reduce((n, p) => n + p.mesh.indices.length / 3, 0)
const boundsOf = ({ parts }: Model) => {
  const bounds = { min: [1e9, 1e9, 1e9], max: [-1e9, -1e9, -1e9] }
  for (const { mesh } of parts)
    mesh.positions.forEach((v, i) => {
      bounds.min[i % 3] = Math.min(bounds.min[i % 3], v)
      bounds.max[i % 3] = Math.max(bounds.max[i % 3], v)
    })
  return bounds
}

describe('a model', () => {
  it('as OpenUSD package: stored, each file at a multiple of 64 bytes, the layer first', async () => {
    const { entries, pathOf } = await write([chair], { models: 'usdz' })
    const bytes = entries[pathOf('.usdz')]
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
    const names: string[] = []
    let at = 0
    while (view.getUint32(at, true) === 0x04034b50) {
      const [size, nameLength, extraLength] = [
        view.getUint32(at + 18, true),
        view.getUint16(at + 26, true),
        view.getUint16(at + 28, true),
      ]
      expect(view.getUint16(at + 8, true)).toBe(0)
      names.push(Buffer.from(bytes.subarray(at + 30, at + 30 + nameLength)).toString())
      const start = at + 30 + nameLength + extraLength
      expect(start % 64).toBe(0)
      at = start + size
    }
    expect(names[0]).toMatch(/\.usda$/)
    expect(names.slice(1).every(name => /^textures\/.+\.(png|jpg)$/.test(name))).toBe(true)
    expect(names.length).toBe(1 + plain.images.length)
  })

  it('is the same to a reader that is none of ours, whatever its unit and its axes', async () => {
    for (const space of [{}, { unit: 'cm', upAxis: 'z' }, { unit: 'mm' }] as const) {
      const { root, pathOf } = await write([chair], { models: 'usdz', ...space })
      const file = await sourceFileAt(join(root, pathOf('.usdz')), 'chair.usdz')
      const read = await parseGlb((await assembleModel(file, [])).bytes)
      expect(trianglesOf(read)).toBe(trianglesOf(plain))
      const slotsOf = (model: Model) => model.parts.map(p => Object.keys(model.materials[p.material].textures).sort())
      expect(slotsOf(read)).toEqual(slotsOf(plain))
      const [theirs, ours] = [boundsOf(read), boundsOf(plain)]
      for (const end of ['min', 'max'] as const)
        for (const [k, v] of theirs[end].entries()) expect(v).toBeCloseTo(ours[end][k], 4)
    }
  })

  it('a model goes out with its lighter versions beside it, or as the lightest of them', async () => {
    const lighter = async (name: string, role: string, boxes: number) => {
      const path = `${name}.glb`
      const finish: ModelRecipe['parts'][number]['finish'] = { name: 'Oak', color: [0.4, 0.3, 0.2], roughness: 0.5 }
      const parts = Array.from({ length: boxes }, (_, k) => ({ name: `box ${k}`, mesh: createBox(0.4, 0.4, 0.4), finish }))
      await writeFile(join(folder, path), await writeGlb({ folder: '', stem: name, parts }))
      return { file: await sourceFileAt(join(folder, path), path), role, byContentOnly: false, handednessHint: null }
    }
    const files = [...chair.source.files, await lighter('level', 'lod', 4), await lighter('proxy', 'standIn', 1)]
    const levelled: ExportItem = { ...chair, source: { ...chair.source, files } }
    const countIn = async (root: string, path: string) =>
      trianglesOf(await parseGlb(new Uint8Array(await readFile(join(root, path)))))
    const all = await write([levelled], { modelDetail: 'levels' })
    const counts = await Promise.all(['v1.glb', '_LOD1.glb', '_stand-in.glb'].map(end => countIn(all.root, all.pathOf(end))))
    expect(counts[0]).toBeGreaterThan(counts[1])
    expect(counts[1]).toBeGreaterThan(counts[2])
    const light = await write([levelled], { modelDetail: 'light' })
    expect(await countIn(light.root, light.pathOf('.glb'))).toBe(counts[2])
    expect(light.manifest.items[0].files).toHaveLength(1)
    // In any form, each under a name of its own.
    const obj = await write([levelled], { modelDetail: 'levels', models: 'obj' })
    expect(['v1.obj', '_LOD1.obj', '_stand-in.obj'].map(end => typeof obj.pathOf(end))).toEqual(['string', 'string', 'string'])
    // Of a model without any, that is said.
    const plainOne = await write([chair], { modelDetail: 'light' })
    expect(plainOne.manifest.items[0].notes).toEqual(['It has no lighter version: the full one alone is here.'])
    expect(await countIn(plainOne.root, plainOne.pathOf('.glb'))).toBe(counts[0])
  })

  it('as OBJ has the faces and the bounds that assimp reads, in the unit and the axes asked for', async () => {
    const { root, pathOf, text } = await write([chair], { models: 'obj', unit: 'mm', upAxis: 'z' })
    const { stdout } = spawnSync('assimp', ['info', join(root, pathOf('.obj'))], { encoding: 'utf8' })
    expect(Number(/^Faces:\s+(\d+)/m.exec(stdout)?.[1])).toBe(trianglesOf(plain))
    const point = (word: string) =>
      /\(([^)]*)\)/
        .exec(stdout.slice(stdout.indexOf(`${word} point`)))![1]
        .split(' ')
        .map(Number)
    const { min, max } = boundsOf(plain)
    const [low, high] = [point('Minimum'), point('Maximum')]
    expect(high[2] - low[2]).toBeCloseTo((max[1] - min[1]) * 1000, 1)
    expect(high[0] - low[0]).toBeCloseTo((max[0] - min[0]) * 1000, 1)
    expect(text('.obj')).toContain('# muscovite CHR-0001 1')
    const library = text('.mtl')
    expect([...library.matchAll(/^newmtl /gm)].length).toBe(plain.materials.length)
    for (const [, file] of library.matchAll(/^map_Kd (?:.* )?(\S+)$/gm))
      await readFile(join(dirname(join(root, pathOf('.mtl'))), file))
  })
})

describe('a material', () => {
  it('as OpenUSD stands on a patch of its size, with both of its surfaces and every file there', async () => {
    const { root, pathOf, text, manifest } = await write([wall], { materials: 'usd' })
    const layer = text('.usda')
    const assets = [...layer.matchAll(/@([^@]+)@/g)].map(m => m[1])
    expect(new Set(assets).size).toBe(3)
    for (const path of assets) await readFile(join(dirname(join(root, pathOf('.usda'))), path))
    expect(layer).toContain('token outputs:surface.connect')
    expect(layer).toContain('token outputs:mtlx:surface.connect')
    expect(layer).toContain('"ND_open_pbr_surface_surfaceshader"')
    // Green points down and gloss is no roughness: the reader is told how to take them.
    expect(layer).toContain('float4 inputs:scale = (2, -2, 2, 1)')
    expect(layer).toContain('float4 inputs:scale = (-1, -1, -1, -1)')
    expect(parseUsdPreviewSurface(layer).baseMetalness ?? 0).toBe(0)
    const file = await sourceFileAt(join(root, pathOf('.usda')), 'wall.usda')
    const model = await parseGlb((await assembleModel(file, [])).bytes)
    const { min, max } = boundsOf(model)
    expect(max[0] - min[0]).toBeCloseTo(0.6, 5)
    expect(manifest.items[0].notes.some(note => note.includes('height map'))).toBe(true)
  })

  it('as MaterialX has its heights as displacement, and says what becomes of the occlusion', async () => {
    const { text, manifest } = await write([wall], {})
    const parsed = parseMaterialX(text('.mtlx'))
    expect(parsed.maps.map(m => m.role)).toContain('height')
    // The wall was made of waves of 12 mm by a noise that does not reach its ends.
    const noise = Array.from({ length: 128 * 128 }, (_, i) =>
      tileFbm(7, ((i % 128) + 0.5) / 128, (Math.floor(i / 128) + 0.5) / 128, 6, 6, 4),
    )
    const reliefM = (Math.max(...noise) - Math.min(...noise)) * 0.012
    const written = Number(/<input name="scale" type="float" value="([^"]+)"/.exec(text('.mtlx'))?.[1])
    expect(written / reliefM).toBeCloseTo(1, 1)
    expect(manifest.items[0].notes).toHaveLength(2)
  })

  it('as OBJ has upright normals and roughness, whatever it is kept as', async () => {
    const { root, pathOf, text } = await write([wall], { materials: 'objMtl' })
    expect(parseMtl(text('.mtl')).baseColor).toEqual([1, 1, 1])
    const normal = await decodeAsIs(join(root, pathOf('_normal.png')))
    expect(findNormalHandedness(normal).handedness).toBe('openGl')
    const [gloss, roughness] = await Promise.all([
      decodeAsIs(join(folder, 'roughness.png')),
      decodeAsIs(join(root, pathOf('_roughness.png'))),
    ])
    for (let i = 0; i < gloss.data.length; i += 97) expect(roughness.data[i]).toBe(255 - gloss.data[i])
  })

  it('in a profile: its normals, its packing, its depth and its files, and the document says so', async () => {
    const { root, entries, pathOf, text } = await write([wall], {
      normals: 'openGl',
      roughness: 'roughness',
      packing: 'packed',
      dataFiles: 'tiff16',
      colorFiles: 'jpeg',
      maxSizePx: 64,
      folderName: '{category} {code}',
      textureName: '{code:lower} {map}',
    })
    const names = Object.keys(entries)
    expect(names).toContain('plaster_PLA_0001/plaster_PLA_0001.mtlx')
    expect(names).toContain('plaster_PLA_0001/textures/pla_0001_baseColor.jpg')
    const packed = pathOf('pla_0001_occlusionRoughnessMetalness.tif')
    expect(await readImageHeader(join(root, packed))).toMatchObject({ widthPx: 64, channels: 3, bitsPerChannel: 16 })
    const whole = await decodeAsIs(join(root, packed))
    const [gloss, occlusion] = await Promise.all(
      ['roughness.png', 'ao.png'].map(name => sharp(join(folder, name)).resize(64, 64).raw().toBuffer()),
    )
    const mean = (data: ArrayLike<number>, from: number, step: number) => {
      let sum = 0
      for (let i = from; i < data.length; i += step) sum += data[i]
      return sum / (data.length / step)
    }
    const step = gloss.length / (64 * 64)
    expect(mean(whole.data, 1, 3) / 257).toBeCloseTo(255 - mean(gloss, 0, step), 0)
    expect(mean(whole.data, 0, 3) / 257).toBeCloseTo(mean(occlusion, 0, occlusion.length / (64 * 64)), 0)
    expect(findNormalHandedness(await decodeAsIs(join(root, pathOf('_normal.tif')))).handedness).toBe('openGl')
    const document = text('.mtlx')
    expect(document).not.toContain('<invert ')
    expect(document).not.toContain('value="1, -1"')
    expect(parseMaterialX(document).files).toContain('textures/pla_0001_occlusionRoughnessMetalness.tif')
  })
})

describe('a sky', () => {
  it('turned ahead and lit by a white card has its sun in the middle, and reads 1', async () => {
    const bytes = encodeExr(makeSunSky(30, 40, 512))
    await writeFile(join(folder, 'sky.exr'), bytes)
    const file = await sourceFileAt(join(folder, 'sky.exr'), 'sky.exr')
    const sky: ExportItem = {
      source: {
        ...{ kind: 'environment', name: 'Clear', widthMm: null, constants: {} },
        files: [{ file, role: 'environment', byContentOnly: false, handednessHint: null }],
      },
      ...{ code: 'SKY-0001', version: 1, category: 'skies.clear', maker: '', licence: '' },
    }
    const kept = await write([sky], {})
    expect(Buffer.from(kept.entries[kept.pathOf('.exr')])).toEqual(Buffer.from(bytes))
    const { entries, pathOf, manifest } = await write([sky], { skyHeading: 'ahead', skyExposure: 'whiteCard' })
    const { facts } = analyseEnvironment(decodeEnvironment(entries[pathOf('.exr')], 'exr'))
    expect(Math.abs(facts.sunAzimuthDeg!)).toBeLessThan(1)
    expect(facts.whiteCardGain).toBeCloseTo(1, 2)
    expect(manifest.items[0].notes).toHaveLength(2)
  })
})
