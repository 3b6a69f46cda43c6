import { mkdtemp, readFile, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Document } from '@gltf-transform/core'
import { EXTMeshGPUInstancing, KHRLightsPunctual, KHRTextureTransform } from '@gltf-transform/extensions'
import { quantize } from '@gltf-transform/functions'
import { zipSync } from 'fflate'
import { validateBytes } from 'gltf-validator'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { boundsOfMeshes } from '#core/geometry/mesh'
import { parseGlb } from '#core/geometry/read-gltf'
import { createBox } from '#core/geometry/shapes'
import { HOUSE_PROFILE } from '#core/hand-over/profile'
import { createMaterial } from '#core/material/open-pbr'
import { createRandom } from '#core/math/random'
import { readGltfBinary, writeGltfBinary } from '#core/targets/gltf'
import { writeMtl } from '#core/targets/obj-mtl'
import { METRES_Y_UP } from '#core/targets/space'
import { throughLens, writeLightCurve } from '../../demo/light-curve'
import { createPrimitive } from '../../demo/model-file'
import { writeItemGlb } from '../exports/write-export'
import { writeMaterialFiles } from '../exports/write-material'
import { writeModelFiles } from '../exports/write-model'
import type { ItemSource } from '../items/item-source'
import { loadGltfIo } from '../models/gltf-io'
import { readGlbJson } from '../models/model-references'
import { type SourceFile, sourceFileAt } from '../reading/source-file'
import { auditScene, listStamps } from './audit-scene'
import { type PrintedVersion, printItem } from './print-item'
import { putBack } from './put-back'
import { takeOut } from './take-out'
import { takeOutModels } from './take-out-models'

let folder: string
let stone: ItemSource
let stool: ItemSource
let versions: PrintedVersion[]
const STONE = { code: 'STO-0001', version: 1 }
const STOOL = { code: 'CHR-0001', version: 1 }

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-audits-'))
  const maps = []
  for (const [role, seed, channels] of [
    ['baseColor', 3, 3],
    ['roughness', 4, 1],
  ] as const)
    maps.push({
      file: await put(`stone_${role}.png`, await blotches(seed, channels)),
      role,
      byContentOnly: false,
      handednessHint: null,
    })
  stone = { kind: 'material', name: 'Quarry stone', files: maps, widthMm: 800, constants: {} }
  const document = new Document()
  document.createBuffer()
  const frame = document.createMaterial('frame').setBaseColorFactor([0.3, 0.1, 0.05, 1]).setRoughnessFactor(0.43)
  const scene = document.createScene('stool')
  for (const [name, size] of [
    ['seat', [0.5, 0.05, 0.4]],
    ['leg', [0.05, 0.45, 0.06]],
  ] as const)
    scene.addChild(
      document
        .createNode(name)
        .setMesh(
          document
            .createMesh(name)
            .addPrimitive(createPrimitive(document, createBox(size[0], size[1], size[2])).setMaterial(frame)),
        ),
    )
  const file = await put('stool.glb', await writeGltfBinary(document))
  stool = {
    kind: 'model',
    name: 'Quarry stool',
    files: [{ file, role: 'model', byContentOnly: false, handednessHint: null }],
    widthMm: null,
    constants: {},
  }
  versions = [
    { ...STONE, name: stone.name, kind: 'material', pinned: 1, isWithdrawn: false, print: await printItem(stone) },
    { ...STOOL, name: stool.name, kind: 'model', pinned: 1, isWithdrawn: false, print: await printItem(stool) },
  ]
})
afterAll(() => rm(folder, { recursive: true, force: true }))

async function put(name: string, bytes: Uint8Array) {
  await writeFile(join(folder, name), bytes)
  return sourceFileAt(join(folder, name), name)
}

async function blotches(seed: number, channels: 1 | 3): Promise<Uint8Array> {
  const random = createRandom(seed)
  const cells = Uint8Array.from({ length: 256 * channels }, () => 60 + random.index(140))
  const image = sharp(cells, { raw: { width: 16, height: 16, channels } }).resize(256, 256, { kernel: 'cubic' })
  return new Uint8Array(
    await image
      .toColourspace(channels === 1 ? 'b-w' : 'srgb')
      .png()
      .toBuffer(),
  )
}

const audit = async (...files: Parameters<typeof auditScene>[0][number][]) => (await auditScene(files, versions)).audit

describe('a scene is read', () => {
  it('that was handed over as OpenUSD or OBJ is as pinned, and the stamps that those forms hold are read', async () => {
    const names = { item: 'STO_0001_Quarry_stone_v1', texture: (map: string) => `STO_0001_${map}` }
    for (const form of ['usd', 'objMtl'] as const) {
      const { files } = await writeMaterialFiles(stone, names, form, HOUSE_PROFILE, STONE)
      const zip = zipSync(Object.fromEntries(files.map(f => [f.path, f.bytes])))
      const scene = [await put(`stone ${form}.zip`, zip)]
      expect(await listStamps(scene)).toEqual([STONE.code])
      const { audit } = await auditScene(scene, versions)
      expect(audit.materials).toMatchObject([{ class: 'pinned', code: STONE.code, version: 1, changes: [] }])
    }
    const [packed] = await writeModelFiles(stool, 'CHR_0001', { ...METRES_Y_UP, form: 'usdz', maxSizePx: null }, STOOL)
    const scene = [await put('stool.usdz', packed.bytes)]
    expect(await listStamps(scene)).toEqual([STOOL.code])
    const { audit } = await auditScene(scene, versions)
    expect(audit.models).toMatchObject([{ class: 'pinned', code: STOOL.code, version: 1, changes: [] }])
  })

  it('in which a model stands as its lighter version, as a profile hands it over, is as pinned; a plain box is not taken for it', async () => {
    const document = new Document()
    document.createBuffer()
    const plain = document.createMaterial('plain').setBaseColorFactor([0.3, 0.1, 0.05, 1])
    const box = createPrimitive(document, createBox(0.5, 0.5, 0.4)).setMaterial(plain)
    document.createScene('s').addChild(document.createNode('box').setMesh(document.createMesh('box').addPrimitive(box)))
    const bytes = await writeGltfBinary(document)
    const standIn = { file: await put('stand-in.glb', bytes), role: 'standIn', byContentOnly: false, handednessHint: null }
    const levelled: ItemSource = { ...stool, files: [...stool.files, standIn] }
    const known: PrintedVersion[] = [{ ...versions[1], print: await printItem(levelled) }]
    const form = { ...METRES_Y_UP, form: 'gltf', detail: 'light', maxSizePx: null } as const
    const [light] = await writeModelFiles(levelled, 'CHR_0001', form, STOOL)
    const { audit } = await auditScene([await put('light.glb', light.bytes)], known)
    expect(audit.models).toMatchObject([{ class: 'pinned', code: STOOL.code, changes: [], remarks: ['Its lighter version.'] }])
    expect(audit.materials).toMatchObject([{ class: 'pinned', code: STOOL.code }])
    const foreign = (await auditScene([await put('a box.glb', bytes)], known)).audit
    expect(foreign.models).toMatchObject([{ class: 'foreign', code: null }])
  })

  it('from an OBJ with its materials: what that form cannot hold is no alteration, what it holds is', async () => {
    const material = createMaterial(
      'wall',
      { fuzzWeight: 0.5 },
      {
        textures: { baseColor: { image: 0, channel: 0 }, specularRoughness: { image: 1, channel: 0 } },
      },
    )
    const mtl = writeMtl(
      material,
      new Map([
        [0, 'stone_baseColor.png'],
        [1, 'stone_roughness.png'],
      ]),
    )
    const obj =
      'mtllib scene.mtl\nv 0 0 0\nv 2 0 0\nv 2 2 0\nv 0 2 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nusemtl wall\nf 1/1 2/2 3/3\nf 1/1 3/3 4/4\n'
    const [main, library] = [await put('scene.obj', Buffer.from(obj)), await put('scene.mtl', Buffer.from(mtl))]
    const [color, rough] = stone.files.map(f => f.file)
    expect((await audit(main, library, color, rough)).materials).toMatchObject([{ class: 'pinned', code: 'STO-0001', areaM2: 4 }])
    const coated = await put('scene.mtl', Buffer.from(`${mtl}Pc 0.5\nPcr 0.1\n`))
    expect((await audit(main, coated, color, rough)).materials).toMatchObject([{ class: 'altered', code: 'STO-0001' }])
    const other = await put('scene.mtl', Buffer.from(mtl.replace(/map_Pr.*\n/, '').replace(/Pr .*/, 'Pr 0.9')))
    expect((await audit(main, other, color, rough)).materials).toMatchObject([{ class: 'altered', code: 'STO-0001' }])
    const lost = await audit(main, await put('scene.mtl', Buffer.from(mtl)), rough)
    expect(lost.materials[0].class).not.toBe('pinned')
  })

  it('from glTF with files beside it, from a zip, and quantised, one mesh and one picture at a time', async () => {
    const io = await loadGltfIo()
    const document = await readGltfBinary(await writeItemGlb(stone, STONE))
    const { json, resources } = await io.writeJSON(document, { basename: 'scene' })
    const files: Record<string, Uint8Array> = { 'in/scene.gltf': Buffer.from(JSON.stringify(json)) }
    for (const [name, bytes] of Object.entries(resources)) files[`in/${name}`] = bytes as Uint8Array
    const zip = await put('scene.zip', zipSync(files))
    expect((await audit(zip)).materials).toMatchObject([{ class: 'pinned', code: 'STO-0001' }])
    expect(await listStamps([zip])).toEqual(['STO-0001'])
    const packed = await readGltfBinary(await writeItemGlb(stool, STOOL))
    await packed.transform(quantize())
    for (const thing of [...packed.getRoot().listNodes(), ...packed.getRoot().listMaterials()]) thing.setExtras({})
    const quantised = await audit(await put('quantised.glb', await writeGltfBinary(packed)))
    expect(quantised.models).toMatchObject([
      { class: 'pinned', code: 'CHR-0001', evidence: [{ kind: 'shape' }, { kind: 'look' }] },
    ])
    const missing = { ...files }
    for (const name of Object.keys(missing)) if (name.endsWith('.png')) delete missing[name]
    expect((await audit(await put('lost.zip', zipSync(missing)))).materials).toMatchObject([
      { class: 'missing', code: 'STO-0001', remarks: [expect.stringContaining('Not there')] },
    ])
  })

  it('of the true size of a repeat: one that lies too large is told, and is no alteration', async () => {
    const document = await readGltfBinary(await writeItemGlb(stone, STONE))
    const transform = document.createExtension(KHRTextureTransform)
    const [own] = document.getRoot().listMaterials()
    for (const info of [own.getBaseColorTextureInfo(), own.getMetallicRoughnessTextureInfo()])
      info!.setExtension('KHR_texture_transform', transform.createTransform().setScale([0.5, 0.5]))
    const { materials } = await audit(await put('large.glb', await writeGltfBinary(document)))
    expect(materials).toMatchObject([{ class: 'pinned', remarks: ['One repeat is 1.6 m wide here, 800 mm in the library.'] }])
  })

  it('and refused with a sentence where there is none', async () => {
    await expect(audit(await put('notes.txt', Buffer.from('nothing')))).rejects.toThrow('There is no scene among these files')
    const glb = await writeItemGlb(stool, STOOL)
    await expect(audit(await put('cut.glb', glb.slice(0, 900)))).rejects.toMatchObject({
      code: expect.stringMatching(/malformed|truncated/),
    })
    const damaged = glb.slice()
    damaged.fill(123, glb.length - 200)
    const said = await audit(await put('damaged.glb', damaged))
    expect([...said.materials, ...said.models].length + said.failures.length).toBeGreaterThan(0)
  })
})

describe('a correction', () => {
  it('keeps how textures lie, instances and every other byte, drops what nobody shows any more, and is valid', async () => {
    const document = await readGltfBinary(await writeItemGlb(stone, STONE))
    const [own] = document.getRoot().listMaterials()
    const transform = document.createExtension(KHRTextureTransform).createTransform().setScale([2, 2])
    own.getBaseColorTextureInfo()!.setExtension('KHR_texture_transform', transform)
    own.getBaseColorTexture()!.setImage(await blotches(99, 3))
    const buffer = document.getRoot().listBuffers()[0]
    const places = document
      .createAccessor()
      .setType('VEC3')
      .setArray(new Float32Array([0, 0, 0, 3, 0, 0]))
      .setBuffer(buffer)
    const batch = document.createExtension(EXTMeshGPUInstancing).createInstancedMesh().setAttribute('TRANSLATION', places)
    const plain = document.createMaterial('frame').setBaseColorFactor([0.3, 0.1, 0.05, 1]).setRoughnessFactor(0.43)
    const seat = document.createMesh('seat').addPrimitive(createPrimitive(document, createBox(0.5, 0.05, 0.4)).setMaterial(plain))
    const group = document.createNode('two stools').setTranslation([1, 0, 2]).setExtras({ muscovite: STOOL })
    group.addChild(document.createNode('seat').setMesh(seat).setExtension('EXT_mesh_gpu_instancing', batch))
    const camera = document
      .createNode('camera')
      .setCamera(document.createCamera('c').setType('perspective').setYFov(1).setZNear(0.1))
    document.getRoot().listScenes()[0].addChild(group.addChild(camera))
    const scene = await put('altered.glb', await writeGltfBinary(document))
    const said = await audit(scene)
    expect(said.materials[0]).toMatchObject({ class: 'altered', code: 'STO-0001' })
    expect(said.models.find(m => m.code === 'CHR-0001')).toMatchObject({ class: 'altered', uses: 2, standsInFrame: true })
    const outPath = join(folder, 'corrected.glb')
    const model = said.models.find(m => m.code === 'CHR-0001')!
    const done = await putBack(
      [scene],
      [
        { kind: 'material', index: said.materials[0].index, stamp: STONE, source: stone, materialName: null },
        { kind: 'model', index: model.node, stamp: STOOL, source: stool, standsInFrame: true },
      ],
      outPath,
    )
    expect(done).toEqual({ done: 2, refused: [] })
    const bytes = new Uint8Array(await readFile(outPath))
    expect((await validateBytes(bytes)).issues.messages.filter(m => m.severity === 0)).toEqual([])
    const written = await readGltfBinary(bytes)
    const laid = written
      .getRoot()
      .listMaterials()[0]
      .getBaseColorTextureInfo()!
      .getExtension<typeof transform>('KHR_texture_transform')
    expect(laid?.getScale()).toEqual([2, 2])
    const stands = written
      .getRoot()
      .listNodes()
      .find(n => n.getName() === 'two stools')!
    expect(stands.getTranslation()).toEqual([1, 0, 2])
    expect(
      stands
        .listChildren()
        .map(c => c.getName())
        .sort(),
    ).toEqual(['camera', 'leg', 'seat'])
    expect(stands.listChildren().filter(c => c.getExtension('EXT_mesh_gpu_instancing'))).toHaveLength(2)
    const again = await audit(await sourceFileAt(outPath, 'corrected.glb'))
    expect(again.materials.filter(m => m.code === 'STO-0001')).toMatchObject([{ class: 'pinned', changes: [] }])
    expect(again.models.find(m => m.code === 'CHR-0001')).toMatchObject({ class: 'pinned', uses: 2 })
    // The picture that was painted over is gone with its bytes.
    expect((await stat(outPath)).size).toBeLessThan(scene.size + (await writeItemGlb(stool, STOOL)).length + 30_000)
  })

  it('knows an editable copy for one, whatever was changed about it', async () => {
    const copy = { ...STONE, isCopy: true as const }
    const document = await readGltfBinary(await writeItemGlb(stone, copy))
    document.getRoot().listMaterials()[0].setBaseColorFactor([0.5, 0.7, 0.9, 1])
    const [said] = (await audit(await put('copy.glb', await writeGltfBinary(document)))).materials
    expect(said).toMatchObject({ class: 'altered', code: STONE.code, isCopy: true })
    expect(said.remarks).toContain('An editable copy: what is different about it is meant.')
    const [plain] = (await audit(await put('plain.glb', await writeItemGlb(stone, STONE)))).materials
    expect(plain).toMatchObject({ class: 'pinned', isCopy: false, remarks: [] })
  })

  it('says of names that they are another item’s, or say what is not so', async () => {
    const document = await readGltfBinary(await writeItemGlb(stone, STONE))
    const root = document.getRoot()
    root.listMaterials()[0].setName('Harbour slate').setExtras({})
    const [known] = versions
    const print = { ...known.print, materials: known.print.materials.map(m => ({ ...m, name: 'Harbour slate', maps: {} })) }
    const slate: PrintedVersion = { ...known, code: 'SLA-0002', name: 'Harbour slate', print }
    const lines = sharp(
      Buffer.from(Array.from({ length: 64 * 64 * 3 }, (_, i) => ((Math.floor(i / 3) >> 3) % 2 === 0 ? 60 : 200))),
      {
        raw: { width: 64, height: 64, channels: 3 },
      },
    )
    const picture = document
      .createTexture('lines')
      .setMimeType('image/png')
      .setImage(new Uint8Array(await lines.png().toBuffer()))
    const boards = document.createMaterial('Boards horizontal').setBaseColorTexture(picture)
    const accessor = (type: 'VEC2' | 'VEC3', values: number[]) =>
      document.createAccessor().setType(type).setArray(Float32Array.from(values)).setBuffer(root.listBuffers()[0])
    const wall = document
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', [0, 0, 0, 3, 0, 0, 3, 2, 0, 0, 0, 0, 3, 2, 0, 0, 2, 0]))
      .setAttribute('TEXCOORD_0', accessor('VEC2', [0, 0, 3, 0, 3, 2, 0, 0, 3, 2, 0, 2]))
      .setMaterial(boards)
    root.listScenes()[0].addChild(document.createNode('wall').setMesh(document.createMesh('wall').addPrimitive(wall)))
    const { audit: said } = await auditScene([await put('named.glb', await writeGltfBinary(document))], [...versions, slate])
    expect(said.materials.map(m => [m.class, m.code, m.remarks])).toEqual([
      ['pinned', 'STO-0001', ['It carries the name of SLA-0002, and shows STO-0001.']],
      ['foreign', null, ['Its name says horizontal, and it runs upwards here.']],
    ])
  })

  it('puts lights back as they come, one that was dimmed as dim as it was, and the others of one light untouched', async () => {
    const curve = writeLightCurve({ name: 'Downlight', curve: throughLens(900, 40), watts: 9 })
    const file = await put('lamp.ies', new TextEncoder().encode(curve))
    const files = [{ file, role: 'photometry', byContentOnly: false, handednessHint: null }]
    const lamp: ItemSource = { kind: 'light', name: 'Downlight', files, widthMm: null, constants: {} }
    const stamp = { code: 'LMP-0001', version: 1 }
    const print = await printItem(lamp)
    const { color, intensity, coneRad } = print.light!
    const known = [...versions, { ...stamp, name: lamp.name, kind: lamp.kind, pinned: 1, isWithdrawn: false, print }]
    const document = await readGltfBinary(await writeItemGlb(stone, STONE))
    const extension = document.createExtension(KHRLightsPunctual)
    const make = (share: number, cone: number) =>
      extension
        .createLight('lamp')
        .setType('spot')
        .setColor(color)
        .setIntensity(intensity * share)
        .setInnerConeAngle(0)
        .setOuterConeAngle(cone)
    const [strong, wide] = [make(3, coneRad!), make(0.25, coneRad! * 0.6)]
    const scene = document.getRoot().listScenes()[0]
    for (const [k, light] of [strong, wide, wide].entries())
      scene.addChild(
        document
          .createNode(`lamp ${k}`)
          .setTranslation([k, 2, 0])
          .setExtension('KHR_lights_punctual', light)
          .setExtras({ muscovite: stamp }),
      )
    const lit = await put('lit.glb', await writeGltfBinary(document))
    const { audit: said } = await auditScene([lit], known)
    expect(said.lights.map(l => [l.class, l.changes.map(c => c.what)])).toEqual([
      ['altered', ['intensity']],
      ['altered', ['beam']],
      ['altered', ['beam']],
    ])
    const outPath = join(folder, 'lit-corrected.glb')
    const wishes = said.lights
      .slice(0, 2)
      .map(l => ({ kind: 'light' as const, index: l.node, share: l.share, stamp, source: lamp }))
    expect(await putBack([lit], wishes, outPath)).toEqual({ done: 2, refused: [] })
    const bytes = new Uint8Array(await readFile(outPath))
    expect((await validateBytes(bytes)).issues.messages.filter(m => m.severity === 0)).toEqual([])
    const nodes = (await readGltfBinary(bytes))
      .getRoot()
      .listNodes()
      .filter(n => n.getName().startsWith('lamp'))
    const lights = nodes.map(n => n.getExtension<ReturnType<typeof make>>('KHR_lights_punctual')!)
    expect(lights.map(l => l.getIntensity() / intensity)).toEqual([1, 0.25, 0.25].map(v => expect.closeTo(v, 5)))
    expect(lights.map(l => l.getOuterConeAngle() / coneRad!)).toEqual([1, 1, 0.6].map(v => expect.closeTo(v, 5)))
    expect(nodes.map(n => n.getTranslation())).toEqual([0, 1, 2].map(x => [x, 2, 0]))
    const { audit: again } = await auditScene([await sourceFileAt(outPath, 'lit.glb')], known)
    expect(again.lights.map(l => [l.class, l.remarks])).toEqual([
      ['pinned', []],
      ['pinned', ['Dimmed to 25 %.']],
      ['altered', ['Dimmed to 25 %.']],
    ])
    const { refused } = await putBack([lit], [{ ...wishes[0], source: { ...lamp, files: [] } }], outPath)
    expect(refused).toEqual([{ kind: 'light', index: wishes[0].index, why: 'The library has no curve of its light.' }])
  })

  it('leaves what it cannot put in its place, and says why', async () => {
    const scene = await put('whole.glb', await writeItemGlb(stool, STOOL))
    const said = await audit(scene)
    const wish = {
      kind: 'model' as const,
      index: said.models[0].node,
      stamp: STOOL,
      source: stool,
      standsInFrame: false,
    }
    const { done, refused } = await putBack([scene], [wish], join(folder, 'left.glb'))
    expect({ done, why: refused[0].why }).toEqual({ done: 0, why: expect.stringContaining('worked into its vertices') })
  })
})

it('materials are taken out with what multiplies their maps worked in, a plain one as a definition', async () => {
  const document = await readGltfBinary(await writeItemGlb(stone, STONE))
  const [own] = document.getRoot().listMaterials()
  own.setBaseColorFactor([0.5, 0.5, 0.5, 1]).setName('Café / wall')
  const files = [await put('out.glb', await writeGltfBinary(document))]
  const written = await takeOut(files, [0])
  expect(written.map(w => w.path).sort()).toEqual([
    'Café_wall/Café_wall_basecolor.png',
    'Café_wall/Café_wall_metalness.png',
    'Café_wall/Café_wall_roughness.png',
  ])
  const mean = async (bytes: Uint8Array) => (await sharp(bytes).stats()).channels[0].mean
  const color = written.find(w => w.path.includes('basecolor'))!
  const was = await mean(await blotches(3, 3))
  // Half the light is about 0.73 of the codes.
  expect((await mean(color.bytes)) / was).toBeGreaterThan(0.7)
  expect((await mean(color.bytes)) / was).toBeLessThan(0.76)
  own.setBaseColorTexture(null).setMetallicRoughnessTexture(null)
  const plain = await takeOut([await put('plain.glb', await writeGltfBinary(document))], [0, 7])
  expect(plain.map(w => w.path)).toEqual(['Café_wall/Café_wall.mtlx'])
})

describe('models are taken out of a scene', () => {
  const frame = (document: Document, name = 'frame') => document.createMaterial(name).setBaseColorFactor([0.3, 0.1, 0.05, 1])

  /** Two benches of one shape turned otherwise, one larger, in a group that turns z up to y up in centimetres. */
  async function writeYard(): Promise<SourceFile> {
    const document = new Document()
    document.createBuffer()
    const scene = document.createScene('yard')
    const half = Math.SQRT1_2
    const group = document.createNode('from centimetres').setScale([0.01, 0.01, 0.01]).setRotation([-half, 0, 0, half])
    scene.addChild(group)
    const seat = createPrimitive(document, createBox(120, 40, 45)).setMaterial(frame(document))
    const bench = document.createMesh('bench').addPrimitive(seat)
    group.addChild(document.createNode('Bench').setMesh(bench).setTranslation([500, 300, 22.5]))
    group.addChild(document.createNode('Bench left').setMesh(bench).setTranslation([900, 300, 22.5]))
    const table = document
      .createNode('Table')
      .setTranslation([2, 0, 3])
      .setRotation([0, Math.sin(0.4), 0, Math.cos(0.4)])
    table.addChild(
      document
        .createNode('top')
        .setMesh(meshOf(document, [1.6, 0.05, 0.8]))
        .setTranslation([0, 0.7, 0]),
    )
    table.addChild(document.createNode('leg').setMesh(meshOf(document, [0.1, 0.7, 0.1])))
    scene.addChild(table)
    return put('yard.glb', await writeGltfBinary(document))
  }
  const meshOf = (document: Document, [w, h, d]: [number, number, number]) =>
    document
      .createMesh('part')
      .addPrimitive(createPrimitive(document, createBox(w, h, d)).setMaterial(frame(document, `of ${w}`)))

  it('each once, on its foot at the origin and turned as it was made, with all below it', async () => {
    const file = await writeYard()
    const json = readGlbJson(new Uint8Array(await readFile(file.diskPath))) as { nodes: { name: string }[] }
    const numberOf = (name: string) => json.nodes.findIndex(n => n.name === name)
    const written = await takeOutModels([file], ['Bench', 'Bench left', 'Table'].map(numberOf))
    expect(written.map(w => w.path)).toEqual(['Bench.glb', 'Table.glb'])
    const sizes = []
    for (const { bytes } of written) {
      const { parts, materials } = await parseGlb(bytes)
      const { min, max } = boundsOfMeshes(parts.map(p => p.mesh))
      expect(min[1]).toBeCloseTo(0, 5)
      expect(min[0] + max[0]).toBeCloseTo(0, 5)
      expect(min[2] + max[2]).toBeCloseTo(0, 5)
      sizes.push([...max.map((v, k) => Math.round((v - min[k]) * 1000) / 1000), parts.length, materials.length])
    }
    // What lay along y in centimetres with z up is deep; the table has lost the turn it had in the scene.
    expect(sizes).toEqual([
      [1.2, 0.45, 0.4, 1, 1],
      [1.6, 0.75, 0.8, 2, 2],
    ])
    expect(await takeOutModels([file], [99])).toEqual([])
  })

  it('and materials that look the same come once', async () => {
    const document = new Document()
    document.createBuffer()
    const scene = document.createScene('room')
    for (const [k, name] of ['ash', 'ash copy', 'oak'].entries()) {
      const material = frame(document, name).setRoughnessFactor(k < 2 ? 0.4 : 0.5)
      const mesh = document.createMesh(name).addPrimitive(createPrimitive(document, createBox(1, 1, 1)).setMaterial(material))
      scene.addChild(document.createNode(name).setMesh(mesh))
    }
    const file = await put('room.glb', await writeGltfBinary(document))
    expect((await takeOut([file], [0, 1, 2])).map(w => w.path)).toEqual(['ash/ash.mtlx', 'oak/oak.mtlx'])
  })
})
