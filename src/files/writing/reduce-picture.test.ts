import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { writeHdr } from '#core/codecs/hdr'
import { writeExr } from '#core/codecs/write-exr'
import { createFloatImage } from '#core/image/image'
import { reducePicture } from './reduce-picture'

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-pictures-'))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

const put = async (name: string, bytes: Uint8Array) => {
  const path = join(folder, name)
  await writeFile(path, bytes)
  return path
}
const decode = async (bytes: Uint8Array) => {
  const { data, info } = await sharp(bytes).raw().toBuffer({ resolveWithObject: true })
  return { ...info, data }
}

describe('a picture that somebody brought', () => {
  it('is reduced by averaging, not by leaving pixels out', async () => {
    // Lines one pixel wide: whoever skips pixels gets black or white.
    const lines = Buffer.alloc(4096 * 3072 * 3)
    for (let i = 0; i < 4096 * 3072; i++) if (i % 2 === 0) lines.fill(255, i * 3, i * 3 + 3)
    const png = await sharp(lines, { raw: { width: 4096, height: 3072, channels: 3 } })
      .png({ compressionLevel: 1 })
      .toBuffer()
    const reduced = await reducePicture(await put('lines.png', png), 'lines.png')
    expect(reduced).toMatchObject({ width: 1024, height: 768, originalWidth: 4096, originalHeight: 3072 })
    const { data } = await decode(reduced.bytes)
    const middle = data.subarray(300_000, 303_000)
    expect(Math.min(...middle)).toBeGreaterThan(110)
    expect(Math.max(...middle)).toBeLessThan(146)
  })

  it('keeps its size when it is small, stands upright, and lies on grey where it is transparent', async () => {
    const clear = await sharp({ create: { width: 60, height: 40, channels: 4, background: { r: 255, g: 0, b: 0, alpha: 0 } } })
      .withExif({ IFD0: { Orientation: '6' } })
      .png()
      .toBuffer()
    const reduced = await reducePicture(await put('clear.png', clear), 'clear.png')
    expect([reduced.width * reduced.height, reduced.originalWidth * reduced.originalHeight]).toEqual([2400, 2400])
    const { data } = await decode(reduced.bytes)
    expect(Math.abs(data[600] - 128)).toBeLessThan(4)
  })

  it.each([
    ['sky.hdr', 1],
    ['sky.exr', 400],
  ])('linear ones are exposed by their median, whatever their scale: %s', async (name, scale) => {
    const sky = createFloatImage(2048, 1024, 3)
    for (let p = 0; p < 2048 * 1024; p++) {
      const up = 1 - Math.floor(p / 2048) / 1024
      sky.data.set([0.2 * scale * (0.5 + up), 0.25 * scale * (0.5 + up), 0.3 * scale * (0.5 + up)], p * 3)
    }
    sky.data.fill(20_000 * scale, 300 * 2048 * 3, 300 * 2048 * 3 + 60)
    const bytes = name.endsWith('hdr') ? writeHdr(sky) : writeExr(sky)
    const reduced = await reducePicture(await put(name, bytes), name)
    expect(reduced).toMatchObject({ width: 1024, height: 512, originalWidth: 2048 })
    const { data } = await decode(reduced.bytes)
    const sorted = Uint8Array.from(data).sort()
    expect(sorted[sorted.length / 2]).toBeGreaterThan(100)
    expect(sorted[sorted.length / 2]).toBeLessThan(136)
    // A panorama is no 4 : 3 picture, and that is said.
    expect(reduced.faults).toContain('aspect')
    expect(reduced.score).toBeLessThan(100)
  })

  it('is refused with a reason when it does not decode', async () => {
    for (const [name, bytes] of [
      ['text.png', Buffer.from('not a picture')],
      ['text.exr', Buffer.from('not a picture')],
      ['text.hdr', Buffer.from('not a picture')],
      ['empty.jpg', Buffer.alloc(0)],
    ] as const)
      await expect(reducePicture(await put(name, bytes), name)).rejects.toMatchObject({ name: 'FileError' })
  })
})
