import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { EXTMeshGPUInstancing } from '@gltf-transform/extensions'
import { unzipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { parseGlb } from '#core/geometry/read-gltf'
import { createMaterial } from '#core/material/open-pbr'
import { createSamplePatch, writeGltfBinary } from '#core/targets/gltf'
import { assembleModel } from '../models/assemble-model'
import { sourceFileAt } from '../reading/source-file'
import { writeSceneForm } from './write-scene-form'

let folder: string
let glbPath: string
/** A patch of 2 triangles that stands once, stands once more a metre to the right, and three times as a batch. */
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-scene-form-'))
  glbPath = join(folder, 'scene.glb')
  const material = createMaterial('Lime plaster', { specularRoughness: 0.8 }, { tileSizeM: [0.5, 0.5] })
  const document = createSamplePatch(material, {}, { code: 'PLA-0001', version: 1 })
  const root = document.getRoot()
  const [mesh] = root.listMeshes()
  const [scene] = root.listScenes()
  const places = document
    .createAccessor()
    .setType('VEC3')
    .setArray(Float32Array.of(0, 2, 0, 1, 2, 0, 4, 2, 0))
    .setBuffer(root.listBuffers()[0])
  const batch = document.createExtension(EXTMeshGPUInstancing).createInstancedMesh().setAttribute('TRANSLATION', places)
  scene
    .addChild(document.createNode('second').setMesh(mesh).setTranslation([1, 0, 0]))
    .addChild(document.createNode('many').setMesh(mesh).setExtension('EXT_mesh_gpu_instancing', batch))
  await writeFile(glbPath, await writeGltfBinary(document))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

describe('a corrected scene in another form', () => {
  it('is glTF with its files beside it, every node as it was', async () => {
    const { path, bytes } = await writeSceneForm(glbPath, 'gltf', 'Ferry hall corrected')
    expect(path).toBe('Ferry hall corrected.zip')
    const files = unzipSync(bytes)
    const json = JSON.parse(new TextDecoder().decode(files['Ferry_hall_corrected.gltf']))
    expect(json.nodes).toHaveLength(3)
    for (const { uri, byteLength } of json.buffers) expect(files[uri].length).toBe(byteLength)
  })

  it('is OpenUSD or OBJ with every thing where it stands, those of a batch as well', async () => {
    const usd = await writeSceneForm(glbPath, 'usdz', 'Ferry hall corrected')
    await writeFile(join(folder, 'scene.usdz'), usd.bytes)
    const read = await parseGlb((await assembleModel(await sourceFileAt(join(folder, 'scene.usdz'), 'scene.usdz'), [])).bytes)
    expect(read.parts.reduce((n, p) => n + p.mesh.indices.length / 3, 0)).toBe(10)
    const right = Math.max(...read.parts.flatMap(p => [...p.mesh.positions.filter((_, i) => i % 3 === 0)]))
    expect(right).toBeCloseTo(4.25, 5)
    expect(read.materials[0].parameters.specularRoughness).toBeCloseTo(0.8, 5)
    const obj = unzipSync((await writeSceneForm(glbPath, 'obj', 'Ferry hall corrected')).bytes)
    const text = new TextDecoder().decode(obj['Ferry_hall_corrected.obj'])
    expect(text.match(/^f /gm)).toHaveLength(10)
    expect(new TextDecoder().decode(obj['Ferry_hall_corrected.mtl'])).toContain('Pr 0.8')
  })
})
