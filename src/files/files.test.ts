import { createWriteStream } from 'node:fs'
import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { finished } from 'node:stream/promises'
import { ZipArchive } from 'archiver'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { HOUSE_RIGS } from '#core/render/rigs/house-rigs'
import { describeFinding } from '#shared/finding-words'
import { makeModelBytes, writeDelivery } from '../../tests/fixtures'
import { inspectItem } from './items/inspect-item'
import { previewItem } from './items/preview-item'
import { unpackArchive } from './reading/archive'
import { collectSources } from './reading/collect-sources'
import { decodeByteImage } from './reading/decode-image'
import { sourceFileAt } from './reading/source-file'
import { recognizeDelivery } from './recognition/recognize-delivery'
import { encodePicture } from './writing/encode-picture'

let root: string
let delivery: string

beforeAll(async () => {
  root = await mkdtemp(join(tmpdir(), 'muscovite-files-'))
  delivery = join(root, 'delivery')
  await writeDelivery(delivery)
})
afterAll(() => rm(root, { recursive: true, force: true }))

async function zipOf(name: string, entries: Record<string, Buffer | string>): Promise<string> {
  const path = join(root, name)
  const archive = new ZipArchive({ zlib: { level: 9 } })
  const output = createWriteStream(path)
  archive.pipe(output)
  for (const [entry, content] of Object.entries(entries)) archive.append(content, { name: entry })
  await archive.finalize()
  await finished(output)
  return path
}

/** Puts another name of the same length into a zip, as an attacker would: writers refuse such names. */
async function renameInZip(path: string, from: string, to: string): Promise<void> {
  const { readFile } = await import('node:fs/promises')
  const text = (await readFile(path)).toString('latin1')
  await writeFile(path, Buffer.from(text.replaceAll(from, to), 'latin1'))
}

describe('recognizing a delivery', () => {
  it('makes an item of each kind, names each fault, and drops nothing silently', async () => {
    const { files, failures } = await collectSources([delivery])
    expect(failures).toEqual([])
    const recognition = await recognizeDelivery(files)
    expect(recognition.items.map(i => [i.kind, i.name, i.category])).toEqual(
      expect.arrayContaining([
        ['material', 'Oak test', 'surfaces.timber'],
        ['model', 'Cube stool', 'furniture.chairs'],
        ['environment', 'Clear test sky', 'environments.skies'],
        ['environment', 'Other test sky', 'environments.skies'],
      ]),
    )
    expect(recognition.items).toHaveLength(4)
    expect(recognition.failures.map(f => [f.path.split('/').pop(), f.code]).sort()).toEqual([
      ['Cut_Off_basecolor.png', 'truncated'],
      ['Empty_roughness.png', 'emptyFile'],
      ['Not_A_Sky.hdr', 'typeMismatch'],
    ])
    const accounted = [
      ...recognition.items.flatMap(i => i.files.map(f => f.file.path)),
      ...recognition.leftOver.map(l => l.path),
      ...recognition.failures.map(f => f.path),
    ]
    expect(accounted.sort()).toEqual(files.map(f => f.path).sort())
  })

  it('a set whose name holds a picture word is still a set', async () => {
    const folder = join(root, 'named')
    await mkdir(folder, { recursive: true })
    const grey = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#997755' } })
      .png()
      .toBuffer()
    await writeFile(join(folder, 'Lime_Render_basecolor.png'), grey)
    await writeFile(join(folder, 'Lime_Render_preview.png'), grey)
    const { files } = await collectSources([folder])
    const { items } = await recognizeDelivery(files)
    expect(items.map(i => i.files.map(f => f.role))).toEqual([['baseColor', 'picture']])
  })
})

describe('inspecting', () => {
  it('measures a set, a model and a sky', async () => {
    const { items } = await recognizeDelivery((await collectSources([delivery])).files)
    const byKind = (kind: string) => items.find(i => i.kind === kind)!
    const material = await inspectItem({ ...byKind('material'), widthMm: 600 }, 'surfaces.timber')
    expect(material.facts).toMatchObject({ widthMm: 600, normalMapHandedness: 'openGl', widthPx: 128 })
    expect(material.findings).toEqual([])
    const model = await inspectItem(byKind('model'), 'furniture.chairs')
    expect(model.facts.heightM).toBeCloseTo(0.72, 1)
    expect(model.facts.parts).toBe(2)
    const sky = await inspectItem(byKind('environment'), 'environments.skies')
    expect(sky.facts).toMatchObject({ setting: 'exterior', sunPresent: true })
  })

  it('finds a model in centimetres, and one without any materials', async () => {
    const path = join(root, 'big.glb')
    await writeFile(path, await makeModelBytes(100))
    const file = await sourceFileAt(path, 'big.glb')
    const source = {
      kind: 'model' as const,
      name: 'big',
      widthMm: null,
      constants: {},
      files: [{ file, role: 'model', byContentOnly: false, handednessHint: null }],
    }
    const { findings } = await inspectItem(source, 'furniture.chairs')
    expect(findings.find(f => f.code === 'unitSuspect')?.evidence.factor).toBe(0.01)
  })

  it('looks at a picture that came along: what is wrong with it is told, a sound one is passed over', async () => {
    const model = join(root, 'stool.glb')
    await writeFile(model, await makeModelBytes())
    const file = await sourceFileAt(model, 'Stool.glb')
    const { picture, linear } = (await previewItem(
      {
        kind: 'model',
        name: 'stool',
        widthMm: null,
        constants: {},
        files: [{ file, role: 'model', byContentOnly: false, handednessHint: null }],
      },
      { ...HOUSE_RIGS['model-three-quarter'], scaleBar: false },
      'draft',
      { width: 96 },
    ))!
    const inspect = async (name: string, bytes: Buffer) => {
      await writeFile(join(root, name), bytes)
      const along = {
        file: await sourceFileAt(join(root, name), name),
        role: 'picture',
        byContentOnly: false,
        handednessHint: null,
      }
      const source = {
        kind: 'model' as const,
        name: 'stool',
        widthMm: null,
        constants: {},
        files: [{ file, role: 'model', byContentOnly: false, handednessHint: null }, along],
      }
      return (await inspectItem(source, 'furniture.chairs')).findings.filter(f => f.code.startsWith('picture'))
    }
    expect(await inspect('sound.png', await encodePicture(picture, 'png'))).toEqual([])
    const stored = { ...picture, data: Uint8Array.from(linear.data, v => Math.min(255, Math.round(v * 255))) }
    expect((await inspect('linear.png', await encodePicture(stored, 'png'))).map(f => f.code)).toEqual([
      'pictureLooksLinear',
      'pictureUnfit',
    ])
    const square = await sharp(await encodePicture(picture, 'png'))
      .resize(80, 80, { fit: 'cover' })
      .png()
      .toBuffer()
    const [unfit] = await inspect('square.png', square)
    expect(unfit.evidence).toMatchObject({ file: 'square.png', faults: expect.stringContaining('aspect') })
    expect(describeFinding(unfit.code, unfit.evidence)).toContain('4 : 3')
    // One that does not decode is no loss.
    expect(await inspect('broken.png', Buffer.from('no picture'))).toEqual([])
  })
})

describe('archives', () => {
  it('unpacks what is sound', async () => {
    const path = await zipOf('good.zip', { 'a/b.txt': 'hello', 'c.txt': 'there', '__MACOSX/x': 'litter' })
    const { files, failures } = await unpackArchive(path, join(root, 'good'))
    expect(files.map(f => [f.path, f.size])).toEqual([
      ['a/b.txt', 5],
      ['c.txt', 5],
    ])
    expect(failures).toEqual([])
  })

  it('keeps entries inside the folder, whatever they are called, and goes on', async () => {
    const path = await zipOf('slip.zip', { 'xx/xx/evil.txt': 'no', 'fine.txt': 'yes', 'absolute.txt': 'no' })
    await renameInZip(path, 'xx/xx/evil.txt', '../../evil.txt')
    await renameInZip(path, 'absolute.txt', '/bsolute.txt')
    const { files, failures } = await unpackArchive(path, join(root, 'slip'))
    expect(files.map(f => f.path)).toEqual(['fine.txt'])
    expect(failures.map(f => f.code)).toEqual(['unsafePath', 'unsafePath'])
  })

  it('stops an entry that explodes, and goes on with the others', async () => {
    const path = await zipOf('bomb.zip', { 'bomb.bin': Buffer.alloc(64 * 1024 ** 2), 'fine.txt': 'yes' })
    const { files, failures } = await unpackArchive(path, join(root, 'bomb'))
    expect(files.map(f => f.path)).toEqual(['fine.txt'])
    expect(failures).toMatchObject([{ path: 'bomb.bin', code: 'archiveBomb' }])
  })

  it('refuses what is cut off, and more files than allowed', async () => {
    const path = await zipOf('cut.zip', { 'a.txt': 'hello' })
    const { readFile } = await import('node:fs/promises')
    await writeFile(path, (await readFile(path)).subarray(0, 40))
    await expect(unpackArchive(path, join(root, 'cut'))).rejects.toMatchObject({ code: 'malformed' })
    const many = await zipOf('many.zip', Object.fromEntries(Array.from({ length: 12 }, (_, i) => [`${i}.txt`, 'x'])))
    const { failures } = await unpackArchive(many, join(root, 'many'), { maxEntries: 5, maxTotalBytes: 1e9, maxRatio: 400 })
    expect(failures.map(f => f.code)).toEqual(['archiveBomb'])
  })

  it('collects from a zip as from a folder, and names what is not there', async () => {
    const path = await zipOf('mixed.zip', { 'in.txt': 'x' })
    const sources = await collectSources([path, join(root, 'nowhere')])
    expect(sources.files.map(f => f.path)).toEqual(['in.txt'])
    expect(sources.failures).toMatchObject([{ code: 'notFound' }])
    await sources.dispose()
  })
})

describe('pictures', () => {
  it('come out as they went in, with the encoding in their metadata', async () => {
    const image = { width: 4, height: 2, channels: 3, data: Uint8Array.from({ length: 24 }, (_, i) => i * 10) }
    const png = await encodePicture(image, 'png')
    expect([...(await decodeByteImage(png, 64)).data]).toEqual([...image.data])
    expect((await sharp(png).metadata()).exif?.toString('latin1')).toContain('PBR Neutral')
  })
})

describe('previewing', () => {
  it('renders the same picture twice for one seed, at the house aspect', async () => {
    const { items } = await recognizeDelivery((await collectSources([join(delivery, 'Timber')])).files)
    const draw = () => previewItem({ ...items[0], widthMm: 300 }, HOUSE_RIGS['material-stage'], 'draft', { width: 48, seed: 3 })
    const [a, b] = [await draw(), await draw()]
    expect(a!.picture.width / a!.picture.height).toBeCloseTo(4 / 3)
    expect(a!.picture.data).toEqual(b!.picture.data)
  })

  it('a texture of 16K square gives a preview; one larger is refused by name and size', async () => {
    const draw = async (side: number) => {
      const path = join(root, `Huge_${side}_BaseColor.png`)
      const png = sharp({ create: { width: side, height: side, channels: 3, background: '#a04020' }, limitInputPixels: false })
      await png.png({ compressionLevel: 1 }).toFile(path)
      const file = await sourceFileAt(path, `Huge_${side}_BaseColor.png`)
      return previewItem(
        {
          kind: 'material',
          name: 'huge',
          widthMm: 1000,
          constants: {},
          files: [{ file, role: 'baseColor', byContentOnly: false, handednessHint: null }],
        },
        HOUSE_RIGS['material-stage'],
        'draft',
        { width: 48 },
      )
    }
    const { picture } = (await draw(16384))!
    const middle = (Math.floor(picture.height * 0.6) * picture.width + 24) * 3
    expect(picture.data[middle]).toBeGreaterThan(picture.data[middle + 2] * 1.5)
    await expect(draw(16400)).rejects.toMatchObject({ code: 'tooLarge', message: expect.stringContaining('16384') })
  })

  it('a model without texture coordinates, with triangles of no area, gives a preview', async () => {
    const { Document, NodeIO } = await import('@gltf-transform/core')
    const document = new Document()
    const buffer = document.createBuffer()
    const at = [0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 2, 2, 2]
    const position = document.createAccessor().setType('VEC3').setArray(new Float32Array(at)).setBuffer(buffer)
    const index = document
      .createAccessor()
      .setArray(new Uint16Array([0, 1, 2, 3, 4, 5, 0, 0, 1]))
      .setBuffer(buffer)
    const part = document.createPrimitive().setAttribute('POSITION', position).setIndices(index)
    document.createScene().addChild(document.createNode().setMesh(document.createMesh().addPrimitive(part)))
    const path = join(root, 'bare.glb')
    await writeFile(path, await new NodeIO().writeBinary(document))
    const result = await previewItem(
      {
        kind: 'model',
        name: 'bare',
        widthMm: null,
        constants: {},
        files: [{ file: await sourceFileAt(path, 'bare.glb'), role: 'model', byContentOnly: false, handednessHint: null }],
      },
      HOUSE_RIGS['model-three-quarter'],
      'draft',
      { width: 48 },
    )
    expect(new Set(result!.picture.data).size).toBeGreaterThan(8)
    expect(result!.linear.data.every(Number.isFinite)).toBe(true)
  })
})
