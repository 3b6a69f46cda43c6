import { unzlibSync, zlibSync } from 'fflate'
import { FileError } from '../findings/failure'
import { createFloatImage, type FloatImage } from '../image/image'
import { ByteReader } from './byte-reader'
import { floatToHalf, halfToFloat } from './half'

/**
 * OpenEXR scanline files ("Technical Introduction to OpenEXR" and "OpenEXR File Layout", openexr.com),
 * uncompressed, RLE, ZIPS and ZIP. The wavelet and DCT compressions raise `unsupported`.
 */

const MAX_PIXELS = 16384 * 8192
const COMPRESSION_NAMES = ['none', 'RLE', 'ZIPS', 'ZIP', 'PIZ', 'PXR24', 'B44', 'B44A', 'DWAA', 'DWAB']
const ROWS_PER_BLOCK = [1, 1, 1, 16]
const TYPE_BYTES = [4, 2, 4]

interface Channel {
  name: string
  /** 0 uint, 1 half, 2 float. */
  type: number
}

interface Header {
  width: number
  height: number
  top: number
  compression: number
  channels: Channel[]
}

/** Linear RGB, rows from the top. A file with one luminance channel becomes grey RGB. */
export function parseExr(bytes: Uint8Array): FloatImage {
  const reader = new ByteReader(bytes)
  const header = readHeader(reader)
  const { width, height, channels, compression } = header
  const wanted = ['R', 'G', 'B'].map(name => channels.findIndex(c => c.name === name))
  const grey = channels.findIndex(c => c.name === 'Y')
  const sources = wanted.every(i => i >= 0) ? wanted : grey >= 0 ? [grey, grey, grey] : null
  if (!sources) throw new FileError('unsupported', `No RGB or Y channels, only ${channels.map(c => c.name).join(', ')}.`)
  const rowBytes = channels.reduce((sum, c) => sum + TYPE_BYTES[c.type] * width, 0)
  const channelStart: number[] = []
  channels.reduce((sum, c) => {
    channelStart.push(sum)
    return sum + TYPE_BYTES[c.type] * width
  }, 0)
  const rowsPerBlock = ROWS_PER_BLOCK[compression]
  const blockCount = Math.ceil(height / rowsPerBlock)
  if (reader.left < blockCount * 8) throw new FileError('truncated', 'The file ends inside its table of rows.')
  const offsets = Array.from({ length: blockCount }, () => reader.u64())
  const image = createFloatImage(width, height, 3)
  for (const offset of offsets) {
    reader.seek(offset)
    const firstRow = reader.i32() - header.top
    if (firstRow < 0 || firstRow >= height) throw new FileError('malformed', 'A block of rows lies outside the picture.')
    const rows = Math.min(rowsPerBlock, height - firstRow)
    const packed = reader.take(reader.u32())
    const raw = unpack(packed, rowBytes * rows, compression)
    const view = new DataView(raw.buffer, raw.byteOffset, raw.byteLength)
    for (let r = 0; r < rows; r++) {
      const out = (firstRow + r) * width * 3
      for (let c = 0; c < 3; c++) {
        const source = sources[c]
        let at = r * rowBytes + channelStart[source]
        const { type } = channels[source]
        for (let x = 0; x < width; x++) {
          image.data[out + x * 3 + c] =
            type === 1 ? halfToFloat(view.getUint16(at, true)) : type === 2 ? view.getFloat32(at, true) : view.getUint32(at, true)
          at += TYPE_BYTES[type]
        }
      }
    }
  }
  return image
}

function readHeader(reader: ByteReader): Header {
  if (reader.u32() !== 20000630) throw new FileError('malformed', 'The OpenEXR signature is missing.')
  const version = reader.u32()
  if (version & 0x1a00) throw new FileError('unsupported', 'Tiled, deep and multi-part EXR files are not supported.')
  let channels: Channel[] = []
  let compression = -1
  let box: number[] = []
  for (;;) {
    const name = reader.textUntil(0, 255)
    if (name === '') break
    reader.textUntil(0, 255)
    const value = new ByteReader(reader.take(reader.u32()))
    if (name === 'channels') channels = readChannels(value)
    else if (name === 'compression') compression = value.u8()
    else if (name === 'dataWindow') box = [value.i32(), value.i32(), value.i32(), value.i32()]
  }
  if (box.length !== 4 || channels.length === 0 || compression < 0)
    throw new FileError('malformed', 'The header lacks its channels, compression or data window.')
  if (!(compression in ROWS_PER_BLOCK))
    throw new FileError('unsupported', `${COMPRESSION_NAMES[compression] ?? 'Unknown'} compression is not read here.`)
  const width = box[2] - box[0] + 1
  const height = box[3] - box[1] + 1
  if (width < 1 || height < 1) throw new FileError('malformed', `The size ${width} x ${height} is not possible.`)
  if (width * height > MAX_PIXELS)
    throw new FileError('tooLarge', `${width} x ${height} pixels are more than the limit of ${MAX_PIXELS}.`)
  return { width, height, top: box[1], compression, channels }
}

function readChannels(reader: ByteReader): Channel[] {
  const channels: Channel[] = []
  for (;;) {
    const name = reader.textUntil(0, 255)
    if (name === '') return channels
    const type = reader.i32()
    reader.take(4)
    if (reader.i32() !== 1 || reader.i32() !== 1)
      throw new FileError('unsupported', `Channel ${name} is stored at a lower resolution than the picture.`)
    if (!(type in TYPE_BYTES)) throw new FileError('malformed', `Channel ${name} has an unknown type.`)
    channels.push({ name, type })
  }
}

function unpack(packed: Uint8Array, size: number, compression: number): Uint8Array {
  // A block that would not shrink is stored as it is.
  if (compression === 0 || packed.length >= size) {
    if (packed.length < size) throw new FileError('truncated', 'A block of rows is shorter than it should be.')
    return packed
  }
  let mixed: Uint8Array
  try {
    mixed = compression === 1 ? unpackRuns(packed, size) : unzlibSync(packed, { out: new Uint8Array(size) })
  } catch (error) {
    throw error instanceof FileError ? error : new FileError('malformed', 'A block of rows does not decompress.')
  }
  if (mixed.length !== size) throw new FileError('malformed', 'A block of rows has the wrong size.')
  // Undo the predictor in place, then interleave the two halves.
  for (let i = 1; i < size; i++) mixed[i] = (mixed[i - 1] + mixed[i] - 128) & 255
  const out = new Uint8Array(size)
  const half = (size + 1) >> 1
  for (let i = 0; i < size; i++) out[i] = mixed[(i >> 1) + (i & 1 ? half : 0)]
  return out
}

function unpackRuns(packed: Uint8Array, size: number): Uint8Array {
  const reader = new ByteReader(packed)
  const out = new Uint8Array(size)
  let at = 0
  while (reader.left > 0) {
    const count = (reader.u8() << 24) >> 24
    const run = count < 0 ? -count : count + 1
    if (at + run > size) throw new FileError('malformed', 'A run of bytes leaves its block.')
    if (count < 0) out.set(reader.take(run), at)
    else out.fill(reader.u8(), at, at + run)
    at += run
  }
  return out.subarray(0, at)
}

/**
 * Half-float RGB, ZIP compressed, linear with the primaries of Rec. 709, and said so in the standard attributes. Values past 65504
 * are held at it, so that no infinity is written.
 */
export function writeExr(image: FloatImage, comment = 'Written by Muscovite, linear Rec.709'): Uint8Array {
  const { width, height, channels, data } = image
  const rowBytes = width * 6
  const blocks: Uint8Array[] = []
  for (let top = 0; top < height; top += 16) {
    const rows = Math.min(16, height - top)
    const raw = new Uint8Array(rowBytes * rows)
    const view = new DataView(raw.buffer)
    let at = 0
    for (let y = top; y < top + rows; y++)
      for (const c of [2, 1, 0])
        for (let x = 0; x < width; x++, at += 2)
          view.setUint16(at, floatToHalf(Math.min(data[(y * width + x) * channels + c], 65504)), true)
    const mixed = new Uint8Array(raw.length)
    const half = (raw.length + 1) >> 1
    for (let i = 0; i < raw.length; i++) mixed[(i >> 1) + (i & 1 ? half : 0)] = raw[i]
    for (let i = mixed.length - 1; i > 0; i--) mixed[i] = (mixed[i] - mixed[i - 1] + 128) & 255
    const packed = zlibSync(mixed, { level: 6 })
    blocks.push(packed.length < raw.length ? packed : raw)
  }
  const header = exrHeader(width, height, comment)
  const total = header.length + blocks.length * 8 + blocks.reduce((sum, b) => sum + 8 + b.length, 0)
  const out = new Uint8Array(total)
  const view = new DataView(out.buffer)
  out.set(header)
  let table = header.length
  let at = header.length + blocks.length * 8
  blocks.forEach((block, i) => {
    view.setBigUint64(table, BigInt(at), true)
    table += 8
    view.setInt32(at, i * 16, true)
    view.setUint32(at + 4, block.length, true)
    out.set(block, at + 8)
    at += 8 + block.length
  })
  return out
}

/** CIE xy of red, green, blue and white (D65) of Rec. 709. */
const REC_709 = [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329]

function exrHeader(width: number, height: number, comment: string): Uint8Array {
  const bytes: number[] = []
  const u32 = (v: number) => bytes.push(v & 255, (v >> 8) & 255, (v >> 16) & 255, (v >> 24) & 255)
  const f32 = (v: number) => bytes.push(...new Uint8Array(new Float32Array([v]).buffer))
  const text = (s: string) => bytes.push(...Array.from(s, ch => ch.charCodeAt(0)), 0)
  const attribute = (name: string, type: string, size: number) => {
    text(name)
    text(type)
    u32(size)
  }
  u32(20000630)
  u32(2)
  attribute('channels', 'chlist', 3 * 18 + 1)
  for (const name of ['B', 'G', 'R']) {
    text(name)
    u32(1)
    u32(0)
    u32(1)
    u32(1)
  }
  bytes.push(0)
  attribute('chromaticities', 'chromaticities', 32)
  REC_709.forEach(f32)
  const said = Array.from(comment, ch => ch.charCodeAt(0) & 127)
  attribute('comments', 'string', said.length)
  bytes.push(...said)
  attribute('compression', 'compression', 1)
  bytes.push(3)
  for (const name of ['dataWindow', 'displayWindow']) {
    attribute(name, 'box2i', 16)
    u32(0)
    u32(0)
    u32(width - 1)
    u32(height - 1)
  }
  attribute('lineOrder', 'lineOrder', 1)
  bytes.push(0)
  attribute('pixelAspectRatio', 'float', 4)
  f32(1)
  attribute('screenWindowCenter', 'v2f', 8)
  f32(0)
  f32(0)
  attribute('screenWindowWidth', 'float', 4)
  f32(1)
  bytes.push(0)
  return Uint8Array.from(bytes)
}
