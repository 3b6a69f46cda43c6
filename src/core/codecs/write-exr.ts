import { zlibSync } from 'fflate'
import type { FloatImage } from '../image/image'
import { floatToHalf } from './half'

/** Writing of OpenEXR scanline files, ZIP compressed ("OpenEXR File Layout", openexr.com). */

export type Deflate = (raw: Uint8Array) => Uint8Array

const deflateHere: Deflate = raw => zlibSync(raw, { level: 6 })

/** Channels of an OpenEXR file in the order of the image, and whether they are kept as 32-bit floats. */
export interface ExrForm {
  names: readonly string[]
  isFloat: boolean
}

const HALF_RGB: ExrForm = { names: ['R', 'G', 'B'], isFloat: false }

/** Every channel of an image, as floats: luminance or colours, and alpha. */
export const wholeForm = ({ channels }: FloatImage): ExrForm => ({
  names: [['Y'], ['Y', 'A'], ['R', 'G', 'B'], ['R', 'G', 'B', 'A']][channels - 1],
  isFloat: true,
})

/** A channel of a part: the value of each pixel, in rows from the top. */
export interface ExrChannel {
  /** Of a layer its name, a dot, and the channel of it. At most 255 characters. */
  name: string
  isFloat: boolean
  at: (pixel: number) => number
}

export interface ExrPart {
  name: string
  channels: readonly ExrChannel[]
}

/**
 * Half-float RGB unless another form is asked for, linear with the primaries of Rec. 709, and said so in the standard attributes. Values past
 * 65504 are held at it, so that no infinity is written.
 * @param deflate a faster zlib than the one that comes along, where there is one
 */
export function writeExr(
  image: FloatImage,
  comment = 'Written by Muscovite, linear Rec.709',
  deflate: Deflate = deflateHere,
  { names, isFloat }: ExrForm = HALF_RGB,
): Uint8Array {
  const { width, height } = image
  return writeParts([{ name: '', channels: channelsOf(image, names, isFloat) }], width, height, comment, deflate, false)
}

/** The channels of an image under such names. */
export const channelsOf = ({ channels, data }: FloatImage, names: readonly string[], isFloat: boolean): ExrChannel[] =>
  names.map((name, c) => ({ name, isFloat, at: pixel => data[pixel * channels + c] }))

/**
 * Several pictures of one size in a file of several parts, each with a name of its own.
 * @throws RangeError for no part, a part without channels, or two of one name
 */
export function writeExrParts(
  parts: readonly ExrPart[],
  width: number,
  height: number,
  comment: string,
  deflate: Deflate = deflateHere,
): Uint8Array {
  if (parts.length === 0 || parts.some(p => p.channels.length === 0)) throw new RangeError('every part needs a channel')
  if (new Set(parts.map(p => p.name)).size < parts.length) throw new RangeError('every part needs a name of its own')
  return writeParts(parts, width, height, comment, deflate, true)
}

const ROWS = 16
const LONG_NAMES = 0x400
const MULTI_PART = 0x1000
/** Longer ones have to be announced. */
const SHORT_NAME = 31

function writeParts(
  parts: readonly ExrPart[],
  width: number,
  height: number,
  comment: string,
  deflate: Deflate,
  isMulti: boolean,
): Uint8Array {
  const inOrder = parts.map(p => ({ ...p, channels: [...p.channels].sort((a, b) => (a.name < b.name ? -1 : 1)) }))
  const packed = inOrder.map(({ channels }) => packBlocks(channels, width, height, deflate))
  const header = new HeaderWriter()
  const hasLongNames = inOrder.some(p => p.channels.some(c => c.name.length > SHORT_NAME))
  header.u32(20000630)
  header.u32(2 | (isMulti ? MULTI_PART : 0) | (hasLongNames ? LONG_NAMES : 0))
  inOrder.forEach((part, k) => {
    header.part(part, width, height, comment, isMulti ? packed[k].length : null)
  })
  if (isMulti) header.u8(0)
  // In a file of several parts each block says whose it is.
  const blockHead = isMulti ? 12 : 8
  const blocks = packed.flatMap((own, part) => own.map((bytes, k) => ({ part, top: k * ROWS, bytes })))
  const head = header.bytes()
  const out = new Uint8Array(head.length + blocks.reduce((sum, b) => sum + 8 + blockHead + b.bytes.length, 0))
  const view = new DataView(out.buffer)
  out.set(head)
  let table = head.length
  let at = head.length + blocks.length * 8
  for (const { part, top, bytes } of blocks) {
    view.setBigUint64(table, BigInt(at), true)
    table += 8
    if (isMulti) view.setInt32(at, part, true)
    view.setInt32(at + blockHead - 8, top, true)
    view.setUint32(at + blockHead - 4, bytes.length, true)
    out.set(bytes, at + blockHead)
    at += blockHead + bytes.length
  }
  return out
}

function packBlocks(channels: readonly ExrChannel[], width: number, height: number, deflate: Deflate): Uint8Array[] {
  const rowBytes = width * channels.reduce((sum, c) => sum + (c.isFloat ? 4 : 2), 0)
  const blocks: Uint8Array[] = []
  for (let top = 0; top < height; top += ROWS) {
    const rows = Math.min(ROWS, height - top)
    const raw = new Uint8Array(rowBytes * rows)
    const view = new DataView(raw.buffer)
    let to = 0
    for (let y = top; y < top + rows; y++)
      for (const { isFloat, at } of channels)
        for (let x = 0; x < width; x++) {
          const value = at(y * width + x)
          if (isFloat) view.setFloat32(to, value, true)
          else view.setUint16(to, floatToHalf(Math.min(value, 65504)), true)
          to += isFloat ? 4 : 2
        }
    const mixed = new Uint8Array(raw.length)
    const half = (raw.length + 1) >> 1
    for (let i = 0; i < raw.length; i++) mixed[(i >> 1) + (i & 1 ? half : 0)] = raw[i]
    for (let i = mixed.length - 1; i > 0; i--) mixed[i] = (mixed[i] - mixed[i - 1] + 128) & 255
    const packed = deflate(mixed)
    blocks.push(packed.length < raw.length ? packed : raw)
  }
  return blocks
}

/** CIE xy of red, green, blue and white (D65) of Rec. 709. */
const REC_709 = [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329]
const ZIP = 3

class HeaderWriter {
  private readonly all: number[] = []

  bytes(): Uint8Array {
    return Uint8Array.from(this.all)
  }
  u8(v: number): void {
    this.all.push(v)
  }
  u32(v: number): void {
    this.all.push(v & 255, (v >> 8) & 255, (v >> 16) & 255, (v >> 24) & 255)
  }

  /** @param blockCount of a file of several parts, which say more of themselves */
  part({ name, channels }: ExrPart, width: number, height: number, comment: string, blockCount: number | null): void {
    this.attribute(
      'channels',
      'chlist',
      channels.reduce((sum, c) => sum + c.name.length + 17, 1),
    )
    for (const channel of channels) {
      this.text(channel.name)
      this.u32(channel.isFloat ? 2 : 1)
      this.u32(0)
      this.u32(1)
      this.u32(1)
    }
    this.u8(0)
    this.attribute('chromaticities', 'chromaticities', 32)
    REC_709.forEach(v => {
      this.f32(v)
    })
    this.string('comments', comment)
    this.attribute('compression', 'compression', 1)
    this.u8(ZIP)
    for (const window of ['dataWindow', 'displayWindow']) {
      this.attribute(window, 'box2i', 16)
      this.u32(0)
      this.u32(0)
      this.u32(width - 1)
      this.u32(height - 1)
    }
    this.attribute('lineOrder', 'lineOrder', 1)
    this.u8(0)
    this.attribute('pixelAspectRatio', 'float', 4)
    this.f32(1)
    this.attribute('screenWindowCenter', 'v2f', 8)
    this.f32(0)
    this.f32(0)
    this.attribute('screenWindowWidth', 'float', 4)
    this.f32(1)
    if (blockCount !== null) {
      this.attribute('chunkCount', 'int', 4)
      this.u32(blockCount)
      this.string('name', name)
      this.string('type', 'scanlineimage')
    }
    this.u8(0)
  }

  private f32(v: number): void {
    this.all.push(...new Uint8Array(new Float32Array([v]).buffer))
  }
  private text(s: string): void {
    this.all.push(...plain(s), 0)
  }
  private string(name: string, value: string): void {
    this.attribute(name, 'string', value.length)
    this.all.push(...plain(value))
  }
  private attribute(name: string, type: string, size: number): void {
    this.text(name)
    this.text(type)
    this.u32(size)
  }
}

const plain = (text: string): number[] => Array.from({ length: text.length }, (_, i) => text.charCodeAt(i) & 127)
