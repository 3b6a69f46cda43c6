import { mkdtemp, readFile, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { parseExr } from '#core/codecs/exr'
import { writeHdr } from '#core/codecs/hdr'
import { writeExr } from '#core/codecs/write-exr'
import { parseGlb } from '#core/geometry/read-gltf'
import { createBox } from '#core/geometry/shapes'
import { createFloatImage } from '#core/image/image'
import { TEXTURE_RECIPES } from '#demo/materials'
import { writeGlb } from '#demo/model-file'
import { decodeByteImage } from '../reading/decode-image'
import { makeScreenCopy } from './screen-copy'

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-screen-copies-'))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

const put = async (path: string, bytes: Uint8Array) => {
  const diskPath = join(folder, path)
  await writeFile(diskPath, bytes)
  return { path, diskPath, size: (await stat(diskPath)).size }
}
const decode = async (bytes: Uint8Array) => {
  const { data, info } = await sharp(bytes).ensureAlpha().raw().toBuffer({ resolveWithObject: true })
  return { ...info, data }
}

/** Hills of four channels, of which a half is cut out. */
const hills = (side: number) => {
  const data = Buffer.alloc(side * side * 4)
  for (let p = 0; p < side * side; p++) {
    const [x, y] = [(p % side) / side, Math.floor(p / side) / side]
    data.set([128 + 90 * Math.sin(9 * x), 128 + 90 * Math.cos(7 * y), 200 * x, x < 0.5 ? 0 : 255], p * 4)
  }
  return sharp(data, { raw: { width: side, height: side, channels: 4 } })
}

describe('a copy for the screen', () => {
  it('is none of a picture that is small enough and that browsers read', async () => {
    const file = await put('small.png', await hills(64).png().toBuffer())
    expect(await makeScreenCopy(file, 'roughness', 64)).toBeNull()
    expect(await makeScreenCopy(file, 'roughness', 32)).not.toBeNull()
  })

  it('is made of one that is small where browsers do not read it, or show half of its depth', async () => {
    const tiff = await put('small.tif', await hills(64).removeAlpha().tiff().toBuffer())
    const copied = await makeScreenCopy(tiff, 'roughness', 64)
    expect(copied?.mediaType).toBe('image/png')
    expect(await decode(copied!.bytes)).toMatchObject({ width: 64, height: 64 })
    expect(await sharp(copied!.bytes).metadata()).toMatchObject({ channels: 3 })
    const grey = await put('grey.jpg', await hills(200).removeAlpha().greyscale().toColourspace('srgb').jpeg().toBuffer())
    expect(await sharp((await makeScreenCopy(grey, 'roughness', 64))!.bytes).metadata()).toMatchObject({ channels: 1 })
    const deep = await put('deep.png', await hills(64).removeAlpha().toColourspace('rgb16').png().toBuffer())
    expect(await makeScreenCopy(deep, 'height', 64)).not.toBeNull()
  })

  it('of a model has smaller pictures, and the same shapes and materials', async () => {
    const [wood, plain] = [
      { recipe: TEXTURE_RECIPES[0], roughness: 1, color: [1, 1, 1] },
      { color: [0.2, 0.1, 0.4], roughness: 0.3 },
    ] as const
    const parts = [
      { name: 'seat', mesh: createBox(0.4, 0.1, 0.4), finish: { name: 'oak', ...wood } },
      { name: 'leg', mesh: createBox(0.1, 0.5, 0.1), finish: { name: 'paint', ...plain } },
    ] as Parameters<typeof writeGlb>[0]['parts']
    const file = await put('stool.glb', await writeGlb({ folder: '', stem: 'Stool', parts }))
    const copy = await makeScreenCopy(file, 'model', 128)
    expect(copy?.mediaType).toBe('model/gltf-binary')
    const [small, whole] = await Promise.all([copy!.bytes, new Uint8Array(await readFile(file.diskPath))].map(parseGlb))
    expect(small.parts).toEqual(whole.parts)
    expect(small.materials).toEqual(whole.materials)
    expect(small.images.length).toBe(3)
    for (const { bytes } of small.images) expect(await sharp(bytes).metadata()).toMatchObject({ width: 128, height: 128 })
    expect(await makeScreenCopy(file, 'model', 2048)).toBeNull()
    const broken = await put('broken.glb', new Uint8Array(await readFile(file.diskPath)).subarray(0, 2000))
    await expect(makeScreenCopy(broken, 'model', 128)).rejects.toThrow('does not read')
  })

  it('keeps figures to the code, also where nothing is seen of them', async () => {
    const file = await put('figures.png', await hills(256).png().toBuffer())
    for (const role of ['roughness', 'baseColor']) {
      const { data, width } = await decode((await makeScreenCopy(file, role, 128))!.bytes)
      const wanted = await decodeByteImage(file.diskPath, 128)
      expect(width).toBe(128)
      expect(Buffer.compare(data, Buffer.from(wanted.data))).toBe(0)
    }
  })

  it('keeps a colour as closely as anybody sees', async () => {
    const file = await put('color.jpg', await hills(512).removeAlpha().jpeg({ quality: 98 }).toBuffer())
    const copied = await makeScreenCopy(file, 'baseColor', 256)
    const wanted = await decodeByteImage(file.diskPath, 256)
    const { data } = await sharp(copied!.bytes).raw().toBuffer({ resolveWithObject: true })
    const off = wanted.data.reduce((sum, v, i) => sum + Math.abs(v - data[i]), 0) / data.length
    expect(off).toBeLessThan(2)
  })

  it('of a sky is linear, keeps its light, and its sun however bright', async () => {
    const sky = createFloatImage(256, 128, 3)
    sky.data.fill(0.5)
    sky.data.fill(4e6, (20 * 256 + 40) * 3, (20 * 256 + 42) * 3)
    const file = await put('sky.exr', writeExr(sky, '', undefined, { names: ['R', 'G', 'B'], isFloat: true }))
    expect(await makeScreenCopy(file, 'environment', 256)).toBeNull()
    const copied = (await makeScreenCopy(file, 'environment', 64))!
    expect(copied.mediaType).toBe('image/x-exr')
    const small = parseExr(copied.bytes)
    expect([small.width, small.height]).toEqual([64, 32])
    const mean = (data: Float32Array) => data.reduce((a, b) => a + b, 0) / data.length
    expect(mean(small.data) / mean(sky.data)).toBeCloseTo(1, 4)
  })

  it('of surroundings in eight bits, or unfolded otherwise, is a panorama', async () => {
    const painted = await put('painted.png', await hills(128).removeAlpha().resize(128, 64).png().toBuffer())
    const small = parseExr((await makeScreenCopy(painted, 'environment', 64))!.bytes)
    expect([small.width, small.height]).toEqual([64, 32])
    const sky = createFloatImage(64, 32, 3)
    sky.data.fill(2)
    const radiance = await put('sky.hdr', writeHdr(sky))
    expect(await makeScreenCopy(radiance, 'environment', 64)).toBeNull()
  })

  it('says what is wrong with a file that is cut off', async () => {
    const whole = await hills(128).removeAlpha().png().toBuffer()
    const file = await put('broken.png', whole.subarray(0, whole.length / 2))
    await expect(makeScreenCopy(file, 'roughness', 64)).rejects.toMatchObject({ code: 'malformed' })
  })
})
