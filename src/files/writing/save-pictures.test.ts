import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { parseExr } from '#core/codecs/exr'
import { createFloatImage } from '#core/image/image'
import { developForDisplay } from '#core/render/film/develop'
import { encodeExr } from './encode-exr'
import { savePictures } from './save-pictures'

let folder: string
let path: string
const ramp = createFloatImage(256, 8, 3)
beforeAll(async () => {
  for (let p = 0; p < 256 * 8; p++) for (let k = 0; k < 3; k++) ramp.data[p * 3 + k] = (p % 256) / 512
  folder = await mkdtemp(join(tmpdir(), 'muscovite-saved-'))
  path = join(folder, 'picture.exr')
  await writeFile(path, encodeExr(ramp, ''))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

describe('a saved picture', () => {
  it.each(['png', 'webp', 'jpeg', 'pngP3', 'png16', 'tiff16'] as const)(
    'as %s brings the profile that it is encoded by',
    async format => {
      const meta = await sharp(await savePictures([path], format)).metadata()
      expect([meta.width, meta.height, meta.channels]).toEqual([256, 8, 3])
      const profile = meta.icc!.toString('latin1').replaceAll('\0', '')
      expect(profile).toMatch(format === 'pngP3' ? /P3/ : /sRGB/)
      expect(meta.depth).toBe(format === 'png16' || format === 'tiff16' ? 'ushort' : 'uchar')
    },
  )

  it('in 16 bits holds more steps than in 8, and the same ones', async () => {
    const stepsOf = async (format: 'png' | 'png16') => {
      const { data } = await sharp(await savePictures([path], format))
        .toColourspace(format === 'png16' ? 'rgb16' : 'srgb')
        .raw({ depth: format === 'png16' ? 'ushort' : 'uchar' })
        .toBuffer({ resolveWithObject: true })
      const values = format === 'png16' ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2) : data
      return Array.from({ length: 256 }, (_, x) => values[x * 3 + 1])
    }
    const [deep, flat] = [await stepsOf('png16'), await stepsOf('png')]
    expect(new Set(deep).size).toBeGreaterThan(new Set(flat).size)
    const shown = developForDisplay(parseExr(encodeExr(ramp, '')))
    for (const x of [10, 100, 250]) {
      expect(flat[x]).toBe(shown.data[x * 3 + 1])
      expect(Math.abs(deep[x] / 257 - flat[x])).toBeLessThan(0.6)
    }
  })

  it('in Display P3 looks the same: its values are others where it has colour', async () => {
    const red = createFloatImage(8, 8, 3)
    for (let p = 0; p < 64; p++) red.data.set([0.5, 0.02, 0.02], p * 3)
    const file = join(folder, 'red.exr')
    await writeFile(file, encodeExr(red, ''))
    const first = async (format: 'png' | 'pngP3') =>
      [
        ...(await sharp(await savePictures([file], format), {})
          .removeAlpha()
          .raw()
          .toBuffer()),
      ].slice(0, 3)
    const [srgb, p3] = [await first('png'), await first('pngP3')]
    // sharp gives a picture back in sRGB: as it is seen.
    for (const k of [0, 1, 2]) expect(Math.abs(srgb[k] - p3[k])).toBeLessThanOrEqual(12)
  })
})
