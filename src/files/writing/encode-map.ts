import sharp from 'sharp'
import { wholeForm } from '#core/codecs/write-exr'
import { type FloatImage, fullScale, type Image } from '#core/image/image'
import { encodeExr } from './encode-exr'

export type MapForm = 'png' | 'tiff' | 'exr'

/**
 * A stand-alone map at its own depth: codes of 8 or 16 bits as PNG or TIFF, floats as TIFF or OpenEXR. PNG has no floats: what lies outside
 * of 0 to 1 is cut off there, at 16 bits. OpenEXR holds the values that codes stand for, from 0 to 1, without another curve over them.
 * @param maxSide pixels of the longer side at most; null leaves it
 */
export async function encodeMap(image: Image, form: MapForm, maxSide: number | null): Promise<Uint8Array> {
  const fitted = maxSide === null ? image : await reduce(image, maxSide)
  if (form === 'exr')
    return encodeExr(toFloats(fitted), 'Written by Muscovite, values as they are kept', wholeForm(toFloats(fitted)))
  const ready = form === 'png' && fitted.data instanceof Float32Array ? toCodes16(fitted) : fitted
  const pixels = openPixels(ready)
  const encoded =
    form === 'png' ? pixels.png({ compressionLevel: 6 }) : pixels.tiff({ compression: 'deflate', predictor: 'horizontal' })
  return new Uint8Array(await encoded.toBuffer())
}

const spaceOf = ({ channels, data }: Image) =>
  data instanceof Uint8Array
    ? channels < 3
      ? 'b-w'
      : 'srgb'
    : data instanceof Uint16Array
      ? channels < 3
        ? 'grey16'
        : 'rgb16'
      : null

/** Pixels as the picture library takes them, in a space of their own channels and depth. */
export function openPixels(image: Image) {
  const { width, height, channels, data } = image
  const pixels = sharp(data, { raw: { width, height, channels: channels as 1 | 2 | 3 | 4 }, limitInputPixels: false })
  const space = spaceOf(image)
  return space === null ? pixels : pixels.toColourspace(space)
}

async function reduce(image: Image, maxSide: number): Promise<Image> {
  const isFloat = image.data instanceof Float32Array
  const { data, info } = await openPixels(image)
    .resize(maxSide, maxSide, { fit: 'inside', kernel: 'mitchell', withoutEnlargement: true })
    .raw({ depth: isFloat ? 'float' : image.data instanceof Uint16Array ? 'ushort' : 'uchar' })
    .toBuffer({ resolveWithObject: true })
  const buffer = data.buffer.slice(data.byteOffset, data.byteOffset + data.byteLength)
  const values = isFloat
    ? new Float32Array(buffer)
    : image.data instanceof Uint16Array
      ? new Uint16Array(buffer)
      : new Uint8Array(buffer)
  return { width: info.width, height: info.height, channels: info.channels, data: values }
}

const toFloats = (image: Image): FloatImage =>
  image.data instanceof Float32Array
    ? (image as FloatImage)
    : { ...image, data: Float32Array.from(image.data, v => v / fullScale(image.data)) }

const toCodes16 = (image: Image): Image => ({
  ...image,
  data: Uint16Array.from(image.data, v => Math.round(Math.min(1, Math.max(0, v || 0)) * 65535)),
})
