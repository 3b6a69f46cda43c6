import { readFile } from 'node:fs/promises'
import sharp from 'sharp'
import { readProfileName } from '#core/codecs/icc'
import { sniffType } from '#core/codecs/sniff'
import { FileError } from '#core/findings/failure'
import type { ByteImage, Image } from '#core/image/image'
import { isOtherPicture, readOtherPicture } from './pictures/other-pictures'
import { readHead } from './source-file'

/** Past this a picture is refused before it is decoded: 16K square. */
export const MAX_SIDE = 16384
export const MAX_PIXELS = MAX_SIDE * MAX_SIDE

export interface ImageHeader {
  widthPx: number
  heightPx: number
  channels: number
  bitsPerChannel: number
  /** Name of the colour profile, where there is one. */
  profile: string | null
}

const BITS: Record<string, number> = { uchar: 8, char: 8, ushort: 16, short: 16, uint: 32, int: 32, float: 32, double: 64 }

const openImage = (input: string | Uint8Array) => sharp(input, { limitInputPixels: MAX_PIXELS, failOn: 'warning' })

/** The decoded picture where it is of a kind that is read by a reader of its own; null for what the picture library reads. */
async function decodeOther(input: string | Uint8Array): Promise<Image | null> {
  const type = sniffType(typeof input === 'string' ? await readHead(input) : input.subarray(0, 64))
  if (type === 'tiff') return decodeFloatTiff(input)
  if (!isOtherPicture(type)) return null
  const image = await readOtherPicture(type, typeof input === 'string' ? new Uint8Array(await readFile(input)) : input)
  if (Math.max(image.width, image.height) > MAX_SIDE)
    throw new FileError('tooLarge', 'The picture is larger than 16384 x 16384 pixels.')
  return image
}

/** A TIFF of 32 bits a channel as floats; null for one of codes. */
async function decodeFloatTiff(input: string | Uint8Array): Promise<Image | null> {
  const { depth, channels } = await openImage(input).metadata()
  if (depth !== 'float' && depth !== 'double' && depth !== 'uint' && depth !== 'int') return null
  const picture = channels === 1 ? openImage(input).extractChannel(0) : openImage(input)
  const { data, info } = await picture.raw({ depth: 'float' }).toBuffer({ resolveWithObject: true })
  const values = new Float32Array(data.buffer.slice(data.byteOffset, data.byteOffset + data.byteLength))
  const top = depth === 'uint' ? 2 ** 32 - 1 : depth === 'int' ? 2 ** 31 - 1 : 1
  return { width: info.width, height: info.height, channels: info.channels, data: top === 1 ? values : values.map(v => v / top) }
}

/** Decodes with all that the file holds: 8 or 16 bits a channel, or floats. */
export async function decodeAsIs(input: string | Uint8Array): Promise<Image> {
  try {
    return (await decodeOther(input)) ?? (await decodeFullDepth(input, MAX_SIDE))
  } catch (error) {
    throw asFileError(error)
  }
}

const bitsOf = ({ data }: Image): number => (data instanceof Float32Array ? 32 : data.BYTES_PER_ELEMENT * 8)

/** Pixels of 8 or 16 bits as the picture library takes them; floats between 0 and 1 become 16 bits. */
function openPixels({ width, height, channels, data }: Image) {
  const codes = data instanceof Float32Array ? Uint16Array.from(data, v => Math.min(1, Math.max(0, v || 0)) * 65535 + 0.5) : data
  return sharp(codes, { raw: { width, height, channels: channels as 1 | 2 | 3 | 4 } })
}

export async function readImageHeader(input: string | Uint8Array): Promise<ImageHeader> {
  try {
    const other = await decodeOther(input)
    if (other)
      return {
        widthPx: other.width,
        heightPx: other.height,
        channels: other.channels,
        bitsPerChannel: bitsOf(other),
        profile: null,
      }
    const m = await openImage(input).metadata()
    if (!m.width || !m.height) throw new FileError('malformed', 'The picture states no size.')
    return {
      widthPx: m.width,
      heightPx: m.height,
      channels: m.channels ?? 3,
      bitsPerChannel: BITS[m.depth ?? 'uchar'] ?? 8,
      profile: m.icc ? readProfileName(m.icc) : null,
    }
  } catch (error) {
    throw asFileError(error)
  }
}

/** Decodes to 8 bits a channel, at most `maxSize` on the longer side. A header that is known already is not read again. */
export async function decodeByteImage(
  input: string | Uint8Array,
  maxSize: number,
  header?: Pick<ImageHeader, 'widthPx' | 'heightPx'>,
): Promise<ByteImage> {
  try {
    const other = await decodeOther(input)
    let pipeline = other ? openPixels(other) : openImage(input)
    const { widthPx, heightPx } =
      header ?? (other ? { widthPx: other.width, heightPx: other.height } : null) ?? (await readImageHeader(input))
    if (Math.max(widthPx, heightPx) > maxSize) pipeline = pipeline.resize(maxSize, maxSize, { fit: 'inside', kernel: 'linear' })
    const { data, info } = await pipeline.raw({ depth: 'uchar' }).toBuffer({ resolveWithObject: true })
    const bytes = new Uint8Array(data.buffer as ArrayBuffer, data.byteOffset, data.byteLength)
    return { width: info.width, height: info.height, channels: info.channels, data: bytes }
  } catch (error) {
    throw asFileError(error)
  }
}

/**
 * Decodes at the file's own depth, 8 or 16 bits, for checks that count levels. Past `maxSize` texels are left out, not averaged: a mean of
 * normals is shorter than they are, and a mean of levels is a level of its own.
 */
export async function decodeFullDepth(input: string | Uint8Array, maxSize: number, known?: ImageHeader): Promise<Image> {
  const { widthPx, heightPx, channels, bitsPerChannel } = known ?? (await readImageHeader(input))
  const isDeep = bitsPerChannel >= 16
  try {
    const other = await decodeOther(input)
    let pipeline = other ? openPixels(other) : openImage(input)
    if (Math.max(widthPx, heightPx) > maxSize) pipeline = pipeline.resize(maxSize, maxSize, { fit: 'inside', kernel: 'nearest' })
    if (isDeep) pipeline = pipeline.toColourspace(channels < 3 ? 'grey16' : 'rgb16')
    // A grey of 8 bits would come in three channels.
    else if (channels < 3) pipeline = pipeline.toColourspace('b-w')
    const { data, info } = await pipeline.raw({ depth: isDeep ? 'ushort' : 'uchar' }).toBuffer({ resolveWithObject: true })
    const texels = isDeep
      ? new Uint16Array(data.buffer.slice(data.byteOffset, data.byteOffset + data.byteLength))
      : new Uint8Array(data.buffer as ArrayBuffer, data.byteOffset, data.byteLength)
    return { width: info.width, height: info.height, channels: info.channels, data: texels }
  } catch (error) {
    throw asFileError(error)
  }
}

export function asFileError(error: unknown): FileError {
  if (error instanceof FileError) return error
  const text = error instanceof Error ? error.message : ''
  if (/exceeds pixel limit/i.test(text)) return new FileError('tooLarge', 'The picture is larger than 16384 x 16384 pixels.')
  if (/premature|end of|truncat|incomplete|corrupt/i.test(text))
    return new FileError('truncated', 'The picture breaks off before its last row; it was probably cut off when it was copied.')
  return new FileError('malformed', 'The picture does not decode; the file is damaged.')
}
