import { mkdtemp, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Document, type Material } from '@gltf-transform/core'
import { EXTMeshGPUInstancing } from '@gltf-transform/extensions'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { parseGlb } from '#core/geometry/read-gltf'
import { createBox } from '#core/geometry/shapes'
import { writeGltfBinary } from '#core/targets/gltf'
import type { SourceFile } from '../reading/source-file'
import { makeStageModel } from './make-stage-model'

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'stage-model-'))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

async function put(name: string, bytes: Uint8Array | string): Promise<SourceFile> {
  const diskPath = join(folder, name)
  await writeFile(diskPath, bytes)
  return { path: name, diskPath, size: (await stat(diskPath)).size }
}

/** A scene as programs write them: names twice, several materials on a mesh, instances, a camera, things out of the scene. */
async function writeSite(): Promise<Uint8Array> {
  const document = new Document()
  const buffer = document.createBuffer()
  const scene = document.createScene('shown')
  const accessor = (type: 'VEC3' | 'VEC2' | 'SCALAR', array: Float32Array | Uint32Array) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
  const primitiveOf = (width: number, material: Material | null) => {
    const { positions, normals, uvs, indices } = createBox(width, 1, 1)
    return document
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', positions))
      .setAttribute('NORMAL', accessor('VEC3', normals))
      .setAttribute('TEXCOORD_0', accessor('VEC2', uvs))
      .setIndices(accessor('SCALAR', indices))
      .setMaterial(material)
  }
  const half = { create: { width: 1500, height: 1500, channels: 3, background: '#d0c8c0' } } as const
  const picture = await sharp({ create: { ...half.create, width: 3000, background: '#a04020' } })
    .composite([{ input: half, left: 0, top: 0 }])
    .png()
    .toBuffer()
  const brick = document
    .createMaterial('brick')
    .setBaseColorTexture(document.createTexture('brick').setImage(new Uint8Array(picture)).setMimeType('image/png'))
  const other = document.createMaterial('brick').setBaseColorFactor([0.02, 0.2, 0.02, 1])
  const wall = document.createMesh('wall').addPrimitive(primitiveOf(4, brick))
  scene.addChild(document.createNode('wall').setMesh(wall))
  scene.addChild(document.createNode('wall').setMesh(wall).setTranslation([0, 0, 5]))
  const mixed = document.createMesh('mixed').addPrimitive(primitiveOf(1, other)).addPrimitive(primitiveOf(2, null))
  scene.addChild(document.createNode('block').setMesh(mixed))
  const batch = document
    .createExtension(EXTMeshGPUInstancing)
    .createInstancedMesh()
    .setAttribute('TRANSLATION', accessor('VEC3', new Float32Array([0, 0, 0, 0, 0, 9])))
  scene.addChild(document.createNode('post').setMesh(wall).setExtension('EXT_mesh_gpu_instancing', batch))
  scene.addChild(document.createNode('eye').setCamera(document.createCamera('eye').setType('perspective').setYFov(1)))
  document.createNode('aside').setMesh(document.createMesh('aside').addPrimitive(primitiveOf(90, null)))
  return writeGltfBinary(document)
}

describe('the stage of a model', () => {
  it('has every part and every material under a name of its own, and only what is shown', async () => {
    const file = await put('site.glb', await writeSite())
    const made = await makeStageModel([file], 'asSaid', 'y')
    const model = await parseGlb(made.bytes)
    const names = model.parts.map(p => p.name)
    expect(new Set(names).size).toBe(names.length)
    expect(names).toHaveLength(6)
    expect(names).toEqual(expect.arrayContaining(['wall', 'wall 2', 'block brick 2', 'block no material']))
    expect(made.materials.map(m => [m.name, m.parts])).toEqual([
      ['brick', 4],
      ['brick 2', 1],
      ['no material', 1],
    ])
    expect(made.materials[0]).toMatchObject({ areaM2: expect.closeTo(4 * 18, 3), look: { isPlain: false } })
    expect(made.materials[1].look).toMatchObject({ isPlain: true })
    expect(model.strays.cameras).toBe(0)
    expect(made.sizeM).toEqual([4, 1, 10])
    expect(made.parts).toBe(6)
    const picture = await sharp(model.images[0].bytes).metadata()
    expect([picture.width, picture.height]).toEqual([2048, 1024])
  })

  it('stands in metres with y up, whatever the file has', async () => {
    const file = await put('flat.obj', 'v 0 0 0\nv 4000 0 0\nv 4000 3000 0\nv 0 0 2500\no plot\nf 1 2 3\nf 1 2 4\n')
    const made = await makeStageModel([file], 'mm', 'z')
    expect(made.sizeM.map(v => Math.round(v * 1000) / 1000)).toEqual([4, 2.5, 3])
    const { parts } = await parseGlb(made.bytes)
    // What was up is up, and north of the plan lies away from who looks at it.
    const [, top] = [0, 1].map(k => Math.max(...parts.flatMap(p => [...p.mesh.positions].filter((_, i) => i % 3 === k))))
    expect(top).toBeCloseTo(2.5, 5)
    const depth = parts.flatMap(p => [...p.mesh.positions].filter((_, i) => i % 3 === 2))
    expect(Math.min(...depth)).toBeCloseTo(-3, 5)
    expect(made.materials.map(m => m.name)).toEqual(['no material'])
  })

  it('is refused, with what to do, where nothing of it can stand', async () => {
    const far = await put('far.obj', 'v 0 0 0\nv 40000 0 0\nv 0 1 0\no plot\nf 1 2 3\n')
    await expect(makeStageModel([far], 'ft', 'y')).rejects.toMatchObject({
      code: 'tooLarge',
      message: expect.stringContaining('Read it again in a smaller unit'),
    })
    const text = await put('notes.txt', 'words')
    await expect(makeStageModel([text], 'asSaid', 'y')).rejects.toMatchObject({ code: 'unsupported' })
    const cut = await put('cut.glb', (await writeSite()).slice(0, 4000))
    await expect(makeStageModel([cut], 'asSaid', 'y')).rejects.toMatchObject({ name: 'FileError' })
  })

  it('is in what its lengths can be in, where the form does not say', async () => {
    const plot = (longest: number) => put('plot.obj', `v 0 0 0\nv ${longest} 0 0\nv 0 1 0\no plot\nf 1 2 3\n`)
    const read = async (longest: number) => {
      const { unit, sizeM } = await makeStageModel([await plot(longest)], 'asSaid', 'y')
      return [unit, Math.round(sizeM[0] * 1000) / 1000]
    }
    expect(await read(25)).toEqual(['asSaid', 25])
    expect(await read(42_000)).toEqual(['mm', 42])
    expect(await read(900)).toEqual(['cm', 9])
  })

  it('says which files did not come along', async () => {
    const files = [await put('plot.obj', 'mtllib plot.mtl\nv 0 0 0\nv 4 0 0\nv 0 1 0\no plot\nusemtl a\nf 1 2 3\n')]
    files.push(await put('plot.mtl', 'newmtl a\nKd 0.5 0.2 0.1\nmap_Kd brick.png\n'))
    expect((await makeStageModel(files, 'asSaid', 'y')).missing).toEqual(['brick.png'])
  })
})
