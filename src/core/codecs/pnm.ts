import { FileError } from '../findings/failure'
import type { Image } from '../image/image'

const MAX_PIXELS = 16384 ** 2

/**
 * Portable bitmaps, greymaps, pixmaps (P1 to P6) and float maps (PF, Pf): 8 bits a channel up to a maximum of 255, 16 above it, float maps
 * as they are. Values are stretched to the full range of their type.
 * Source: netpbm, "pbm", "pgm", "ppm"; Paul Debevec, "PFM portable floatmap".
 * @throws FileError when it ends early or states no size
 */
export function readPnm(bytes: Uint8Array): Image {
  const header = readHeader(bytes)
  const { kind, width, height, max, at } = header
  const channels = kind === 'P3' || kind === 'P6' || kind === 'PF' ? 3 : 1
  const count = width * height * channels
  if (kind === 'PF' || kind === 'Pf') return readFloats(bytes, at, { width, height, channels, isLittle: max < 0 })
  if (kind === 'P1' || kind === 'P4') {
    const data = kind === 'P1' ? readWords(bytes, at, count, 1, /[01]/g) : readBits(bytes, at, width, height)
    return { width, height, channels, data: data.map(v => (v ? 0 : 255)) as Uint8Array<ArrayBuffer> }
  }
  const data = kind === 'P2' || kind === 'P3' ? readWords(bytes, at, count, max, /\d+/g) : readSamples(bytes, at, count, max)
  const full = data instanceof Uint8Array ? 255 : 65535
  return { width, height, channels, data: max === full ? data : data.map(v => Math.min(full, Math.round((v * full) / max))) }
}

interface Header {
  kind: string
  width: number
  height: number
  /** Largest value; the scale of a float map, negative where its bytes are little-endian first; 1 for bitmaps. */
  max: number
  /** Where the samples begin. */
  at: number
}

function readHeader(bytes: Uint8Array): Header {
  let at = 0
  const word = (): string => {
    let text = ''
    for (; at < bytes.length && text.length < 32; at++) {
      const char = String.fromCharCode(bytes[at])
      if (char === '#') while (at < bytes.length && bytes[at] !== 10) at++
      else if (!/\s/.test(char)) text += char
      else if (text !== '') break
    }
    return text
  }
  const kind = word()
  const [width, height] = [Number(word()), Number(word())]
  const max = kind === 'P1' || kind === 'P4' ? 1 : Number(word())
  if (!(Number.isInteger(width) && Number.isInteger(height) && width > 0 && height > 0 && Number.isFinite(max) && max !== 0))
    throw new FileError('malformed', 'The picture states no size.')
  if (width * height > MAX_PIXELS) throw new FileError('tooLarge', 'The picture is larger than 16384 x 16384 pixels.')
  if (/^P[2356]$/.test(kind) && !(max > 0 && max < 65536))
    throw new FileError('malformed', 'The picture states no range of values.')
  return { kind, width, height, max, at: at + 1 }
}

const cutOff = () =>
  new FileError('truncated', 'The picture breaks off before its last row; it was probably cut off when it was copied.')

const create = (count: number, max: number): Uint8Array<ArrayBuffer> | Uint16Array<ArrayBuffer> =>
  max < 256 ? new Uint8Array(count) : new Uint16Array(count)

function readSamples(bytes: Uint8Array, at: number, count: number, max: number) {
  const data = create(count, max)
  if (at + count * data.BYTES_PER_ELEMENT > bytes.length) throw cutOff()
  if (data instanceof Uint8Array) data.set(bytes.subarray(at, at + count))
  else for (let i = 0; i < count; i++) data[i] = (bytes[at + i * 2] << 8) | bytes[at + i * 2 + 1]
  return data
}

function toText(bytes: Uint8Array): string {
  let text = ''
  for (let at = 0; at < bytes.length; at += 8192) text += String.fromCharCode(...bytes.subarray(at, at + 8192))
  return text
}

function readWords(bytes: Uint8Array, at: number, count: number, max: number, word: RegExp) {
  const data = create(count, max)
  const text = toText(bytes.subarray(at)).replace(/#.*/g, '')
  let i = 0
  for (const [value] of text.matchAll(word)) {
    if (i === count) break
    data[i++] = Number(value)
  }
  if (i < count) throw cutOff()
  return data
}

function readBits(bytes: Uint8Array, at: number, width: number, height: number): Uint8Array<ArrayBuffer> {
  const stride = Math.ceil(width / 8)
  if (at + stride * height > bytes.length) throw cutOff()
  const data = new Uint8Array(width * height)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) data[y * width + x] = (bytes[at + y * stride + (x >> 3)] >> (7 - (x & 7))) & 1
  return data
}

/** Rows of a float map come from the bottom. */
function readFloats(
  bytes: Uint8Array,
  at: number,
  { width, height, channels, isLittle }: { width: number; height: number; channels: number; isLittle: boolean },
): Image<Float32Array> {
  const count = width * height * channels
  if (at + count * 4 > bytes.length) throw cutOff()
  const view = new DataView(bytes.buffer, bytes.byteOffset + at, count * 4)
  const data = new Float32Array(count)
  const row = width * channels
  for (let y = 0; y < height; y++)
    for (let x = 0; x < row; x++) data[(height - 1 - y) * row + x] = view.getFloat32((y * row + x) * 4, isLittle)
  return { width, height, channels, data }
}
