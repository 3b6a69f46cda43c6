import { readFile } from 'node:fs/promises'
import { createRequire } from 'node:module'
import { decode as decodeBmp } from 'bmp-ts'
import { TGALoader } from 'three/examples/jsm/loaders/TGALoader.js'
import { isOpaque, keepChannels } from '#core/codecs/block-compression'
import { readDds } from '#core/codecs/dds'
import { readPnm } from '#core/codecs/pnm'
import type { FileType } from '#core/codecs/sniff'
import { FileError } from '#core/findings/failure'
import type { ByteImage, Image, PixelData } from '#core/image/image'
import { decodeEnvironment } from '../decode-environment'
import { readKtx2 } from './basis'

/** Kinds of pictures that the picture library of this program does not read; each by the reader that knows it. */
const READERS = {
  tga: readTga,
  bmp: readBmp,
  psd: readPsd,
  dds: readDds,
  ktx2: readKtx2,
  pnm: readPnm,
  jxl: readJxl,
  exr: bytes => decodeEnvironment(bytes, 'exr'),
} as const satisfies Partial<Record<FileType, (bytes: Uint8Array) => Image | Promise<Image>>>

export type OtherPictureType = keyof typeof READERS

export const isOtherPicture = (type: FileType): type is OtherPictureType => type in READERS

/**
 * Decodes such a picture: 8 or 16 bits a channel over their full range, or floats as they are. Channels that say nothing are left out.
 * @throws FileError
 */
export async function readOtherPicture(type: OtherPictureType, bytes: Uint8Array): Promise<Image> {
  try {
    const image = await READERS[type](bytes)
    return image.data instanceof Float32Array ? withoutAlpha(image) : image
  } catch (error) {
    if (error instanceof FileError) throw error
    throw new FileError('malformed', 'The picture does not decode; the file is damaged.')
  }
}

const cutOff = () =>
  new FileError('truncated', 'The picture breaks off before its last row; it was probably cut off when it was copied.')

/** three's loader takes missing bytes for black, so they are counted before. */
function readTga(bytes: Uint8Array): ByteImage {
  const [idLength, mapType, type] = bytes
  const depth = bytes[16]
  const size = depth >> 3
  const pixels = (bytes[12] | (bytes[13] << 8)) * (bytes[14] | (bytes[15] << 8))
  const mapBytes = mapType === 1 ? (bytes[5] | (bytes[6] << 8)) * Math.ceil(bytes[7] / 8) : 0
  let at = 18 + idLength + mapBytes
  if (type < 8) at += pixels * size
  else
    for (let seen = 0; seen < pixels && at < bytes.length; ) {
      const count = (bytes[at] & 0x7f) + 1
      at += 1 + (bytes[at] & 0x80 ? 1 : count) * size
      seen += count
    }
  if (at > bytes.length) throw cutOff()
  const { data, width, height } = new TGALoader().parse(bytes.slice().buffer) as unknown as ByteImage
  const image: ByteImage = { width, height, channels: 4, data: new Uint8Array(data) }
  if (type === 3 || type === 11) return keepChannels(image, depth === 8 || isOpaque(image.data) ? 1 : 4)
  // Many programs leave an alpha of nothing but zeros behind.
  return keepChannels(image, depth === 24 || isOpaque(image.data) || isEmpty(image.data) ? 3 : 4)
}

function isEmpty(rgba: Uint8Array): boolean {
  for (let i = 3; i < rgba.length; i += 4) if (rgba[i] !== 0) return false
  return true
}

/** The library gives alpha, blue, green, red. */
function readBmp(bytes: Uint8Array): ByteImage {
  const { data, width, height } = decodeBmp(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength), { toRGBA: true })
  if (data.length < width * height * 4) throw cutOff()
  const rgba = new Uint8Array(data.buffer, data.byteOffset, width * height * 4)
  return keepChannels({ width, height, channels: 4, data: rgba }, isOpaque(rgba) || isEmpty(rgba) ? 3 : 4)
}

/** The picture of all layers together, as it was saved beside them. */
async function readPsd(bytes: Uint8Array): Promise<Image> {
  const psd = await openPsd(bytes, { withLayers: false })
  if (!psd.imageData)
    throw new FileError('unsupported', 'This PSD was saved without its flattened picture; save it with maximum compatibility.')
  const { width, height } = psd.imageData
  const data = psd.imageData.data as unknown as PixelData | Uint8ClampedArray
  const channels = data.length / (width * height)
  if (!(data instanceof Uint8ClampedArray)) return withoutAlpha({ width, height, channels, data })
  const rgba = new Uint8Array(data.buffer, data.byteOffset, data.length)
  return keepChannels({ width, height, channels, data: rgba }, channels === 4 && isOpaque(rgba) ? 3 : channels)
}

/** @param withLayers whether the pixels of each layer are read, or only what it is called */
export async function openPsd(bytes: Uint8Array, { withLayers }: { withLayers: boolean }) {
  const { initializeCanvas, readPsd: read } = await import('ag-psd')
  const noCanvas = () => {
    throw new FileError('unsupported', 'This PSD holds something that only a drawing program reads; save it as a TIFF.')
  }
  initializeCanvas(noCanvas, (width, height) => ({ width, height, data: new Uint8ClampedArray(width * height * 4) }) as never)
  return read(bytes, { skipLayerImageData: !withLayers, skipThumbnail: true, skipLinkedFilesData: true, useImageData: true })
}

async function readJxl(bytes: Uint8Array): Promise<ByteImage> {
  const { default: decode, init } = await import('@jsquash/jxl/decode.js')
  const wasm = createRequire(import.meta.url).resolve('@jsquash/jxl/codec/dec/jxl_dec.wasm')
  jxl ??= readFile(wasm).then(async code => init(await WebAssembly.compile(new Uint8Array(code) as never)))
  await jxl
  const { data, width, height } = await decode(bytes.slice().buffer)
  const rgba = new Uint8Array(data.buffer, data.byteOffset, width * height * 4)
  return keepChannels({ width, height, channels: 4, data: rgba }, isOpaque(rgba) ? 3 : 4)
}
let jxl: Promise<unknown> | null = null

/** Deep pictures come with an alpha of nothing but ones more often than with one that means something. */
function withoutAlpha(image: Image): Image {
  const { width, height, channels, data } = image
  if (channels !== 4) return image
  const rgb = data instanceof Float32Array ? new Float32Array(width * height * 3) : new Uint16Array(width * height * 3)
  for (let i = 0; i < width * height; i++) for (let c = 0; c < 3; c++) rgb[i * 3 + c] = data[i * 4 + c]
  return { width, height, channels: 3, data: rgb }
}
