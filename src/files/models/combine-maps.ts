import sharp from 'sharp'
import { toPng } from '../writing/house-picture'

/** A picture of which one channel is meant. */
export interface PlaneSource {
  bytes: Uint8Array
  /** Which one, where the file says so: red, green, blue, alpha, or its brightness. */
  channel: 0 | 1 | 2 | 3 | 'grey' | null
  /** What it means: value x scale + bias, 0 to 1. */
  reading?: { scale: number; bias: number }
}

/** In which channel of a coloured picture a map is looked for that does not say: where glTF packs it, and programs that save such pictures. */
const USUAL_CHANNEL = { roughness: 1, metalness: 2, opacity: 3 } as const

/** Roughness in green and metalness in blue, as glTF has them, as a PNG of the first one's size; null where there is neither. @throws FileError */
export async function packSurface(roughness: PlaneSource | null, metalness: PlaneSource | null): Promise<Uint8Array | null> {
  const first = roughness ?? metalness
  if (!first) return null
  const { width = 1, height = 1 } = await sharp(await toPng(first.bytes)).metadata()
  const [green, blue] = [
    await planeOf(roughness, width, height, 'roughness'),
    await planeOf(metalness, width, height, 'metalness'),
  ]
  const packed = Buffer.alloc(width * height * 3, 255)
  for (let i = 0; i < width * height; i++) {
    packed[i * 3 + 1] = green[i]
    packed[i * 3 + 2] = blue[i]
  }
  return encode(packed, width, height, 3)
}

/** A colour map with another picture as its alpha, as a PNG of the colour's size. @throws FileError */
export async function withOpacity(color: Uint8Array, opacity: PlaneSource): Promise<Uint8Array> {
  const { data, info } = await sharp(await toPng(color))
    .removeAlpha()
    .toColourspace('srgb')
    .raw({ depth: 'uchar' })
    .toBuffer({ resolveWithObject: true })
  const { width, height } = info
  const alpha = await planeOf(opacity, width, height, 'opacity')
  const joined = Buffer.alloc(width * height * 4)
  for (let i = 0; i < width * height; i++) {
    data.copy(joined, i * 4, i * 3, i * 3 + 3)
    joined[i * 4 + 3] = alpha[i]
  }
  return encode(joined, width, height, 4)
}

/** @returns width x height bytes, all 255 without a source */
async function planeOf(
  source: PlaneSource | null,
  width: number,
  height: number,
  kind: keyof typeof USUAL_CHANNEL,
): Promise<Buffer> {
  if (!source) return Buffer.alloc(width * height, 255)
  const { data } = await sharp(await toPng(source.bytes))
    .toColourspace('srgb')
    .ensureAlpha()
    .resize(width, height, { fit: 'fill' })
    .raw({ depth: 'uchar' })
    .toBuffer({ resolveWithObject: true })
  const plane = Buffer.alloc(width * height)
  const channel = source.channel ?? (holdsSeveral(data, kind) ? USUAL_CHANNEL[kind] : 'grey')
  const { scale = 1, bias = 0 } = source.reading ?? {}
  for (let i = 0; i < plane.length; i++) {
    const value =
      channel === 'grey' ? 0.2126 * data[i * 4] + 0.7152 * data[i * 4 + 1] + 0.0722 * data[i * 4 + 2] : data[i * 4 + channel]
    plane[i] = Math.min(255, Math.max(0, Math.round(value * scale + bias * 255)))
  }
  return plane
}

/** Whether a picture holds a map in each of its channels, so that its brightness is none: coloured; or for opacity, not opaque everywhere. */
function holdsSeveral(rgba: Buffer, kind: keyof typeof USUAL_CHANNEL): boolean {
  const pixels = rgba.length / 4
  let counted = 0
  for (let i = 0; i < rgba.length; i += 4)
    if (kind === 'opacity') counted += rgba[i + 3] < 255 ? 1 : 0
    else counted += Math.abs(rgba[i] - rgba[i + 1]) > COLORED || Math.abs(rgba[i + 1] - rgba[i + 2]) > COLORED ? 1 : 0
  return counted > pixels * A_SHARE
}
const COLORED = 8
const A_SHARE = 0.01

const encode = async (raw: Buffer, width: number, height: number, channels: 3 | 4): Promise<Uint8Array> =>
  new Uint8Array(await sharp(raw, { raw: { width, height, channels } }).png().toBuffer())
