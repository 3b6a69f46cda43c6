import sharp from 'sharp'
import { sniffType } from '#core/codecs/sniff'
import { encodeSrgb } from '#core/color/srgb'
import type { Image } from '#core/image/image'
import { decodeAsIs } from '../reading/decode-image'
import { isOtherPicture } from '../reading/pictures/other-pictures'
import { readBytes, readHead, type SourceFile } from '../reading/source-file'

/** Whether a picture is of a kind that browsers or renderers do not read, or of floats where they expect codes. */
export async function isUnusualPicture(file: SourceFile): Promise<boolean> {
  const type = sniffType(await readHead(file.diskPath))
  if (type === 'tiff') return ['float', 'double', 'int', 'uint'].includes((await sharp(file.diskPath).metadata()).depth ?? '')
  return type === 'avif' || isOtherPicture(type)
}

/**
 * A picture as PNG, without loss up to 16 bits a channel. Of floats, which are linear, colours are encoded as sRGB, and what lies outside
 * 0 to 1 is cut off there.
 * @throws FileError
 */
export async function toPng(
  given: SourceFile | Uint8Array | Image,
  { isColor = true }: { isColor?: boolean } = {},
): Promise<Uint8Array> {
  const { width, height, channels, data } =
    'data' in given ? given : await decodeAsIs(given instanceof Uint8Array ? given : await readBytes(given))
  const codes =
    data instanceof Float32Array
      ? Uint16Array.from(data, v => Math.round(Math.min(1, Math.max(0, isColor ? encodeSrgb(v || 0) : v || 0)) * 65535))
      : data
  const pixels = sharp(codes, { raw: { width, height, channels: channels as 1 | 2 | 3 | 4 } })
  const deep = codes instanceof Uint16Array ? pixels.toColourspace(channels < 3 ? 'grey16' : 'rgb16') : pixels
  return new Uint8Array(await deep.png({ compressionLevel: 6 }).toBuffer())
}
