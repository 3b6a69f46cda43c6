import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { EXTMeshGPUInstancing, type InstancedMesh, KHRLightsPunctual } from '@gltf-transform/extensions'
import { uninstance } from '@gltf-transform/functions'
import { unzipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Model } from '#core/geometry/model'
import { modelFromDocument, parseGlb } from '#core/geometry/read-gltf'
import { createMaterial } from '#core/material/open-pbr'
import { createSamplePatch, readGltfBinary, writeGltfBinary } from '#core/targets/gltf'
import { METRES_Y_UP } from '#core/targets/space'
import { toPrimName } from '#core/targets/usd/usd-text'
import { writeParts } from '../exports/write-model'
import { assembleModel } from '../models/assemble-model'
import { sourceFileAt } from '../reading/source-file'
import { openScene } from './scene-file'
import { writeGlbAs, writeSceneForm } from './write-scene-form'

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

/** Where all vertices stand, in no order. */
const placesOf = ({ parts }: Model): string[] =>
  parts
    .flatMap(({ mesh: { positions: p } }) => Array.from({ length: p.length / 3 }, (_, i) => [...p.subarray(3 * i, 3 * i + 3)]))
    .map(place => place.map(v => (Math.round(v * 1e4) / 1e4 + 0).toFixed(3)).join(' '))
    .sort()

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

  it('has what stands at several places once in OpenUSD, turned and larger as there, in any axes and unit', async () => {
    const document = await readGltfBinary(new Uint8Array(await readFile(glbPath)))
    const [mesh] = document.getRoot().listMeshes()
    const half = Math.SQRT1_2
    const group = document.createNode('Terrace').setTranslation([3, 1, 2]).setRotation([0, half, 0, half])
    group.addChild(document.createNode('larger').setMesh(mesh).setScale([2, 2, 2]).setRotation([half, 0, 0, half]))
    group.addChild(document.createNode('mirrored').setMesh(mesh).setScale([-1, 1, 1]))
    document.getRoot().listScenes()[0].addChild(group)
    await document.transform(uninstance())
    const model = modelFromDocument(document, { sharesShapes: true })
    for (const space of [METRES_Y_UP, { unit: 'cm', upAxis: 'z' }] as const) {
      const [{ bytes }] = await writeParts(model, 'terrace', { ...space, form: 'usdz', maxSizePx: null }, null)
      const layers = Object.entries(unzipSync(bytes)).map(([path, layer]) => [path, new TextDecoder().decode(layer)] as const)
      // Once for those that share it, once for the mirrored one.
      expect(layers.map(([path, text]) => [path, text.match(/def Mesh/g)?.length])).toEqual([
        ['terrace.usda', 1],
        ['shapes/terrace_1.usda', 1],
      ])
      await writeFile(join(folder, 'terrace.usdz'), bytes)
      const again = await assembleModel(await sourceFileAt(join(folder, 'terrace.usdz'), 'terrace.usdz'), [])
      const read = await parseGlb(again.bytes)
      expect(placesOf(read)).toEqual(placesOf(modelFromDocument(document)))
      expect(new Set(read.parts.map(p => read.materials[p.material].name))).toEqual(new Set(['Lime plaster'].map(toPrimName)))
    }
  })

  it('has of a planting each plant by itself, with what its group says of it', async () => {
    const document = await readGltfBinary(new Uint8Array(await readFile(glbPath)))
    const [root, many] = [
      document.getRoot(),
      document
        .getRoot()
        .listNodes()
        .find(n => n.getName() === 'many')!,
    ]
    const batch = many.getExtension<InstancedMesh>('EXT_mesh_gpu_instancing')!
    const turns = document
      .createAccessor()
      .setType('VEC4')
      .setArray(Float32Array.from([0, 1, 2].flatMap(k => [0, Math.sin(k), 0, Math.cos(k)])))
      .setBuffer(root.listBuffers()[0])
    batch.setAttribute('ROTATION', turns)
    const stamp = { code: 'SHR-0001', version: 3 }
    const hedge = document.createNode('Along the wall, box').setExtras({ muscovite: stamp }).setTranslation([0, 0, 7])
    root.listScenes()[0].addChild(hedge.addChild(many))
    hedge.addChild(document.createNode('leaves').setMesh(many.getMesh()).setExtension('EXT_mesh_gpu_instancing', batch))
    const flat = await readGltfBinary(await writeGltfBinary(document))
    await flat.transform(uninstance())
    const glb = await writeGltfBinary(document)
    const usdz = await writeGlbAs(glb, 'usdz', 'hedge')
    await writeFile(join(folder, 'hedge.usdz'), usdz.bytes)
    const opened = await openScene(await sourceFileAt(join(folder, 'hedge.usdz'), 'hedge.usdz'), [])
    const plants = opened.json.nodes!.filter(n => (n.extras?.muscovite as Partial<typeof stamp>)?.code === stamp.code)
    expect(plants.map(n => [n.name, n.children?.length, n.extras])).toEqual(
      [1, 2, 3].map(k => [`Along the wall, box ${k}`, 2, { muscovite: stamp }]),
    )
    await opened.close()
    const read = await parseGlb((await assembleModel(await sourceFileAt(join(folder, 'hedge.usdz'), 'hedge.usdz'), [])).bytes)
    expect(placesOf(read)).toEqual(placesOf(modelFromDocument(flat)))
  })

  it('keeps its lights and cameras in OpenUSD, with what they give and where they look', async () => {
    const document = await readGltfBinary(new Uint8Array(await readFile(glbPath)))
    const extension = document.createExtension(KHRLightsPunctual)
    const scene = document.getRoot().listScenes()[0]
    const stamp = { code: 'LMP-0001', version: 2 }
    const tilt: [number, number, number, number] = [-Math.sin(0.4), 0, 0, Math.cos(0.4)]
    for (const [kind, intensity] of [
      ['point', 90],
      ['spot', 1200],
      ['directional', 40_000],
    ] as const) {
      const light = extension.createLight(kind).setType(kind).setIntensity(intensity).setColor([1, 0.8, 0.6])
      if (kind === 'spot') light.setInnerConeAngle(0).setOuterConeAngle(0.5)
      const node = document.createNode(`${kind} über dem Tisch`).setRotation(tilt).setTranslation([1, 2.5, -1])
      scene.addChild(node.setExtension('KHR_lights_punctual', light).setExtras({ muscovite: stamp }))
    }
    const camera = document.createCamera('view').setType('perspective').setYFov(0.7).setAspectRatio(1.5).setZNear(0.1)
    scene.addChild(document.createNode('view').setCamera(camera).setRotation(tilt).setTranslation([0, 1.6, 5]))
    const before = modelFromDocument(document)
    for (const space of [METRES_Y_UP, { unit: 'mm', upAxis: 'z' }] as const) {
      const [{ bytes }] = await writeParts(before, 'lit', { ...space, form: 'usdz', maxSizePx: null }, null)
      await writeFile(join(folder, 'lit.usdz'), bytes)
      const file = await sourceFileAt(join(folder, 'lit.usdz'), 'lit.usdz')
      const opened = await openScene(file, [])
      const named = opened.json.nodes!.filter(n => n.name?.endsWith('über dem Tisch'))
      expect(named.map(n => n.extras?.muscovite)).toEqual([stamp, stamp, stamp])
      await opened.close()
      const after = await parseGlb((await assembleModel(file, [])).bytes)
      const sayPlacement = (m: readonly number[]) => m.map(v => expect.closeTo(v, 4))
      expect(after.lights).toMatchObject(
        before.lights!.map(({ kind, color, intensity, coneRad, placement }) => ({
          kind,
          color: color.map(v => expect.closeTo(v, 4)),
          intensity: expect.closeTo(intensity, 1),
          coneRad: coneRad === null ? null : expect.closeTo(coneRad, 4),
          placement: sayPlacement(placement),
        })),
      )
      expect(after.cameras).toMatchObject([
        {
          yFovRad: expect.closeTo(0.7, 4),
          aspect: expect.closeTo(1.5, 4),
          placement: sayPlacement(before.cameras![0].placement),
        },
      ])
    }
  })
})
