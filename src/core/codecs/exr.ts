import { unzlibSync } from 'fflate'
import { FileError } from '../findings/failure'
import type { FloatImage } from '../image/image'
import { collectRows, type PictureRows } from '../image/picture-rows'
import { ByteReader } from './byte-reader'
import { type ByteSource, sourceOfBytes } from './byte-source'
import { HALF_TO_FLOAT } from './half'

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

interface Part {
  /** Of a file of several parts, and of a layer's channels without a prefix. */
  name: string
  width: number
  height: number
  top: number
  compression: number
  channels: Channel[]
  /** Where its table of rows begins. */
  tableAt: number
}

/** A picture in the file: channels of one part that belong together. */
export interface ExrLayer {
  /** What its channels have before their last dot, after the name of its part where there are several; empty for the plain ones. */
  name: string
  width: number
  height: number
  channelCount: 1 | 3
}

interface FoundLayer extends ExrLayer {
  part: number
  /** Channels taken for red, green and blue. */
  taken: [number, number, number]
}

/** Undoes zlib: `size` bytes are expected. Throws anything on damaged data. */
export type Inflate = (packed: Uint8Array, size: number) => Uint8Array

const inflateHere: Inflate = (packed, size) => unzlibSync(packed, { out: new Uint8Array(size) })

/**
 * Linear RGB, rows from the top. A file with one luminance channel becomes grey RGB.
 * Source: Academy Software Foundation, "OpenEXR File Layout".
 * @throws FileError as {@link openExr} does
 */
export const parseExr = (bytes: Uint8Array): FloatImage => collectRows(openExr(sourceOfBytes(bytes)))

/** A header is rarely longer than a kilobyte; with previews and long comments it may be. */
const MAX_HEADER = 1024 * 1024

/** The pictures that a file holds, in its order. @throws FileError as {@link openExr} does */
export const listExrLayers = (source: ByteSource): ExrLayer[] =>
  findLayers(readParts(source)).map(({ name, width, height, channelCount }) => ({ name, width, height, channelCount }))

/**
 * The rows of a scanline file, block by block: only one block is in memory at a time.
 * @param inflate a faster zlib than the one that comes along, where there is one
 * @param layer of several pictures the one of this name; the plain or only one without it
 * @throws FileError when the header or a block is damaged or cut short, the file is tiled, deep or packed in another way, or holds no such
 *   picture
 */
export function openExr(source: ByteSource, inflate: Inflate = inflateHere, layer: string | null = null): PictureRows {
  const parts = readParts(source)
  const layers = findLayers(parts)
  const found = layer === null ? plainest(layers) : layers.find(l => l.name === layer)
  if (!found) {
    const names = parts.flatMap(p => p.channels.map(c => c.name))
    throw new FileError('unsupported', `No one picture of RGB or Y channels, only ${names.slice(0, 12).join(', ')}.`)
  }
  const { part, taken } = found
  const { width, height, channels, compression, tableAt, top } = parts[part]
  const rowsPerBlock = ROWS_PER_BLOCK[compression]
  const blockCount = Math.ceil(height / rowsPerBlock)
  // In a file of several parts each block says whose it is.
  const blockHead = parts.length > 1 ? 12 : 8
  return { width, height, forEachRow }

  function forEachRow(visit: (row: Float32Array, y: number) => void): void {
    const rowBytes = channels.reduce((sum, c) => sum + TYPE_BYTES[c.type] * width, 0)
    const starts: number[] = []
    channels.reduce((sum, c) => {
      starts.push(sum)
      return sum + TYPE_BYTES[c.type] * width
    }, 0)
    const table = new ByteReader(source.read(tableAt, blockCount * 8).slice())
    const row = new Float32Array(width * 3)
    const allHalf = channels.every(c => c.type === 1)
    for (let block = 0; block < blockCount; block++) {
      const offset = table.u64()
      const first = block * rowsPerBlock
      const head = new ByteReader(source.read(offset, blockHead))
      if (blockHead > 8 && head.i32() !== part) throw new FileError('malformed', 'A block of rows belongs to another part.')
      if (head.i32() - top !== first) throw new FileError('malformed', 'A block of rows is not where the table says.')
      const packedSize = head.u32()
      const rows = Math.min(rowsPerBlock, height - first)
      const size = rowBytes * rows
      // What would not shrink is stored as it is, so a block is never larger than its rows.
      if (packedSize > size) throw new FileError('malformed', 'A block of rows has the wrong size.')
      const packed = source.read(offset + blockHead, packedSize)
      if (allHalf) {
        const words = unpackWords(packed, size, compression, inflate)
        for (let r = 0; r < rows; r++) {
          const [red, green, blue] = taken.map(c => (r * rowBytes + starts[c]) >> 1)
          for (let x = 0, at = 0; x < width; x++, at += 3) {
            row[at] = HALF_TO_FLOAT[words[red + x]]
            row[at + 1] = HALF_TO_FLOAT[words[green + x]]
            row[at + 2] = HALF_TO_FLOAT[words[blue + x]]
          }
          visit(row, first + r)
        }
        continue
      }
      const raw = unpackBytes(packed, size, compression, inflate)
      const view = new DataView(raw.buffer, raw.byteOffset, raw.byteLength)
      for (let r = 0; r < rows; r++) {
        for (let c = 0; c < 3; c++) {
          const { type } = channels[taken[c]]
          let at = r * rowBytes + starts[taken[c]]
          for (let x = 0; x < width; x++, at += TYPE_BYTES[type])
            row[x * 3 + c] =
              type === 1
                ? HALF_TO_FLOAT[view.getUint16(at, true)]
                : type === 2
                  ? view.getFloat32(at, true)
                  : view.getUint32(at, true)
        }
        visit(row, first + r)
      }
    }
  }
}

const MULTI_PART = 0x1000
const MOST_PARTS = 256

/** Headers of all parts, one after the other, and where the table of each begins: they stand one after the other as well. */
function readParts(source: ByteSource): Part[] {
  const reader = new ByteReader(source.read(0, Math.min(source.size, MAX_HEADER)).slice())
  if (reader.u32() !== 20000630) throw new FileError('malformed', 'The OpenEXR signature is missing.')
  const version = reader.u32()
  if (version & 0x0a00) throw new FileError('unsupported', 'Tiled and deep EXR files are not supported.')
  const isMulti = (version & MULTI_PART) !== 0
  const parts: Part[] = []
  do {
    const part = readHeader(reader)
    if (!part) break
    parts.push(part)
    if (parts.length > MOST_PARTS) throw new FileError('tooLarge', 'The file has more parts than are read.')
  } while (isMulti)
  if (parts.length === 0) throw new FileError('malformed', 'The file has no part.')
  let at = reader.position
  for (const part of parts) {
    part.tableAt = at
    at += Math.ceil(part.height / ROWS_PER_BLOCK[part.compression]) * 8
  }
  if (source.size < at) throw new FileError('truncated', 'The file ends inside its table of rows.')
  return parts
}

/** Null for the empty header that ends a list of parts. */
function readHeader(reader: ByteReader): Part | null {
  let channels: Channel[] = []
  let compression = -1
  let box: number[] = []
  let partName = ''
  for (let first = true; ; first = false) {
    const name = reader.textUntil(0, 255)
    if (name === '') {
      if (first) return null
      break
    }
    reader.textUntil(0, 255)
    const value = new ByteReader(reader.take(reader.u32()))
    if (name === 'channels') channels = readChannels(value)
    else if (name === 'compression') compression = value.u8()
    else if (name === 'dataWindow') box = [value.i32(), value.i32(), value.i32(), value.i32()]
    else if (name === 'name') partName = String.fromCharCode(...value.take(Math.min(value.left, 255)))
    else if (name === 'type' && !/^scanlineimage/.test(String.fromCharCode(...value.take(Math.min(value.left, 32)))))
      throw new FileError('unsupported', 'Tiled and deep EXR files are not supported.')
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
  return { name: partName, width, height, top: box[1], compression, channels, tableAt: 0 }
}

/** Ways in which three channels that belong together are called, and one. */
const TRIPLES = [
  ['r', 'g', 'b'],
  ['red', 'green', 'blue'],
  ['x', 'y', 'z'],
]
const SINGLES = ['y', 'v', 'l', 'r', 'x', 'z', 'a']

function findLayers(parts: readonly Part[]): FoundLayer[] {
  return parts.flatMap(({ name: partName, channels, width, height }, part) => {
    const groups = new Map<string, Map<string, number>>()
    channels.forEach(({ name }, i) => {
      const dot = name.lastIndexOf('.')
      const [layer, own] = [name.slice(0, Math.max(0, dot)), name.slice(dot + 1).toLowerCase()]
      groups.set(layer, (groups.get(layer) ?? new Map<string, number>()).set(own, i))
    })
    return [...groups].flatMap(([layer, own]): FoundLayer[] => {
      const name = [parts.length > 1 ? partName : '', layer].filter(Boolean).join('.')
      const triple = TRIPLES.map(names => names.map(n => own.get(n) ?? -1)).find(list => list.every(i => i >= 0))
      if (triple) return [{ name, width, height, channelCount: 3, part, taken: [triple[0], triple[1], triple[2]] }]
      const single =
        SINGLES.map(n => own.get(n)).find(i => i !== undefined) ?? (own.size === 1 ? [...own.values()][0] : undefined)
      return single === undefined ? [] : [{ name, width, height, channelCount: 1, part, taken: [single, single, single] }]
    })
  })
}

/** The picture that a file of several is looked at by: the plain one, one that says so, or the only one there is. */
function plainest(layers: readonly FoundLayer[]): FoundLayer | undefined {
  const names = ['', 'rgba', 'rgb', 'beauty', 'combined', 'color']
  return (
    names.map(name => layers.find(l => l.name.toLowerCase() === name)).find(l => l !== undefined) ??
    layers.find(l => /(^|\.)(rgba?|beauty|combined)$/i.test(l.name)) ??
    (layers.length === 1 ? layers[0] : undefined)
  )
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

/** Undoes RLE or zlib and the predictor; the two halves (all even bytes, all odd bytes) still stand one after the other. */
function unmix(packed: Uint8Array, size: number, compression: number, inflate: Inflate): Uint8Array {
  let mixed: Uint8Array
  try {
    mixed = compression === 1 ? unpackRuns(packed, size) : inflate(packed, size)
  } catch (error) {
    throw error instanceof FileError ? error : new FileError('malformed', 'A block of rows does not decompress.')
  }
  if (mixed.length !== size) throw new FileError('malformed', 'A block of rows has the wrong size.')
  let last = mixed[0]
  for (let i = 1; i < size; i++) {
    last = (last + mixed[i] - 128) & 255
    mixed[i] = last
  }
  return mixed
}

/** A block of 16-bit values, in the order of the file. */
function unpackWords(packed: Uint8Array, size: number, compression: number, inflate: Inflate): Uint16Array {
  const words = new Uint16Array(size >> 1)
  if (compression === 0 || packed.length >= size) {
    if (packed.length < size) throw new FileError('truncated', 'A block of rows is shorter than it should be.')
    for (let i = 0; i < words.length; i++) words[i] = packed[i * 2] | (packed[i * 2 + 1] << 8)
    return words
  }
  const mixed = unmix(packed, size, compression, inflate)
  const half = size >> 1
  for (let i = 0; i < half; i++) words[i] = mixed[i] | (mixed[half + i] << 8)
  return words
}

function unpackBytes(packed: Uint8Array, size: number, compression: number, inflate: Inflate): Uint8Array {
  if (compression === 0 || packed.length >= size) {
    if (packed.length < size) throw new FileError('truncated', 'A block of rows is shorter than it should be.')
    return packed
  }
  const mixed = unmix(packed, size, compression, inflate)
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
