import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import validator from 'gltf-validator'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { createBox } from '#core/geometry/shapes'
import { type Quaternion, rotate, turnAbout } from '#core/math/quaternion'
import type { Vec3 } from '#core/math/vec3'
import { growPlanting } from '#core/mock-up/planting/grow-planting'
import { beginLight } from '#core/mock-up/scene/begin'
import { EMPTY_SCENE, type ItemRef, sceneSchema } from '#core/mock-up/scene/scene'
import { readGltfBinary } from '#core/targets/gltf'
import { writeGlb } from '../../demo/model-file'
import { withScene } from '../audits/gather-scene'
import { listStamped } from '../audits/list-stamped'
import { readScene } from '../audits/read-scene'
import type { ItemSource } from '../items/item-source'
import { sourceFileAt } from '../reading/source-file'
import { type Reference, writeMockUp } from './write-mock-up'

const refOf = (code: string, key: string): ItemRef => ({ code, version: 2, inputKey: key.repeat(64) })
const [STOOL, OAK, SHRUB] = [refOf('CHR-0001', 'a'), refOf('TIM-0001', 'b'), refOf('SHR-0001', 'c')]

let folder: string
/** A stool of which only the seat is left. */
let light: ItemSource['files'][number]['file']
let sources: Record<string, ItemSource>
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-write-mock-up-'))
  const save = async (name: string, bytes: Uint8Array): Promise<ItemSource['files'][number]['file']> => {
    const diskPath = join(folder, name)
    await writeFile(diskPath, bytes)
    return { path: name, diskPath } as ItemSource['files'][number]['file']
  }
  const model = async (stem: string): Promise<ItemSource> => ({
    kind: 'model',
    name: stem,
    widthMm: null,
    constants: {},
    files: [
      {
        role: 'model',
        byContentOnly: false,
        handednessHint: null,
        file: await save(
          `${stem}.glb`,
          await writeGlb({
            folder: '',
            stem,
            parts: [
              {
                name: 'seat',
                mesh: createBox(0.4, 0.05, 0.4),
                finish: { name: 'cloth', color: [0.5, 0.4, 0.3], roughness: 0.8 },
              },
              {
                name: 'legs',
                mesh: createBox(0.3, 0.4, 0.3),
                finish: { name: 'steel', color: [0.6, 0.6, 0.6], roughness: 0.3, metalness: 1 },
              },
            ],
          }),
        ),
      },
    ],
  })
  const map = async (name: string, background: string) =>
    save(
      name,
      await sharp({ create: { width: 64, height: 32, channels: 3, background } })
        .png()
        .toBuffer(),
    )
  const seat = {
    name: 'seat',
    mesh: createBox(0.4, 0.05, 0.4),
    finish: { name: 'cloth', color: [0.5, 0.4, 0.3] as Vec3, roughness: 0.8 },
  }
  light = await save('light.glb', await writeGlb({ folder: '', stem: 'light', parts: [seat] }))
  sources = {
    [STOOL.inputKey]: await model('stool'),
    [SHRUB.inputKey]: await model('shrub'),
    [OAK.inputKey]: {
      kind: 'material',
      name: 'Oak',
      widthMm: 800,
      constants: {},
      files: await Promise.all(
        (
          [
            ['baseColor', '#8a6a48'],
            ['roughness', '#666666'],
            ['normal', '#8080ff'],
          ] as const
        ).map(async ([role, color]) => ({
          role,
          file: await map(`${role}.png`, color),
          byContentOnly: false,
          handednessHint: null,
        })),
      ),
    },
  }
})
afterAll(() => rm(folder, { recursive: true, force: true }))

const scene = sceneSchema.parse({
  ...EMPTY_SCENE,
  stage: { kind: 'empty', materials: { ground: { material: OAK } } },
  pieces: {
    a: {
      item: STOOL,
      name: 'Stool',
      position: [1, 0, 2],
      turn: turnAbout([0, 1, 0], 30),
      materials: { seat: { material: OAK } },
    },
    b: { item: STOOL, name: 'Stool', position: [-1, 0, 0], turn: turnAbout([0, 1, 0], -90), scale: 1.2 },
    c: { item: refOf('GON-0001', 'f'), name: 'Gone', position: [5, 0, 0], turn: [0, 0, 0, 1] },
  },
  plantings: {
    bed: {
      name: 'Bed',
      outline: [
        [3, 3],
        [8, 3],
        [8, 8],
      ],
      species: [{ item: SHRUB, name: 'Shrub', share: 1, smallest: 0.8, largest: 1.2 }],
      perM2: 1,
      seed: 4,
    },
  },
  shots: { one: { name: 'One', place: 1, position: [0, 1, 5], target: [0, 1, 0], focalMm: 24, aspect: 1.5 } },
})

describe('a mock-up written as glTF', () => {
  it('is read back as the same scene: where things stand, what they wear, and what they are by code and version', async () => {
    const { bytes, failures } = await writeMockUp(scene, sources, 512)
    expect(failures).toEqual({})
    const document = await readGltfBinary(bytes)
    const nodes = document.getRoot().listScenes()[0].listChildren()
    const stools = nodes.filter(n => n.getName() === 'Stool')
    expect(stools.map(n => n.getTranslation())).toEqual(
      expect.arrayContaining([
        [1, 0, 2],
        [-1, 0, 0],
      ]),
    )
    expect(stools.every(n => (n.getExtras() as { muscovite: object }).muscovite !== undefined)).toBe(true)
    const [a, b] = [stools.find(n => n.getTranslation()[0] === 1)!, stools.find(n => n.getTranslation()[0] === -1)!]
    for (const [k, v] of turnAbout([0, 1, 0], 30).entries()) expect(a.getRotation()[k]).toBeCloseTo(v, 6)
    expect(b.getScale()[0]).toBeCloseTo(1.2, 6)
    const wornBy = (node: typeof a, part: string) =>
      node
        .listChildren()
        .find(n => n.getName() === part)!
        .getMesh()!
        .listPrimitives()[0]
        .getMaterial()!
    expect(wornBy(a, 'seat').getName()).toBe('Oak (TIM-0001)')
    expect(wornBy(a, 'seat').getExtras()).toEqual({ muscovite: { code: 'TIM-0001', version: 2 } })
    expect(wornBy(b, 'seat').getName()).toBe('cloth')
    // What is the same is there once.
    expect(wornBy(a, 'legs')).toBe(wornBy(b, 'legs'))
    const meshOf = (node: typeof a, part: string) =>
      node
        .listChildren()
        .find(n => n.getName() === part)!
        .getMesh()
    expect(meshOf(a, 'legs')).toBe(meshOf(b, 'legs'))
    expect(nodes.some(n => n.getName() === 'Gone')).toBe(false)
  })

  it('has what was adjusted on a part worked into its maps, and the lightest level of a model where that is asked for', async () => {
    const parsed = sceneSchema.parse({
      ...scene,
      stage: {
        kind: 'empty',
        materials: { ground: { material: OAK, shift: { tint: [0.25, 0.25, 0.25], roughness: 2, relief: 1 } } },
      },
    })
    const own = sources[STOOL.inputKey].files[0]
    const levels: typeof sources = {
      ...sources,
      [STOOL.inputKey]: {
        ...sources[STOOL.inputKey],
        files: [
          { ...own, file: { ...own.file, size: 9000 } },
          { ...sources[SHRUB.inputKey].files[0], role: 'lod', file: { ...light, size: 10 } },
          { ...own, role: 'lod', file: { ...own.file, size: 500 } },
        ],
      },
    }
    const document = await readGltfBinary((await writeMockUp(parsed, levels, 512, true)).bytes)
    const nodes = document.getRoot().listScenes()[0].listChildren()
    const stool = nodes.find(n => n.getName() === 'Stool')!
    expect(stool.listChildren().map(n => n.getName())).toEqual(['seat'])
    const ground = nodes
      .find(n => n.getName() === 'ground')!
      .getMesh()!
      .listPrimitives()[0]
      .getMaterial()!
    const pixelOf = async (bytes: Uint8Array) => [...(await sharp(bytes).removeAlpha().raw().toBuffer()).subarray(0, 3)]
    // A quarter of the light of #8a6a48; twice the roughness of #66.
    expect(await pixelOf(ground.getBaseColorTexture()!.getImage()!)).toEqual([71, 53, 34])
    expect((await pixelOf(ground.getMetallicRoughnessTexture()!.getImage()!))[1]).toBe(204)
  })

  it('holds every plant as an instance, where it grew', async () => {
    const document = await readGltfBinary((await writeMockUp(scene, sources, 512)).bytes)
    const bed = document
      .getRoot()
      .listNodes()
      .find(n => n.getName() === 'Bed, Shrub')!
    expect(bed.getExtras()).toEqual({ muscovite: { code: 'SHR-0001', version: 2 } })
    const batch = bed.listChildren()[0].getExtension<never>('EXT_mesh_gpu_instancing') as unknown as {
      getAttribute: (name: string) => { getCount: () => number; getElement: (i: number, to: number[]) => number[] }
    }
    const plants = growPlanting(scene.plantings.bed, [])
    const places = batch.getAttribute('TRANSLATION')
    expect(places.getCount()).toBe(plants.length)
    for (const [k, { position }] of plants.entries())
      for (const [i, v] of places.getElement(k, []).entries()) expect(v).toBeCloseTo(position[i], 5)
  })

  it('can refer to the library alone: everything where it stands and what it wears, nothing of its surfaces, the stage whole', async () => {
    const references: Reference[] = [STOOL, OAK, SHRUB].map(({ code, version }) => ({
      ...{ code, version, name: code, kind: 'model', address: `/items/${code}?version=2` },
      files: [{ path: `${code}.glb`, role: 'model', sha256: 'a'.repeat(64), bytes: 9 }],
    }))
    const whole = await writeMockUp(scene, sources, 512)
    const { bytes } = await writeMockUp(scene, sources, 512, false, references)
    expect(bytes.length).toBeLessThan(whole.bytes.length)
    const root = (await readGltfBinary(bytes)).getRoot()
    expect(root.getExtras()).toEqual({ muscovite: { references } })
    const nodes = root.listScenes()[0].listChildren()
    const stools = nodes.filter(n => n.getName() === 'Stool')
    expect(stools.map(n => n.getTranslation())).toEqual([
      [1, 0, 2],
      [-1, 0, 0],
    ])
    expect(stools.map(n => n.getExtras())).toEqual([
      {
        muscovite: {
          ...{ code: 'CHR-0001', version: 2 },
          wears: { seat: { code: 'TIM-0001', version: 2, turnDeg: 0, offsetM: [0, 0], mapping: 'own', override: {} } },
        },
      },
      { muscovite: { code: 'CHR-0001', version: 2, wears: {} } },
    ])
    expect(stools.flatMap(n => n.listChildren())).toEqual([])
    const plants = growPlanting(scene.plantings.bed, [])
    const bed = nodes.find(n => n.getName() === 'Bed, Shrub')!
    expect(bed.listChildren()).toHaveLength(plants.length)
    for (const [k, plant] of bed.listChildren().entries())
      for (const [i, v] of plant.getTranslation().entries()) expect(v).toBeCloseTo(plants[k].position[i], 5)
    // The ground is the mock-up's own: its surface is there, of what it wears the name and the stamp.
    const [ground, ...others] = root.listMeshes()
    expect([ground.getName(), others]).toEqual(['ground', []])
    const material = ground.listPrimitives()[0].getMaterial()!
    expect([material.getName(), material.getExtras()]).toEqual([
      'Oak (TIM-0001)',
      { muscovite: { code: 'TIM-0001', version: 2 } },
    ])
    expect(root.listTextures()).toEqual([])
    const report = await validator.validateBytes(bytes)
    expect(report.issues.messages.filter((m: { severity: number }) => m.severity === 0)).toEqual([])
    // What looks for stamps in a scene finds them all.
    const diskPath = join(folder, 'references.glb')
    await writeFile(diskPath, bytes)
    const { stamps } = await listStamped([{ path: 'references.glb', diskPath, size: bytes.length }])
    expect(stamps.map(s => s.code)).toEqual(['CHR-0001', 'SHR-0001', 'TIM-0001'])
    const bare = { ...scene, stage: { kind: 'empty' as const, materials: {} }, plantings: {} }
    await writeFile(diskPath, (await writeMockUp(bare, sources, 512, false, references)).bytes)
    const worn = await listStamped([{ path: 'references.glb', diskPath, size: 0 }])
    expect(worn.stamps.map(s => s.code)).toEqual(['CHR-0001', 'TIM-0001'])
  })

  it('lays a texture at its true size, looks through its shots, and has no errors', async () => {
    const { bytes } = await writeMockUp(scene, sources, 512)
    const document = await readGltfBinary(bytes)
    const ground = document
      .getRoot()
      .listNodes()
      .find(n => n.getName() === 'ground')!
    const [primitive] = ground.getMesh()!.listPrimitives()
    const [uv, at] = [primitive.getAttribute('TEXCOORD_0')!, primitive.getAttribute('POSITION')!]
    // One repeat every 0.8 m across and, of a picture half as high as wide, every 0.4 m down.
    const [u0, u1] = [0, 1].map(i => uv.getElement(i, [])[0])
    const [x0, x1] = [0, 1].map(i => at.getElement(i, [])[0])
    expect(Math.abs((x1 - x0) / (u1 - u0))).toBeCloseTo(0.8, 4)
    const camera = document
      .getRoot()
      .listNodes()
      .find(n => n.getName() === 'One')!
    expect(camera.getCamera()!.getYFov()).toBeCloseTo(2 * Math.atan(0.5), 6)
    expect(camera.getRotation().map(v => Math.abs(Math.round(v * 1e6) / 1e6))).toEqual([0, 0, 0, 1])
    const report = await validator.validateBytes(bytes)
    expect(report.issues.messages.filter((m: { severity: number }) => m.severity === 0)).toEqual([])
  })

  it('carries the variants of its parts, each at its true scale, and shows the one that is shown', async () => {
    const chosen = {
      ...scene,
      choices: {
        seats: {
          name: 'Seats',
          spots: [{ piece: 'a', part: 'seat' }],
          variants: [null, scene.pieces.a.materials.seat],
          shown: 1,
        },
      },
    }
    const { bytes } = await writeMockUp(chosen, sources, 512)
    const json = JSON.parse(
      new TextDecoder().decode(bytes.subarray(20, 20 + new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true))),
    )
    expect(json.extensions.KHR_materials_variants.variants.map((v: { name: string }) => v.name)).toEqual([
      'Seats: its own',
      'Seats: TIM-0001',
    ])
    const seat = json.meshes
      .flatMap((m: { primitives: object[] }) => m.primitives)
      .filter((p: { extensions?: object }) => p.extensions)
    expect(seat).toHaveLength(1)
    const { mappings } = seat[0].extensions.KHR_materials_variants
    const nameOf = (index: number) => json.materials[index].name
    expect(mappings.map((m: { material: number; variants: number[] }) => [nameOf(m.material), m.variants])).toEqual([
      ['cloth', [0]],
      ['Oak (TIM-0001)', [1]],
    ])
    expect(nameOf(seat[0].material)).toBe('Oak (TIM-0001)')
    const report = await validator.validateBytes(bytes)
    expect(report.issues.messages.filter((m: { severity: number }) => m.severity === 0)).toEqual([])
  })

  it('says of parts that wear the finish of their type which type that is, and an audit reads how much surface it has', async () => {
    const finish = { material: OAK }
    const walls = sceneSchema.parse({
      ...EMPTY_SCENE,
      stage: {
        ...{ kind: 'room', widthM: 4, depthM: 3, heightM: 2.5, openings: [] },
        materials: { 'wall north': finish, 'wall south': finish, 'wall east': finish },
      },
      types: {
        // The western wall is of the type, and has another finish.
        t: { name: 'W3', finish, spots: ['wall north', 'wall south', 'wall west'].map(part => ({ piece: null, part })) },
      },
    })
    const { bytes } = await writeMockUp(walls, sources, 64)
    const nodes = (await readGltfBinary(bytes)).getRoot().listNodes()
    const typed = nodes.filter(n => n.getExtras().muscovite !== undefined)
    expect(typed.map(n => [n.getName(), n.getExtras().muscovite]).sort()).toEqual([
      ['wall north', { type: 'W3' }],
      ['wall south', { type: 'W3' }],
    ])
    const diskPath = join(folder, 'walls.glb')
    await writeFile(diskPath, bytes)
    const { materials } = await withScene([await sourceFileAt(diskPath, 'walls.glb')], readScene)
    const oak = materials.find(m => m.print.stamp?.code === OAK.code)!
    expect(oak.types).toEqual([{ name: 'W3', parts: 2, areaM2: expect.closeTo(20, 3) }])
    expect(oak.areaM2).toBeCloseTo(27.5, 3)
  })

  it('has its lights where they stand, with their intensity in candela, shining the way they shine', async () => {
    const lit = {
      ...scene,
      lights: {
        bulb: { ...beginLight('Bulb', [1, 2, 3], { kind: 'bulb' }), lumens: 1256.637, kelvin: null },
        panel: beginLight('Panel', [0, 2.6, 0], { kind: 'panel' }),
        off: { ...beginLight('Off', [0, 1, 0], { kind: 'bulb' }), isHidden: true },
      },
    }
    const { bytes } = await writeMockUp(lit, sources, 512)
    const document = await readGltfBinary(bytes)
    const node = (name: string) =>
      document
        .getRoot()
        .listNodes()
        .find(n => n.getName() === name)
    const lightOf = (name: string) =>
      node(name)!.getExtension('KHR_lights_punctual') as unknown as { getIntensity: () => number; getType: () => string }
    expect(lightOf('Bulb').getType()).toBe('point')
    expect(lightOf('Bulb').getIntensity()).toBeCloseTo(100, 3)
    expect(node('Bulb')!.getTranslation()).toEqual([1, 2, 3])
    expect(lightOf('Panel').getType()).toBe('spot')
    // Along -z at rest, so turned to look down.
    const down = rotate(node('Panel')!.getRotation() as Quaternion, [0, 0, -1])
    for (const [k, v] of [0, -1, 0].entries()) expect(down[k]).toBeCloseTo(v, 6)
    expect(node('Off')).toBeUndefined()
    const report = await validator.validateBytes(bytes)
    expect(report.issues.messages.filter((m: { severity: number }) => m.severity === 0)).toEqual([])
  })
})
