import { spawnSync } from 'node:child_process'
import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Model } from '#core/geometry/model'
import { parseGlb } from '#core/geometry/read-gltf'
import { COLLADA, GLTF_FORMS, USDA, writeAs, writeSkinned } from '../../../tests/formats/models'
import { writeTga } from '../../../tests/formats/pictures'
import { attack } from '../../../tests/hostile'
import { DEMO_PIECES, makePiece } from '../../demo/make-file'
import { takeHouseForm } from '../fixes/take-house-form'
import { inspectItem } from '../items/inspect-item'
import { sourceFileAt } from '../reading/source-file'
import { recognizeDelivery } from '../recognition/recognize-delivery'
import { assembleModel, isPlainGlb } from './assemble-model'

let folder: string
let plain: Uint8Array
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-models-'))
  const chair = DEMO_PIECES.find(piece => piece.stem === 'Slat_Back_Chair')!
  const [path] = await makePiece(chair, folder)
  plain = new Uint8Array(await readFile(join(folder, path)))
  await writeFile(join(folder, 'plain.glb'), plain)
})
afterAll(() => rm(folder, { recursive: true, force: true }))

const put = async (path: string, bytes: Uint8Array | string) => {
  await mkdir(dirname(join(folder, path)), { recursive: true })
  await writeFile(join(folder, path), bytes)
  return sourceFileAt(join(folder, path), path)
}
const read = async (path: string, bytes: Uint8Array | string): Promise<Model> =>
  parseGlb((await assembleModel(await put(path, bytes), [])).bytes)

const trianglesOf = (model: Model) => model.parts.reduce((n, p) => n + p.mesh.indices.length / 3, 0)
const sizeOf = (model: Model): number[] => {
  const [low, high] = [
    [1e9, 1e9, 1e9],
    [-1e9, -1e9, -1e9],
  ]
  for (const { mesh } of model.parts)
    mesh.positions.forEach((v, i) => {
      low[i % 3] = Math.min(low[i % 3], v)
      high[i % 3] = Math.max(high[i % 3], v)
    })
  return high.map((v, i) => Math.round((v - low[i]) * 1000) / 1000)
}

/** What a reader that is none of ours finds in a file. */
function askAssimp(path: string): { faces: number; meshes: number; size: number[] } {
  const { stdout } = spawnSync('assimp', ['info', join(folder, path)], { encoding: 'utf8' })
  const count = (word: string) => Number(new RegExp(`^${word}:\\s+(\\d+)`, 'm').exec(stdout)?.[1])
  const point = (word: string) =>
    /\(([^)]*)\)/
      .exec(stdout.slice(stdout.indexOf(`${word} point`)))![1]
      .split(' ')
      .map(Number)
  const [low, high] = [point('Minimum'), point('Maximum')]
  return { faces: count('Faces'), meshes: count('Meshes'), size: high.map((v, i) => Math.round((v - low[i]) * 1000) / 1000) }
}

describe('glTF as others write it', () => {
  for (const [name, change] of Object.entries(GLTF_FORMS))
    it(`${name} is read, and written plain`, async () => {
      const bytes = await writeAs(plain, change)
      const file = await put(`${name}.glb`, bytes)
      expect(await isPlainGlb(file)).toBe(false)
      const made = (await assembleModel(file, [])).bytes
      expect(await isPlainGlb(await put(`${name} plain.glb`, made))).toBe(true)
      const [before, after] = [await parseGlb(plain), await parseGlb(made)]
      expect(trianglesOf(after)).toBe(trianglesOf(before))
      expect(after.parts.map(p => p.name)).toEqual(before.parts.map(p => p.name))
      for (const [i, side] of sizeOf(after).entries()) expect(side).toBeCloseTo(sizeOf(before)[i], 2)
      expect(after.images.map(i => i.mediaType)).toEqual(before.images.map(i => i.mediaType))
    })

  it('specular and glossiness become metalness and roughness', async () => {
    const model = await read('old.glb', await writeAs(plain, GLTF_FORMS.KHR_materials_pbrSpecularGlossiness))
    expect(model.materials[0].parameters.baseMetalness).toBe(0)
    expect(model.materials[0].parameters.specularRoughness).toBeCloseTo(0.3, 5)
    expect(model.materials[0].parameters.baseColor[0]).toBeCloseTo(0.5, 5)
  })

  it('a skinned mesh stands as its joints have it, wherever its own node is', async () => {
    const model = await read('skinned.glb', await writeSkinned())
    // The lower row is 1 m wide; the upper one lies at the left of the bend, turned upright.
    expect(trianglesOf(model)).toBe(4)
    expect(sizeOf(model)).toEqual([1.5, 1.5, 0])
    expect(Math.max(...model.parts[0].mesh.positions)).toBeLessThan(3)
  })

  it('with several buffers, or asking for what nobody here knows, is read all the same', async () => {
    const [first, second] = [Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0]), Uint16Array.from([0, 1, 2])]
    const uri = (bytes: ArrayBufferView) =>
      `data:application/octet-stream;base64,${Buffer.from(bytes.buffer as ArrayBuffer).toString('base64')}`
    const gltf = {
      asset: { version: '2.0' },
      extensionsUsed: ['XX_shiny'],
      extensionsRequired: ['XX_shiny'],
      buffers: [
        { byteLength: 36, uri: uri(first) },
        { byteLength: 6, uri: uri(second) },
      ],
      bufferViews: [
        { buffer: 0, byteLength: 36 },
        { buffer: 1, byteLength: 6 },
      ],
      accessors: [
        { bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] },
        { bufferView: 1, componentType: 5123, count: 3, type: 'SCALAR' },
      ],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1 }] }],
      nodes: [{ mesh: 0 }],
      scenes: [{ nodes: [0] }],
    }
    const model = await read('several.gltf', JSON.stringify(gltf))
    expect(trianglesOf(model)).toBe(1)
    expect(model.lost).toEqual(['glTF', 'XX_shiny'])
  })

  it('of version 1 says so, and what to do', async () => {
    await expect(read('first.gltf', JSON.stringify({ asset: { version: '1.0' }, techniques: {} }))).rejects.toThrow(
      /first version/,
    )
    const header = new Uint8Array(24)
    header.set(Buffer.from('glTF'))
    header[4] = 1
    header[8] = 24
    await expect(read('first.glb', header)).rejects.toThrow(/first version/)
  })
})

describe('interchange models', () => {
  for (const [ending, form] of [
    ['fbx', 'fbx'],
    ['fbx', 'fbxa'],
    ['stl', 'stl'],
    ['stl', 'stlb'],
    ['ply', 'ply'],
    ['ply', 'plyb'],
    ['obj', 'obj'],
    ['dae', 'collada'],
  ])
    it(`${form}: triangles and size are what another reader finds`, async () => {
      const path = `${form}.${ending}`
      // Of a model with pictures the Collada writer looks for a folder that is not there.
      const from = form === 'collada' ? 'stl.stl' : 'plain.glb'
      expect(spawnSync('assimp', ['export', from, path, `-f${form}`], { cwd: folder }).status).toBe(0)
      // That reader refuses the binary FBX of its own writer; what it was written from has the same triangles.
      const there = askAssimp(form === 'fbx' ? 'plain.glb' : path)
      expect(there.faces).toBeGreaterThan(10)
      const model = await read(path, await readFile(join(folder, path)))
      expect(trianglesOf(model)).toBe(there.faces)
      // The writer counts metres and says centimetres, which only this format has a place for.
      const unit = ending === 'fbx' ? 0.01 : 1
      for (const [i, side] of sizeOf(model).entries()) expect(side).toBeCloseTo(there.size[i] * unit, 2)
      if (ending === 'fbx' || ending === 'obj') expect(model.parts.length).toBe(there.meshes)
    })

  it('USD: units, the axis that is up, names and materials', async () => {
    const model = await read('tray.usda', USDA)
    expect(sizeOf(model)).toEqual([1, 0.2, 0.5])
    expect(model.parts.map(p => p.name)).toEqual(['Tray'])
    const [{ parameters }] = model.materials
    expect(parameters.specularRoughness).toBeCloseTo(0.3, 5)
    expect(parameters.baseColor[1]).toBeCloseTo(0.4, 2)
  })

  it('Collada: inches, and a texture of another kind that lies beside it', async () => {
    const files = [
      await put('dae/Tray.dae', COLLADA),
      await put('dae/textures/Tray wood.tga', writeTga({ width: 2, height: 2, channels: 3, data: new Uint8Array(12).fill(120) })),
    ]
    const { items, leftOver, failures } = await recognizeDelivery(files)
    expect({ leftOver, failures }).toEqual({ leftOver: [], failures: [] })
    expect(items.map(i => [i.kind, i.files.map(f => f.role)])).toEqual([['model', ['model', 'modelPart']]])
    const { bytes, missing } = await assembleModel(files[0], files.slice(1))
    const model = await parseGlb(bytes)
    expect(missing).toEqual([])
    expect(sizeOf(model)).toEqual([1.016, 0, 0.508])
    expect(model.images.map(i => i.mediaType)).toEqual(['image/png'])
    expect(model.materials[0].textures.baseColor).toBeDefined()
  })

  it('Collada: polygons each by itself, strips and fans, and no head', async () => {
    const corners = '0 0 1 1 2 2 3 3'
    const withFaces = (xml: string) =>
      COLLADA.replace(/<triangles[\s\S]*<\/triangles>/, xml).replace(/<asset>[\s\S]*<\/asset>/, '')
    const inputs = '<input semantic="VERTEX" source="#v" offset="0"/><input semantic="TEXCOORD" source="#t" offset="1" set="0"/>'
    for (const [name, faces, triangles] of [
      ['polygons', `<p>${corners}</p><p>0 0 1 1 2 2</p>`, 3],
      ['tristrips', `<p>0 0 1 1 3 3 2 2</p>`, 2],
      ['trifans', `<p>${corners}</p>`, 2],
    ] as const) {
      const model = await read(`${name}.dae`, withFaces(`<${name} count="2" material="wooden">${inputs}${faces}</${name}>`))
      expect([name, trianglesOf(model)]).toEqual([name, triangles])
      // All of them face one way.
      const { positions, indices } = model.parts[0].mesh
      const ups = Array.from({ length: triangles }, (_, t) => {
        const [a, b, c] = [0, 1, 2].map(k => indices[t * 3 + k] * 3)
        const [ux, uz, vx, vz] = [
          positions[b] - positions[a],
          positions[b + 2] - positions[a + 2],
          positions[c] - positions[a],
          positions[c + 2] - positions[a + 2],
        ]
        return Math.sign(uz * vx - ux * vz)
      })
      expect(new Set(ups).size).toBe(1)
    }
  })

  it('Collada with a material that is not there has its faces', async () => {
    const model = await read('dangling.dae', COLLADA.replace(/<material id="[^"]*"/, '<material id="other"'))
    expect(trianglesOf(model)).toBe(2)
  })

  it('FBX with colours of vertices that lead nowhere has its faces', async () => {
    expect(spawnSync('assimp', ['export', 'plain.glb', 'colours.fbx', '-ffbxa'], { cwd: folder }).status).toBe(0)
    const text = await readFile(join(folder, 'colours.fbx'), 'utf8')
    const layer =
      'LayerElementColor: 0 {\n Version: 101\n Name: ""\n MappingInformationType: "ByPolygonVertex"\n ReferenceInformationType: "IndexToDirect"\n}\n'
    const spoilt = text.replaceAll('LayerElementNormal: 0 {', `${layer}LayerElementNormal: 0 {`)
    expect(spoilt).not.toBe(text)
    expect(trianglesOf(await read('spoilt.fbx', spoilt))).toBe(trianglesOf(await read('colours.fbx', text)))
  })

  it('glTF of nothing but points says that it has no faces', async () => {
    const uri = `data:application/octet-stream;base64,${Buffer.alloc(36).toString('base64')}`
    const gltf = {
      asset: { version: '2.0' },
      buffers: [{ byteLength: 36, uri }],
      bufferViews: [{ buffer: 0, byteLength: 36 }],
      accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [0, 0, 0] }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 }, mode: 0 }] }],
      nodes: [{ mesh: 0 }],
      scenes: [{ nodes: [0] }],
    }
    await expect(read('points.gltf', JSON.stringify(gltf))).rejects.toThrow(/points or lines/)
  })

  it('a cloud of points, and an FBX of before 2011, say what they are', async () => {
    const points =
      'ply\nformat ascii 1.0\nelement vertex 2\nproperty float x\nproperty float y\nproperty float z\nend_header\n0 0 0\n1 0 0\n'
    await expect(read('points.ply', points)).rejects.toThrow(/no faces/)
    await expect(read('old.fbx', '; FBX 6.1.0 project file\nFBXHeaderExtension:  {\n\tFBXVersion: 6100\n}\n')).rejects.toThrow(
      /older/,
    )
  })

  it('what glTF does not hold of them is told; the file as delivered stays', async () => {
    const file = await put(
      'colours.ply',
      'ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nproperty uchar red\nproperty uchar green\nproperty uchar blue\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0 255 0 0\n1 0 0 0 255 0\n0 1 0 0 0 255\n3 0 1 2\n',
    )
    const [item] = (await recognizeDelivery([file])).items
    const { files } = await takeHouseForm(item)
    expect(files).toMatchObject([{ from: 'colours.ply', path: 'colours.glb', role: 'model' }])
    const { findings } = await inspectItem(item, null)
    expect(findings.find(f => f.code === 'lostInReading')?.evidence).toMatchObject({ form: 'ply', what: 'colours of vertices' })
  })

  it('OBJ in UTF-16 is read', async () => {
    const text = 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n'
    const model = await read('wide.obj', Buffer.concat([Buffer.from([0xff, 0xfe]), Buffer.from(text, 'utf16le')]))
    expect(trianglesOf(model)).toBe(1)
  })

  it('OBJ with lines and points beside its faces has its faces', async () => {
    const model = await read('mixed.obj', 'v 0 0 0\nv 1 0 0\nv 0 1 0\nl 1 2\nf 1 2 3\np 3\nl 2 3\n')
    expect(trianglesOf(model)).toBe(1)
  })

  it('without triangles say so', async () => {
    await expect(read('empty.usda', '#usda 1.0\ndef Xform "Root" {\n}\n')).rejects.toThrow(/no triangles/)
  })
})

describe('damaged interchange models', () => {
  const attackAs = (path: string, bytes: Uint8Array, times: number) =>
    attack(path, bytes, times, async damaged => {
      const file = await put(`damaged/${path}`, damaged)
      if (file.size > 0) await parseGlb((await assembleModel(file, [])).bytes)
    })
  it('USD', () => attackAs('tray.usda', Buffer.from(USDA), 80), 120_000)
  it('Collada', () => attackAs('tray.dae', Buffer.from(COLLADA), 80), 120_000)
  it('Draco', async () => attackAs('draco.glb', await writeAs(plain, GLTF_FORMS.KHR_draco_mesh_compression), 60), 120_000)
  it('meshopt', async () => attackAs('meshopt.glb', await writeAs(plain, GLTF_FORMS.EXT_meshopt_compression), 60), 120_000)
  for (const [ending, form] of [
    ['fbx', 'fbx'],
    ['stl', 'stlb'],
    ['ply', 'plyb'],
  ])
    it(form, async () => {
      spawnSync('assimp', ['export', 'plain.glb', `whole.${ending}`, `-f${form}`], { cwd: folder })
      await attackAs(`whole.${ending}`, await readFile(join(folder, `whole.${ending}`)), 60)
    })
})
