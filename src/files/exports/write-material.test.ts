import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { FloatType } from 'three'
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { writeExr } from '#core/codecs/write-exr'
import { parseGlb } from '#core/geometry/read-gltf'
import { HOUSE_PROFILE, type Profile } from '#core/hand-over/profile'
import { findNormalHandedness } from '#core/material/normal-map'
import { makeSunSky, makeSurfaceMaps } from '../../../tests/fixtures'
import { encodeMap } from '../../demo/make-file'
import type { ItemSource } from '../items/item-source'
import { decodeEnvironment } from '../reading/decode-environment'
import { decodeByteImage, decodeFullDepth, readImageHeader } from '../reading/decode-image'
import { writeMaterialFiles, writeMaterialGlb, writeMaterialMap } from './write-material'

let folder: string
let source: ItemSource
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-write-'))
  const roles = {
    basecolor: 'baseColor',
    normal: 'normal',
    roughness: 'gloss',
    height: 'height',
    ao: 'ambientOcclusion',
  } as const
  const files: ItemSource['files'] = []
  for (const map of makeSurfaceMaps(128)) {
    const role = roles[map.role as keyof typeof roles]
    const data = map.role === 'normal' ? map.data.map((v, i) => (i % 3 === 1 ? 255 - v : v)) : map.data
    const diskPath = join(folder, `${map.role}.png`)
    const bytes = await encodeMap({ ...map, data } as typeof map)
    await writeFile(diskPath, bytes)
    files.push({
      file: { path: `${map.role}.png`, diskPath, size: bytes.length },
      role,
      byContentOnly: false,
      handednessHint: null,
    })
  }
  source = { kind: 'material', name: 'Wall', widthMm: 600, constants: {}, files }
})
afterAll(() => rm(folder, { recursive: true, force: true }))

const writeAs = async (form: 'materialX' | 'usd' | 'objMtl', rules: Partial<Profile> = {}, of = source) => {
  const names = { item: 'WALL', texture: (map: string) => `WALL_${map}` }
  return (await writeMaterialFiles(of, names, form, { ...HOUSE_PROFILE, ...rules }, { code: 'PLA-0001', version: 1 })).files
}

describe('one map of a material alone', () => {
  const names = { item: 'WALL', texture: (map: string) => `WALL_${map}` }
  const mapAs = (map: Parameters<typeof writeMaterialMap>[3], rules: Partial<Profile> = {}) =>
    writeMaterialMap(source, names, { ...HOUSE_PROFILE, ...rules }, map)

  it('is the very file that the whole would have, whatever the profile wants', async () => {
    const profiles: Partial<Profile>[] = [
      {},
      { normals: 'openGl', roughness: 'roughness', maxSizePx: 64, dataFiles: 'png16', colorFiles: 'jpeg' },
      { packing: 'packed' },
      { packing: 'apart' },
    ]
    for (const rules of profiles) {
      const whole = await writeAs('materialX', rules)
      for (const map of ['baseColor', 'normal', 'roughness', 'occlusion'] as const) {
        const { path, bytes } = await mapAs(map, rules)
        const same = whole.find(f => f.path === `textures/${path}`)
        expect({ map, path, isThere: same !== undefined }).toEqual({ map, path, isThere: true })
        expect(Buffer.compare(bytes, same!.bytes)).toBe(0)
      }
    }
    expect((await mapAs('roughness', { packing: 'packed' })).path).toBe('WALL_occlusionRoughnessMetalness.png')
    expect((await mapAs('roughness')).path).toBe('WALL_gloss.png')
  })

  it('that it has not is refused', async () => {
    await expect(mapAs('emission')).rejects.toThrow('This material has no emission map.')
  })
})

describe('writing a material', () => {
  it('as glTF turns green up, gloss into roughness, and reduces what is too large', async () => {
    const [glb] = await writeMaterialGlb(source, 'WALL', 64, { code: 'PLA-0001', version: 1 })
    const { images, materials } = await parseGlb(glb.bytes)
    const { textures } = materials[0]
    const normal = await decodeByteImage(images[textures.geometryNormal!.image].bytes, 999)
    expect([normal.width, normal.height]).toEqual([64, 64])
    expect(findNormalHandedness(normal).handedness).toBe('openGl')
    const packed = await decodeByteImage(images[textures.specularRoughness!.image].bytes, 999)
    const gloss = await decodeByteImage(join(folder, 'roughness.png'), 64)
    const meanOf = (data: Uint8Array, from: number, step: number) => {
      let sum = 0
      for (let i = from; i < data.length; i += step) sum += data[i]
      return sum / (data.length / step)
    }
    expect(meanOf(packed.data, 1, packed.channels) + meanOf(gloss.data, 0, gloss.channels)).toBeCloseTo(255, -1)
  })

  it('as MaterialX keeps files as they are where they fit, and height in 16 bits where they do not', async () => {
    const whole = await writeAs('materialX')
    const height = whole.find(f => f.path.includes('height'))!
    expect(Buffer.from(height.bytes)).toEqual(await readFile(join(folder, 'height.png')))
    const small = await writeAs('materialX', { maxSizePx: 32 })
    const reduced = small.find(f => f.path.includes('height'))!
    expect(await readImageHeader(reduced.bytes)).toMatchObject({ widthPx: 32, heightPx: 32, bitsPerChannel: 16 })
    const text = new TextDecoder().decode(small.find(f => f.path.endsWith('.mtlx'))!.bytes)
    expect(text).toContain('<invert ')
    expect(text).toContain('value="1, -1"')
  })

  it('refuses one whose files are gone', async () => {
    const gone = { ...source, files: source.files.map(f => ({ ...f, file: { ...f.file, diskPath: join(folder, 'gone.png') } })) }
    await expect(writeAs('materialX', {}, gone)).rejects.toMatchObject({ name: 'FileError' })
  })
})

describe('reading', () => {
  it('our OpenEXR is read the same by another reader', () => {
    const map = makeSunSky(30, 40, 64)
    const bytes = writeExr(map)
    const ours = decodeEnvironment(bytes, 'exr')
    const theirs = new EXRLoader().setDataType(FloatType).parse(bytes.slice().buffer) as unknown as {
      data: Float32Array
      width: number
      height: number
    }
    const channels = theirs.data.length / (64 * 32)
    for (let y = 0; y < 32; y++)
      for (let x = 0; x < 64; x++)
        for (let c = 0; c < 3; c++) expect(ours.data[(y * 64 + x) * 3 + c]).toBe(theirs.data[((31 - y) * 64 + x) * channels + c])
  })

  it('heights keep their 16 bits for the checks, and become 8 for the preview', async () => {
    const deep = await decodeFullDepth(join(folder, 'height.png'), 999)
    expect(deep.data).toBeInstanceOf(Uint16Array)
    expect(new Set(deep.data).size).toBeGreaterThan(2000)
    expect((await decodeByteImage(join(folder, 'height.png'), 999)).data).toBeInstanceOf(Uint8Array)
  })

  it('of a picture larger than the checks look at, texels are left out: none is made that was not there', async () => {
    const size = 64
    const levels = Uint16Array.from({ length: size * size }, (_, i) => ((i % 5) * 13_001) & 0xffff)
    const steps = await sharp(levels, { raw: { width: size, height: size, channels: 1 } })
      .toColourspace('grey16')
      .png()
      .toBuffer()
    const deep = await decodeFullDepth(steps, 24)
    expect([deep.width, deep.data.constructor]).toEqual([24, Uint16Array])
    expect([...new Set(deep.data)].every(v => v % 13_001 === 0)).toBe(true)
    // Normals that lean left and right by turns: their mean is short, none of them is.
    const lean = [Math.round(127.5 * 1.6), Math.round(127.5 * 0.4)]
    const ridges = Buffer.from(Array.from({ length: size * size }, (_, i) => [lean[i % 2], 128, Math.round(127.5 * 1.8)]).flat())
    const normals = await sharp(ridges, { raw: { width: size, height: size, channels: 3 } })
      .png()
      .toBuffer()
    const fewer = await decodeFullDepth(normals, 24)
    expect([...fewer.data].filter((_, i) => i % 3 === 0).every(v => lean.includes(v))).toBe(true)
  })

  it('pictures that are none are refused with a sentence', async () => {
    await expect(readImageHeader(new Uint8Array([1, 2, 3]))).rejects.toMatchObject({ name: 'FileError' })
    await expect(decodeByteImage(join(folder, 'nowhere.png'), 9)).rejects.toMatchObject({ name: 'FileError' })
  })
})
