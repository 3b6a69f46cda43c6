import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { sniffType } from '#core/codecs/sniff'
import { writeExr } from '#core/codecs/write-exr'
import type { ByteImage } from '#core/image/image'
import {
  writeAvif,
  writeBmp,
  writeDds,
  writeFloatTiff,
  writeJxl,
  writeKtx2,
  writePpm,
  writePsdOf,
  writeTga,
} from '../../../../tests/formats/pictures'
import { attack } from '../../../../tests/hostile'
import { toPng } from '../../writing/house-picture'
import { decodeAsIs, decodeByteImage, decodeFullDepth, readImageHeader } from '../decode-image'
import { identifyFile, sourceFileAt } from '../source-file'

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-pictures-'))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

/** No two rows or columns are alike, so that nothing can be turned or swapped unseen. */
const picture: ByteImage = {
  width: 13,
  height: 7,
  channels: 3,
  data: Uint8Array.from({ length: 13 * 7 * 3 }, (_, i) => (i * i * 7 + i * 13) % 251),
}
const greys: ByteImage = { width: 5, height: 3, channels: 1, data: Uint8Array.from({ length: 15 }, (_, i) => i * 17) }
const withAlpha: ByteImage = { width: 4, height: 3, channels: 4, data: Uint8Array.from({ length: 48 }, (_, i) => i * 5) }

const WRITERS: Record<string, (image: ByteImage) => Uint8Array | Promise<Uint8Array>> = {
  tga: image => writeTga(image),
  'tga from the top': image => writeTga(image, { isTopDown: true }),
  'tga packed': image => writeTga(image, { isPacked: true }),
  'tga packed from the top': image => writeTga(image, { isTopDown: true, isPacked: true }),
  bmp: writeBmp,
  psd: writePsdOf,
  pnm: writePpm,
  jxl: writeJxl,
  avif: writeAvif,
  dds: ({ width, height, data }) =>
    writeDds(
      width,
      height,
      'bgra',
      Array.from({ length: width * height }, (_, i) => [data[i * 3 + 2], data[i * 3 + 1], data[i * 3], 255]).flat(),
    ),
}

describe('textures for graphics cards', () => {
  const smooth: ByteImage = {
    width: 32,
    height: 16,
    channels: 3,
    data: Uint8Array.from({ length: 32 * 16 * 3 }, (_, i) => {
      const [x, y, c] = [Math.floor(i / 3) % 32, Math.floor(i / 96), i % 3]
      return c === 0 ? x * 8 : c === 1 ? y * 16 : 128
    }),
  }
  for (const [form, isUastc, most] of [
    ['UASTC', true, 4],
    ['ETC1S', false, 24],
  ] as const)
    it(`KTX2 in ${form} is the picture that was put in, as far as the form holds it`, async () => {
      const bytes = await writeKtx2(smooth, { isUastc })
      expect(sniffType(bytes.subarray(0, 64))).toBe('ktx2')
      const { width, height, channels, data } = await decodeAsIs(bytes)
      expect([width, height, channels]).toEqual([32, 16, 3])
      const off = Array.from(data as Uint8Array, (v, i) => Math.abs(v - smooth.data[i]))
      expect(off.reduce((sum, v) => sum + v, 0) / off.length).toBeLessThan(most / 2)
    })

  it(
    'KTX2 that is damaged is refused',
    () => writeKtx2(smooth).then(whole => attack('ktx2', whole, 60, bytes => decodeAsIs(bytes))),
    60_000,
  )
})

describe('pictures of game and print', () => {
  for (const [name, write] of Object.entries(WRITERS))
    it(`${name}: header, pixels and PNG are what was written`, async () => {
      const bytes = await write(picture)
      expect(sniffType(bytes.subarray(0, 64))).toBe(name.split(' ')[0])
      expect(await readImageHeader(bytes)).toMatchObject({
        widthPx: 13,
        heightPx: 7,
        channels: name === 'dds' ? 4 : 3,
        bitsPerChannel: 8,
      })
      const { data } = await sharp(await toPng(bytes))
        .removeAlpha()
        .raw()
        .toBuffer({ resolveWithObject: true })
      const worst = Math.max(...data.map((v, i) => Math.abs(v - picture.data[i])))
      // AVIF and JPEG XL turn colours into luma and chroma and back, within a code or two.
      expect(worst).toBeLessThanOrEqual(name === 'avif' ? 2 : name === 'jxl' ? 1 : 0)
    })

  it('TGA: grey stays one channel, alpha stays where it says something', async () => {
    expect(await decodeAsIs(writeTga(greys))).toEqual(greys)
    expect(await decodeAsIs(writeTga(withAlpha, { isPacked: true }))).toEqual(withAlpha)
    const empty = { ...withAlpha, data: withAlpha.data.map((v, i) => (i % 4 === 3 ? 0 : v)) }
    expect((await decodeAsIs(writeTga(empty))).channels).toBe(3)
  })

  it('floats of a TIFF and of an OpenEXR are 16 bits in PNG; colours are encoded, data is not', async () => {
    const heights = [0, 0.25, 0.5, 1, 1.5, -1]
    const tiff = writeFloatTiff(3, 2, heights)
    expect(await readImageHeader(tiff)).toMatchObject({ widthPx: 3, channels: 1, bitsPerChannel: 32 })
    expect([...(await decodeAsIs(tiff)).data]).toEqual(heights)
    const full = await decodeFullDepth(await toPng(tiff, { isColor: false }), 64)
    expect([...full.data]).toEqual([0, 16384, 32768, 65535, 65535, 0])
    const exr = writeExr({ width: 2, height: 1, channels: 3, data: Float32Array.from([0.5, 0, 1, 0.25, 0.25, 0.25]) })
    const color = await decodeFullDepth(await toPng(exr), 64)
    expect(color.data[0] / 65535).toBeCloseTo(0.7354, 3)
    const data = await decodeFullDepth(await toPng(exr, { isColor: false }), 64)
    expect(data.data[0] / 65535).toBeCloseTo(0.5, 3)
  })

  it('are made smaller as any other', async () => {
    const large: ByteImage = { width: 64, height: 32, channels: 3, data: new Uint8Array(64 * 32 * 3).fill(90) }
    expect(await decodeByteImage(writeTga(large), 16)).toMatchObject({
      width: 16,
      height: 8,
      data: new Uint8Array(16 * 8 * 3).fill(90),
    })
  })

  it('are known by what they are, whatever their name says; text is no picture', async () => {
    const path = join(folder, 'oak_diffuse.png')
    await writeFile(path, writeTga(picture))
    expect(await identifyFile(await sourceFileAt(path, 'oak_diffuse.png'))).toMatchObject({ file: { type: 'tga' } })
    for (const text of [
      'P. 3 of the notes, on oak\n',
      'BMW grey, as delivered\n',
      'DDS is the format they want\n'.slice(1),
      '{}',
      '\t\t\n',
    ])
      expect(sniffType(Buffer.from(text.padEnd(64, '.')))).toBe('text')
  })

  it('that are cut off say so', async () => {
    for (const isPacked of [false, true]) {
      const bytes = writeTga(picture, { isPacked })
      await expect(decodeAsIs(bytes.subarray(0, bytes.length - 30))).rejects.toThrow(/breaks off/)
    }
  })
})

describe('damaged pictures of game and print', () => {
  for (const [name, write] of Object.entries(WRITERS).filter(([n]) => n !== 'avif'))
    it(name, async () => {
      const bytes = await write(picture)
      await attack(name, bytes, name === 'jxl' ? 60 : 200, damaged => decodeAsIs(damaged))
    })
})
