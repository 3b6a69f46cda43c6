import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { WebIO } from '@gltf-transform/core'
import { ALL_EXTENSIONS } from '@gltf-transform/extensions'
import sharp from 'sharp'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { makeLevels, makeStandIn, STAND_IN_TRIANGLES } from '#core/geometry/fixes/levels-of-detail'
import { computeBounds } from '#core/geometry/mesh'
import { parseGlb } from '#core/geometry/read-gltf'
import { createBox, createSphere } from '#core/geometry/shapes'
import { writeGlb } from '../../demo/model-file'
import { applyFixes } from '../fixes/apply-fixes'
import { inspectItem } from '../items/inspect-item'
import { mapAddress } from '../models/model-references'
import { collectSources } from '../reading/collect-sources'
import { recognizeDelivery } from './recognize-delivery'
import { parseModelName } from './recognize-models'

let base: string
let folder: string
let count = 0
beforeAll(async () => {
  base = await mkdtemp(join(tmpdir(), 'muscovite-models-'))
})
beforeEach(() => {
  folder = join(base, String(count++))
})
afterAll(() => rm(base, { recursive: true, force: true }))

const put = async (path: string, bytes: Uint8Array | string) => {
  await mkdir(dirname(join(folder, path)), { recursive: true })
  await writeFile(join(folder, path), bytes)
}
const recognize = async () => recognizeDelivery((await collectSources([folder])).files)
const picture = (background: string) =>
  sharp({ create: { width: 16, height: 16, channels: 3, background } })
    .png()
    .toBuffer()
const rolesOf = (item: { files: { role: string; file: { path: string } }[] }) =>
  Object.fromEntries(item.files.map(f => [f.file.path, f.role]))

const ball = (segments: number) =>
  writeGlb({
    folder: '',
    stem: 'Ball_Lamp',
    parts: [
      {
        name: 'globe',
        mesh: createSphere(0.2, [0, 0.2, 0], segments),
        finish: { name: 'Opal', color: [0.7, 0.7, 0.6], roughness: 0.4 },
      },
    ],
  })

/** A glTF of several files, its one texture under an address of our choosing. */
async function putGltf(path: string, textureUri: string): Promise<void> {
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS)
  const document = await io.readBinary(await ball(12))
  const texture = document
    .createTexture('veneer')
    .setImage(new Uint8Array(await picture('#a63')))
    .setMimeType('image/png')
    .setURI('veneer.png')
  document.getRoot().listMaterials()[0].setBaseColorTexture(texture)
  const { json, resources } = await io.writeJSON(document)
  json.images![0].uri = textureUri
  await put(path, JSON.stringify(json))
  for (const [uri, bytes] of Object.entries(resources)) if (uri.endsWith('.bin')) await put(join(dirname(path), uri), bytes)
}

const OBJ = `mtllib Stool.mtl
o seat
v 0 0.4 0
v 0.4 0.4 0
v 0.4 0.4 0.4
v 0 0.4 0.4
vt 0 0
vt 1 0
vt 1 1
vt 0 1
vn 0 1 0
usemtl oak
f 4/4/1 3/3/1 2/2/1 1/1/1
o leg
v 0 0 0
v 0.4 0 0
usemtl steel
f 5 6 2
f 5 2 1
`
const MTL = `newmtl oak
Kd 0 0 0
map_Kd -s 1 1 1 C:\\work\\maps\\oak_diffuse.jpg
map_Pr oak_rough.png
newmtl steel
Kd 0.5 0.5 0.55
Pm 1
Pr 0.3
`

describe('models of several files', () => {
  it('glTF with its buffer and a texture from another folder is one item with nothing missing', async () => {
    await putGltf('Lamps/Globe/globe.gltf', '../../textures/veneer.png')
    await put('textures/veneer.png', await picture('#a63'))
    const { items, leftOver, failures } = await recognize()
    expect(failures).toEqual([])
    expect(leftOver).toEqual([])
    expect(items).toHaveLength(1)
    expect(rolesOf(items[0])).toMatchObject({ 'Lamps/Globe/globe.gltf': 'model', 'textures/veneer.png': 'modelPart' })
    const { facts, findings } = await inspectItem(items[0], 'lighting')
    expect(facts).toMatchObject({ triangles: (await parseGlb(await ball(12))).parts[0].mesh.indices.length / 3, textures: 1 })
    expect(findings.map(f => f.code)).not.toContain('externalFileMissing')
  })

  it('a texture with a wrong path is found by its name, in another format too; one that is nowhere is named', async () => {
    await putGltf('a/found.gltf', 'file:/D:/old%20job/Veneer.PNG')
    await put(
      'elsewhere/veneer.webp',
      await sharp(await picture('#a63'))
        .webp()
        .toBuffer(),
    )
    await putGltf('b/lost.gltf', 'no_such_wood.png')
    const { items } = await recognize()
    const byName = (name: string) => items.find(i => i.name === name)!
    expect((await inspectItem(byName('Found'), 'lighting')).facts.textures).toBe(1)
    const lost = await inspectItem(byName('Lost'), 'lighting')
    expect(lost.facts.textures).toBe(0)
    expect(lost.findings.find(f => f.code === 'externalFileMissing')).toMatchObject({
      subject: 'no_such_wood.png',
      severity: 'mustFix',
    })
  })

  it('a texture under quite another name is found by what it is, and told; where two would do, none is taken', async () => {
    const colored = await sharp({ create: { width: 32, height: 32, channels: 3, background: '#a63' } })
      .png()
      .toBuffer()
    await putGltf('d/Cabinet/cabinet.gltf', 'C:/maps/wood_0815.png')
    await put('d/Cabinet/textures/doors.png', colored)
    await putGltf('e/Shelf/shelf.gltf', 'old_walnut_veneer.png')
    await put('e/Shelf/walnut_fine.png', colored)
    await put('e/Shelf/label.png', await sharp(colored).modulate({ hue: 90 }).png().toBuffer())
    await putGltf('f/Tray/tray.gltf', 'unknown.png')
    await put('f/Tray/one.png', await sharp(colored).modulate({ hue: 40 }).png().toBuffer())
    await put('f/Tray/two.png', await sharp(colored).modulate({ hue: 140 }).png().toBuffer())
    const { items } = await recognize()
    const seen = async (name: string) => {
      const { facts, findings } = await inspectItem(items.find(i => i.kind === 'model' && i.name === name)!, 'furniture')
      const told = findings.filter(f => f.code === 'textureMatched' || f.code === 'externalFileMissing')
      return [facts.textures, ...told.map(f => `${f.code} ${f.evidence.file}`)]
    }
    expect(await seen('Cabinet')).toEqual([1, 'textureMatched doors.png'])
    expect(await seen('Shelf')).toEqual([1, 'textureMatched walnut_fine.png'])
    expect(await seen('Tray')).toEqual([0, 'externalFileMissing unknown.png'])
  })

  it('a buffer that is not there fails the model with its name', async () => {
    await putGltf('c/half.gltf', 'veneer.png')
    await rm(join(folder, 'c'), { recursive: true })
    await put('c/half.gltf', JSON.stringify({ asset: { version: '2.0' }, buffers: [{ uri: 'half.bin', byteLength: 4 }] }))
    const { items } = await recognize()
    await expect(inspectItem(items[0], 'lighting')).rejects.toThrow('half.bin did not come along')
  })

  it('OBJ takes its materials and textures along; both parts keep their names and materials', async () => {
    await put('Seats/Stool.obj', OBJ)
    await put('Seats/Stool.mtl', MTL)
    await put(
      'Seats/maps/OAK_diffuse.jpg',
      await sharp(await picture('#b84'))
        .jpeg()
        .toBuffer(),
    )
    await put('Seats/maps/oak_rough.png', await picture('#999'))
    const { items, leftOver } = await recognize()
    expect(leftOver).toEqual([])
    expect(items.map(i => [i.kind, i.name])).toEqual([['model', 'Stool']])
    const { facts, findings } = await inspectItem(items[0], 'furniture.chairs')
    expect(facts).toMatchObject({
      triangles: 4,
      parts: 2,
      materials: 2,
      textures: 2,
      widthM: expect.closeTo(0.4),
      heightM: expect.closeTo(0.4),
    })
    expect(findings.map(f => f.code)).not.toContain('unnamedParts')
    expect(findings.map(f => f.code)).not.toContain('externalFileMissing')
  })

  it('a part that its node mirrors or stretches is told of, and what all of it takes on a graphics card', async () => {
    const io = new WebIO().registerExtensions(ALL_EXTENSIONS)
    const document = await io.readBinary(await ball(12))
    await put('s/sound.glb', await io.writeBinary(document))
    const sound = await inspectItem((await recognize()).items[0], 'lighting')
    expect(sound.findings.map(f => f.code)).not.toContain('nodeScaleOdd')
    expect(sound.facts.gpuMegabytes).toBeCloseTo(
      (Number(sound.facts.vertices) * 32 + Number(sound.facts.triangles) * 12) / 1e6,
      6,
    )
    document.getRoot().listNodes()[0].setScale([-1, 2, 1])
    await put('s/sound.glb', await io.writeBinary(document))
    const odd = await inspectItem((await recognize()).items[0], 'lighting')
    expect(odd.findings.find(f => f.code === 'nodeScaleOdd')?.evidence).toEqual({
      mirrored: 1,
      stretched: 1,
      mostStretch: expect.closeTo(2),
    })
  })

  it('reads the file of a map statement behind its options', () => {
    expect(mapAddress('wood.png')).toBe('wood.png')
    expect(mapAddress('-s 2 2 2 -o 0.5 0 0 my wood.png')).toBe('my wood.png')
    expect(mapAddress('-bm 0.4 -clamp on maps\\wood.png')).toBe('maps\\wood.png')
    expect(mapAddress('-s 2 wood.png')).toBe('wood.png')
  })

  for (const [what, text] of [
    ['JSON', '{"asset": {"version": "2.0"'],
    ['no glTF', '[1, 2, 3]'],
  ])
    it(`a .gltf of broken ${what} is a failure with a sentence`, async () => {
      await put('x/broken.gltf', text)
      const { items, failures } = await recognize()
      expect(items).toEqual([])
      expect(failures[0]).toMatchObject({ path: 'x/broken.gltf', code: 'malformed' })
    })

  it('an OBJ without faces, or with words for numbers, fails with a sentence', async () => {
    await put('x/empty.obj', 'v 0 0 0\nv 1 1 1\n')
    await put('y/words.obj', 'v a b c\nv 1 0 0\nv 0 1 0\nf 1 2 3\n')
    for (const item of (await recognize()).items) await expect(inspectItem(item, 'objects')).rejects.toThrow(/OBJ file|no number/)
  })
})

describe('levels of detail', () => {
  it('are told by number or word at the end of a name, not by a word at its start', () => {
    const none = { level: null, triangles: null, resolutionK: null }
    expect(parseModelName('Lamp_LOD2.glb')).toEqual({ ...none, stem: 'lamp', level: 2 })
    expect(parseModelName('Lamp_lod_0.glb')).toEqual({ ...none, stem: 'lamp', level: 0 })
    expect(parseModelName('Lamp_low.glb')).toEqual({ ...none, stem: 'lamp', level: 2 })
    expect(parseModelName('Low_Table.glb')).toEqual({ ...none, stem: 'low table' })
    expect(parseModelName('Table_2.glb')).toEqual({ ...none, stem: 'table 2' })
    expect(parseModelName('Tree_80k.glb')).toEqual({ ...none, stem: 'tree', triangles: 80_000 })
    expect(parseModelName('Tree_5000tris.glb')).toEqual({ ...none, stem: 'tree', triangles: 5000 })
    expect(parseModelName('Tree_2k_LOD1.gltf')).toEqual({ ...none, stem: 'tree', level: 1, resolutionK: 2 })
  })

  it('belong to the whole that states none, or are told by their triangles; sizes of textures stand aside', async () => {
    await put('A/Ball.glb', await ball(40))
    await put('A/Ball_LOD1.glb', await ball(16))
    await put('B/Knob_1k.glb', await ball(8))
    await put('B/Knob_400.glb', await ball(8))
    await put('B/Knob_5k.glb', await ball(40))
    await put('B/Knob_2000tris.glb', await ball(24))
    await put('C/Cup_1k.glb', await ball(16))
    await put('C/Cup_4k.glb', await ball(16))
    const { items } = await recognize()
    const files = (name: string) =>
      items.filter(i => i.name === name).map(i => i.files.map(f => `${f.role} ${f.file.path.split('/').pop()}`))
    expect(files('Ball')).toEqual([['model Ball.glb', 'lod Ball_LOD1.glb']])
    expect(files('Knob')).toEqual([['model Knob_1k.glb', 'lod Knob_5k.glb', 'lod Knob_2000tris.glb']])
    expect(files('Knob 400')).toEqual([['model Knob_400.glb']])
    expect(files('Cup')).toEqual([['model Cup_4k.glb', 'alternate Cup_1k.glb']])
  })

  it('of one model are one item; a level that is not lighter is a finding', async () => {
    await put('L/Ball_LOD0.glb', await ball(40))
    await put('L/Ball_LOD1.glb', await ball(16))
    await put('L/Ball_LOD2.glb', await ball(16))
    await put('L/Other.glb', await ball(8))
    await put('L/read me.txt', 'Both lamps.')
    const { items, leftOver } = await recognize()
    expect(items.map(i => [i.name, i.files.length]).sort()).toEqual([
      ['Ball', 3],
      ['Other', 1],
    ])
    expect(leftOver).toEqual([{ path: 'L/read me.txt', reason: 'document' }])
    const levels = items.find(i => i.name === 'Ball')!
    const { facts, findings } = await inspectItem(levels, 'lighting')
    const triangles = async (segments: number) => (await parseGlb(await ball(segments))).parts[0].mesh.indices.length / 3
    expect(facts).toMatchObject({
      triangles: await triangles(40),
      levels: 2,
      levelTriangles: `${await triangles(16)}, ${await triangles(16)}`,
    })
    expect(findings.filter(f => f.code === 'levelNotLighter').map(f => f.evidence.level)).toEqual([2])
    const derived = await applyFixes(levels, [{ code: 'makeLevels', parameters: {} }])
    expect(derived.filter(d => d.role === 'alternate').map(d => d.from)).toEqual(['L/Ball_LOD1.glb', 'L/Ball_LOD2.glb'])
    expect(derived.filter(d => d.role === 'lod').length).toBeGreaterThan(0)
    expect(derived.filter(d => d.role === 'standIn')).toHaveLength(1)
  })

  it('made here are lighter one after the other, true to the shape, and say how far they are good', async () => {
    const whole = await ball(120)
    const levels = await makeLevels(whole)
    expect(levels.length).toBeGreaterThanOrEqual(2)
    let before = (await parseGlb(whole)).parts[0].mesh.indices.length / 3
    for (const level of levels) {
      const { parts } = await parseGlb(level.bytes)
      expect(parts[0].name).toBe('globe')
      expect(parts[0].mesh.indices.length / 3).toBe(level.triangles)
      expect(level.triangles).toBeLessThan(before * 0.8)
      before = level.triangles
      // Every vertex of a level still lies on the ball it was taken from.
      const p = parts[0].mesh.positions
      for (let i = 0; i < p.length; i += 3) expect(Math.hypot(p[i], p[i + 1] - 0.2, p[i + 2])).toBeCloseTo(0.2, 3)
      expect(level.goodUpToPx).toBeGreaterThan(10)
    }
    const errors = levels.map(l => l.error)
    expect([...errors].sort((a, b) => a - b)).toEqual(errors)
  })

  it('a stand-in has fewer than 2000 triangles, the bounds of the whole and its colours without textures', async () => {
    const whole = await writeGlb({
      folder: '',
      stem: 'Cluster',
      parts: [createBox(1, 0.5, 2), createSphere(0.5, [0.5, 0.8, 0.2], 90), createSphere(0.3, [-0.5, 0.6, 0], 90)].map(
        (mesh, i) => ({
          name: `part ${i}`,
          mesh,
          finish: { name: `finish ${i}`, color: [0.2 * i, 0.3, 0.4], roughness: 0.5 },
        }),
      ),
    })
    const { bytes, triangles } = await makeStandIn(whole, async () => null)
    expect(triangles).toBeLessThan(STAND_IN_TRIANGLES)
    const boundsOf = async (glb: Uint8Array) => computeBounds((await parseGlb(glb)).parts.flatMap(p => [...p.mesh.positions]))
    const [a, b] = [await boundsOf(whole), await boundsOf(bytes)]
    for (let c = 0; c < 3; c++) {
      expect(b.min[c]).toBeCloseTo(a.min[c], 4)
      expect(b.max[c]).toBeCloseTo(a.max[c], 4)
    }
    const { materials, images } = await parseGlb(bytes)
    expect(images).toEqual([])
    expect(materials.map(m => m.parameters.baseColor[0]).sort()).toEqual([0, expect.closeTo(0.2), expect.closeTo(0.4)])
  })
})
