import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { Document } from '@gltf-transform/core'
import { KHRMaterialsClearcoat } from '@gltf-transform/extensions'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Model } from '#core/geometry/model'
import { parseGlb } from '#core/geometry/read-gltf'
import { createBox } from '#core/geometry/shapes'
import { writeGltfBinary } from '#core/targets/gltf'
import { createPrimitive } from '../../demo/model-file'
import { openScene } from '../audits/scene-file'
import { writeGlbFiles } from '../audits/write-scene-form'
import { type SourceFile, sourceFileAt } from '../reading/source-file'
import { assembleModel } from './assemble-model'

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-forms-'))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

const put = async (path: string, bytes: Uint8Array | string): Promise<SourceFile> => {
  await mkdir(dirname(join(folder, path)), { recursive: true })
  await writeFile(join(folder, path), bytes)
  return sourceFileAt(join(folder, path), path)
}

/** 2 x 2, one colour; with alpha, the left half of it clear. */
const png = (r: number, g: number, b: number, clear: boolean | null = null): Promise<Buffer> =>
  sharp(Buffer.from(Array.from({ length: 4 }, (_, i) => [r, g, b, ...(clear === null ? [] : [i % 2 === 0 ? 0 : 255])]).flat()), {
    raw: { width: 2, height: 2, channels: clear === null ? 3 : 4 },
  })
    .png()
    .toBuffer()

const pixelsOf = async ({ bytes }: { bytes: Uint8Array }) => [...(await sharp(bytes).raw().toBuffer())]

/** Two boxes in a group of their own that is of the library, and a third beside it; the first and the third share a material with factors. */
async function makeRoom(): Promise<Uint8Array> {
  const document = new Document()
  document.createBuffer()
  const texture = (name: string, bytes: Buffer) =>
    document.createTexture(name).setImage(new Uint8Array(bytes)).setMimeType('image/png')
  const oak = document
    .createMaterial('TIM-0001 Oak plank')
    .setExtras({ muscovite: { code: 'TIM-0001', version: 2 } })
    .setBaseColorFactor([0.5, 0.6, 0.7, 1])
    .setBaseColorTexture(texture('oak', await png(200, 150, 100)))
    .setMetallicRoughnessTexture(texture('oak surface', await png(255, 180, 20)))
    .setRoughnessFactor(0.7)
    .setMetallicFactor(0.5)
  const coat = document.createExtension(KHRMaterialsClearcoat).createClearcoat()
  const leaf = document
    .createMaterial('Leaf')
    .setBaseColorTexture(texture('leaf', await png(40, 120, 30, true)))
    .setAlphaMode('MASK')
    .setDoubleSided(true)
    .setMetallicFactor(0)
    .setExtension('KHR_materials_clearcoat', coat.setClearcoatFactor(0.8).setClearcoatRoughnessFactor(0.25))
  const box = (name: string, material: typeof oak) =>
    document
      .createNode(name)
      .setMesh(document.createMesh(name).addPrimitive(createPrimitive(document, createBox(1, 1, 1)).setMaterial(material)))
  const chair = (version: number) =>
    document
      .createNode('Chair')
      .setExtras({ muscovite: { code: 'CHR-0001', version } })
      .addChild(box('seat', oak))
      .addChild(box('back', leaf))
  const scene = document.createScene('Room')
  scene.addChild(chair(3)).addChild(chair(4)).addChild(box('floor', oak))
  // What stands in no scene is shown by nobody.
  document.createNode('spare').setMesh(document.getRoot().listMeshes()[0])
  return writeGltfBinary(document)
}

const partsByName = (model: Model) => model.parts.map(p => [p.name, ...(p.groups ?? []).map(g => g.name)].join(' < ')).sort()

describe('a scene in another form, read again', () => {
  for (const form of ['usdz', 'obj'] as const)
    it(`${form}: has its groups with their stamps, each material once, and what its values mean`, async () => {
      const files = await Promise.all(
        (await writeGlbFiles(await makeRoom(), form, 'room')).map(f => put(`${form}/${f.path}`, f.bytes)),
      )
      const scene = await openScene(files[0], files)
      const stamped = (scene.json.nodes ?? []).filter(n => n.extras?.muscovite).map(n => [n.name, n.extras!.muscovite])
      expect(stamped).toEqual([
        ['Chair', { code: 'CHR-0001', version: 3 }],
        // OpenUSD keeps what people called it beside the name that its prim had to have.
        [form === 'usdz' ? 'Chair' : 'Chair_2', { code: 'CHR-0001', version: 4 }],
      ])
      expect((scene.json.materials ?? []).filter(m => m.extras?.muscovite)).toHaveLength(1)
      await scene.close()
      const model = await parseGlb((await assembleModel(files[0], files)).bytes)
      expect(model.parts.map(p => p.groups?.at(-1)?.name.startsWith('Chair') ?? false)).toEqual(
        form === 'usdz' ? [false, true, true, true, true] : [true, true, true, true, false],
      )
      expect(model.materials).toHaveLength(2)
      const [oak, leaf] = ['oak', 'leaf'].map(word => model.materials.find(m => m.name.toLowerCase().includes(word))!)
      expect(oak.name).toMatch(/^TIM[-_]0001_Oak_plank$/)
      for (const [k, factor] of [0.5, 0.6, 0.7].entries()) expect(oak.parameters.baseColor[k]).toBeCloseTo(factor, 5)
      expect(oak.parameters.specularRoughness).toBeCloseTo(0.7, 5)
      expect(oak.parameters.baseMetalness).toBeCloseTo(0.5, 5)
      expect((await pixelsOf(model.images[oak.textures.specularRoughness!.image])).slice(1, 3)).toEqual([180, 20])
      expect(leaf.parameters.coatWeight).toBeCloseTo(0.8, 5)
      expect(leaf.parameters.coatRoughness).toBeCloseTo(0.25, 5)
      expect(leaf.textures.geometryOpacity?.channel).toBe(3)
      expect((await pixelsOf(model.images[leaf.textures.geometryOpacity!.image])).filter((_, i) => i % 4 === 3)).toEqual([
        0, 255, 0, 255,
      ])
    })

  it('leaves out what stands in no scene', async () => {
    expect(partsByName(await parseGlb(await makeRoom()))).toEqual([
      'back < Chair',
      'back < Chair',
      'floor',
      'seat < Chair',
      'seat < Chair',
    ])
  })
})

describe('maps of an OBJ that others wrote', () => {
  const PLANE = 'mtllib a.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 0 1\nusemtl a\nf 1/1 2/2 3/3\n'
  const readWith = async (name: string, mtl: string, pictures: Record<string, Buffer>): Promise<Model> => {
    const main = await put(`${name}/a.obj`, PLANE)
    const parts = [await put(`${name}/a.mtl`, mtl)]
    for (const [path, bytes] of Object.entries(pictures)) parts.push(await put(`${name}/${path}`, bytes))
    return parseGlb((await assembleModel(main, parts)).bytes)
  }

  it('are of the channel that they name, or where a coloured picture usually has them', async () => {
    const pictures = { 'surface.png': await png(255, 90, 30), 'grey.png': await png(60, 60, 60) }
    const named = await readWith('named', 'newmtl a\nmap_Pr -imfchan b surface.png\nmap_Pm -imfchan g surface.png\n', pictures)
    expect((await pixelsOf(named.images[0])).slice(1, 3)).toEqual([30, 90])
    const usual = await readWith('usual', 'newmtl a\nmap_Pr surface.png\nmap_Pm grey.png\n', pictures)
    expect((await pixelsOf(usual.images[0])).slice(1, 3)).toEqual([90, 60])
  })

  it('cut out with a picture of their own; a grey that stands beside a texture is nobody’s tint', async () => {
    const pictures = { 'leaf.png': await png(40, 120, 30), 'cut.png': await png(255, 255, 255, true) }
    const model = await readWith('cut', 'newmtl a\nKd 0.8 0.8 0.8\nmap_Kd leaf.png\nmap_d cut.png\n', pictures)
    const [leaf] = model.materials
    expect(leaf.parameters.baseColor).toEqual([1, 1, 1])
    expect(await pixelsOf(model.images[leaf.textures.geometryOpacity!.image])).toEqual(
      [0, 255, 0, 255].flatMap(alpha => [40, 120, 30, alpha]),
    )
  })

  it('may glow brighter than a screen’s white', async () => {
    const { materials } = await readWith('glow', 'newmtl a\nKe 4 2 1\n', {})
    const one = (await readWith('dim', 'newmtl a\nKe 1 0.5 0.25\n', {})).materials[0].parameters.emissionLuminance
    expect(materials[0].parameters.emissionLuminance).toBeCloseTo(4 * one, 3)
  })
})
