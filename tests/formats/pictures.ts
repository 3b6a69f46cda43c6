import { readFile } from 'node:fs/promises'
import { createRequire } from 'node:module'
import { writePsd } from 'ag-psd'
import { encode as encodeBmp } from 'bmp-ts'
import { encodeToKTX2 } from 'ktx2-encoder'
import sharp from 'sharp'
import { floatToHalf } from '#core/codecs/half'
import type { ByteImage } from '#core/image/image'

/** Writers of pictures as game and print deliver them, for readers to be held against. */

const { resolve } = createRequire(import.meta.url)
const ascii = (text: string): number[] => [...Buffer.from(text, 'latin1')]

export interface TgaForm {
  isTopDown?: boolean
  isPacked?: boolean
}

/** 1, 3 or 4 channels, plain or run-length packed, from the bottom as most programs write it or from the top. */
export function writeTga(
  { width, height, channels, data }: ByteImage,
  { isTopDown = false, isPacked = false }: TgaForm = {},
): Uint8Array {
  const type = (channels === 1 ? 3 : 2) + (isPacked ? 8 : 0)
  const header = [0, 0, type, 0, 0, 0, 0, 0, 0, 0, 0, 0, width & 255, width >> 8, height & 255, height >> 8, channels * 8]
  const out = [...header, (isTopDown ? 0x20 : 0) | (channels === 4 ? 8 : 0)]
  for (let row = 0; row < height; row++) {
    const y = isTopDown ? row : height - 1 - row
    const pixels = Array.from({ length: width }, (_, x) => {
      const [r, g = r, b = r, a] = data.subarray((y * width + x) * channels, (y * width + x + 1) * channels)
      return channels === 1 ? [r] : channels === 3 ? [b, g, r] : [b, g, r, a]
    })
    if (!isPacked) out.push(...pixels.flat())
    else
      for (let x = 0; x < width; ) {
        let run = 1
        while (x + run < width && run < 128 && String(pixels[x + run]) === String(pixels[x])) run++
        out.push(run > 1 ? 0x80 | (run - 1) : 0, ...pixels[x])
        x += run
      }
  }
  return Uint8Array.from(out)
}

export function writeBmp({ width, height, data }: ByteImage): Uint8Array {
  const abgr = Buffer.alloc(width * height * 4)
  for (let i = 0; i < width * height; i++) abgr.set([255, data[i * 3 + 2], data[i * 3 + 1], data[i * 3]], i * 4)
  return new Uint8Array(encodeBmp({ data: abgr, width, height, bitPP: 24 } as never).data)
}

const toRgba = ({ width, height, data }: ByteImage): Uint8ClampedArray => {
  const rgba = new Uint8ClampedArray(width * height * 4)
  for (let i = 0; i < width * height; i++) rgba.set([data[i * 3], data[i * 3 + 1], data[i * 3 + 2], 255], i * 4)
  return rgba
}

export const writePsdOf = (image: ByteImage): Uint8Array =>
  new Uint8Array(
    writePsd({
      width: image.width,
      height: image.height,
      imageData: { width: image.width, height: image.height, data: toRgba(image) } as never,
      children: [],
    }),
  )

export const writePpm = ({ width, height, data }: ByteImage): Uint8Array =>
  Uint8Array.from([...ascii(`P6\n# as a scanner writes it\n${width} ${height}\n255\n`), ...data])

export async function writeJxl(image: ByteImage): Promise<Uint8Array> {
  const { default: encode, init } = await import('@jsquash/jxl/encode.js')
  await init((await WebAssembly.compile(new Uint8Array(await readFile(resolve('@jsquash/jxl/codec/enc/jxl_enc.wasm'))))) as never)
  const { width, height } = image
  return new Uint8Array(await encode({ data: toRgba(image), width, height, colorSpace: 'srgb' } as never, { lossless: true }))
}

export const writeAvif = async ({ width, height, data }: ByteImage): Promise<Uint8Array> =>
  new Uint8Array(
    await sharp(data, { raw: { width, height, channels: 3 } })
      .avif({ lossless: true, chromaSubsampling: '4:4:4' })
      .toBuffer(),
  )

/** One channel of floats, as heights come. */
export function writeFloatTiff(width: number, height: number, values: readonly number[]): Uint8Array {
  const entries: [tag: number, type: number, value: number][] = [
    [256, 4, width],
    [257, 4, height],
    [258, 3, 32],
    [259, 3, 1],
    [262, 3, 1],
    [273, 4, 0],
    [277, 3, 1],
    [278, 4, height],
    [279, 4, values.length * 4],
    [339, 3, 3],
  ]
  const start = 8 + 2 + entries.length * 12 + 4
  const view = new DataView(new ArrayBuffer(start + values.length * 4))
  view.setUint32(0, 0x49492a00)
  view.setUint32(4, 8, true)
  view.setUint16(8, entries.length, true)
  entries.forEach(([tag, type, value], i) => {
    const at = 10 + i * 12
    view.setUint16(at, tag, true)
    view.setUint16(at + 2, type, true)
    view.setUint32(at + 4, 1, true)
    if (type === 3) view.setUint16(at + 8, value, true)
    else view.setUint32(at + 8, tag === 273 ? start : value, true)
  })
  for (const [i, value] of values.entries()) view.setFloat32(start + i * 4, value, true)
  return new Uint8Array(view.buffer)
}

/** A DirectDraw surface around blocks, or around pixels of 32 bits with blue first. */
export function writeDds(width: number, height: number, form: string | 'bgra' | number, data: readonly number[]): Uint8Array {
  const header = new DataView(new ArrayBuffer(typeof form === 'number' ? 148 : 128))
  const put = (at: number, value: number) => header.setUint32(at, value, true)
  put(0, 0x20534444)
  put(4, 124)
  put(8, 0x1007)
  put(12, height)
  put(16, width)
  put(76, 32)
  if (form === 'bgra') {
    put(80, 0x41)
    put(88, 32)
    for (const [i, mask] of [0xff0000, 0xff00, 0xff, 0xff000000].entries()) put(92 + i * 4, mask)
  } else {
    put(80, 4)
    put(84, typeof form === 'number' ? 0x30315844 : Buffer.from(form).readUInt32LE())
  }
  if (typeof form === 'number') put(128, form)
  return Uint8Array.from([...new Uint8Array(header.buffer), ...data])
}

/** Half floats of one channel, for what has to be made by hand. */
export const toHalves = (values: readonly number[]): number[] => values.flatMap(v => [floatToHalf(v) & 255, floatToHalf(v) >> 8])

/** Basis Universal: UASTC, close to the picture, or ETC1S, smaller and coarser. */
export async function writeKtx2(image: ByteImage, { isUastc = true }: { isUastc?: boolean } = {}): Promise<Uint8Array> {
  const { width, height } = image
  const imageDecoder = async () => ({ width, height, data: new Uint8Array(toRgba(image)) })
  const options = { isUASTC: isUastc, generateMipmap: false, qualityLevel: 255, imageDecoder }
  return new Uint8Array(await encodeToKTX2(new Uint8Array(1), options as never))
}
