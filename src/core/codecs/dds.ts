import { FileError } from '../findings/failure'
import type { ByteImage } from '../image/image'
import { type BlockFormat, decodeBlocks } from './block-compression'

const MAX_SIDE = 16384
const FOUR_CC: Record<string, BlockFormat> = {
  DXT1: 'bc1',
  DXT2: 'bc2',
  DXT3: 'bc2',
  DXT4: 'bc3',
  DXT5: 'bc3',
  ATI1: 'bc4',
  BC4U: 'bc4',
  ATI2: 'bc5',
  BC5U: 'bc5',
}
/** Numbers of DXGI formats. */
const DXGI: Record<number, BlockFormat> = {
  70: 'bc1',
  71: 'bc1',
  72: 'bc1',
  73: 'bc2',
  74: 'bc2',
  75: 'bc2',
  76: 'bc3',
  77: 'bc3',
  78: 'bc3',
  79: 'bc4',
  80: 'bc4',
  82: 'bc5',
  83: 'bc5',
  97: 'bc7',
  98: 'bc7',
  99: 'bc7',
}
/** 8 bits for red, green, blue and alpha, and the same with blue first, with and without alpha. */
const DXGI_RGBA = [27, 28, 29]
const DXGI_BGRA = [87, 88, 90, 91, 93]

/**
 * The largest level of a DirectDraw surface, the first of several where it holds an array or a cube: block compressions 1 to 5 and 7, and
 * uncompressed ones by their masks, 8 bits a channel.
 * Source: Microsoft, "DDS_HEADER structure", "DDS_HEADER_DXT10 structure".
 * @throws FileError `unsupported` for another form, which it names
 */
export function readDds(bytes: Uint8Array): ByteImage {
  if (bytes.length < 128) throw new FileError('truncated', 'The picture ends inside its DDS header.')
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const [height, width] = [view.getUint32(12, true), view.getUint32(16, true)]
  if (width < 1 || height < 1) throw new FileError('malformed', 'The picture states no size.')
  if (width > MAX_SIDE || height > MAX_SIDE) throw new FileError('tooLarge', 'The picture is larger than 16384 x 16384 pixels.')
  const flags = view.getUint32(80, true)
  const fourCc = String.fromCharCode(...bytes.subarray(84, 88))
  const hasFourCc = (flags & 4) !== 0
  if (hasFourCc && fourCc === 'DX10') {
    if (bytes.length < 148) throw new FileError('truncated', 'The picture ends inside its DDS header.')
    const format = view.getUint32(128, true)
    const data = bytes.subarray(148)
    if (DXGI[format]) return decodeBlocks(DXGI[format], data, width, height)
    if (DXGI_RGBA.includes(format)) return readMasked(data, width, height, 4, [0xff, 0xff00, 0xff0000, 0xff000000])
    if (DXGI_BGRA.includes(format))
      return readMasked(data, width, height, 4, [0xff0000, 0xff00, 0xff, format === 88 ? 0 : 0xff000000])
    throw unsupported(`DXGI format ${format}`)
  }
  const data = bytes.subarray(128)
  if (hasFourCc) {
    if (!FOUR_CC[fourCc]) throw unsupported(fourCc.replace(/[^\x20-\x7e]/g, '?'))
    return decodeBlocks(FOUR_CC[fourCc], data, width, height)
  }
  const bits = view.getUint32(88, true)
  if (![8, 16, 24, 32].includes(bits)) throw unsupported(`${bits} bits a pixel`)
  const masks = [92, 96, 100].map(at => view.getUint32(at, true))
  const alpha = flags & 1 ? view.getUint32(104, true) : 0
  return readMasked(data, width, height, bits / 8, [...masks, alpha])
}

const unsupported = (form: string) =>
  new FileError('unsupported', `This form of DDS is not read (${form}); save the picture as PNG or TGA.`)

/** Pixels of 1 to 4 bytes whose channels lie under masks; a channel without one is left out. */
function readMasked(data: Uint8Array, width: number, height: number, size: number, masks: readonly number[]): ByteImage {
  if (data.length < width * height * size)
    throw new FileError('truncated', 'The picture breaks off before its last row; it was probably cut off when it was copied.')
  const used = masks.filter((mask, c) => mask !== 0 || (c < 3 && masks.slice(c, 3).some(m => m !== 0)))
  const channels = used.length === 0 ? 1 : used.length
  const shifts = used.map(mask => (mask === 0 ? 0 : Math.clz32(mask & -mask) ^ 31))
  const tops = used.map((mask, c) => mask >>> shifts[c] || 1)
  const out = new Uint8Array(width * height * channels)
  for (let i = 0; i < width * height; i++) {
    let pixel = 0
    for (let b = 0; b < size; b++) pixel = (pixel | (data[i * size + b] << (8 * b))) >>> 0
    if (used.length === 0) out[i] = pixel
    for (let c = 0; c < used.length; c++) out[i * channels + c] = Math.round((((pixel & used[c]) >>> shifts[c]) * 255) / tops[c])
  }
  return { width, height, channels, data: out }
}
