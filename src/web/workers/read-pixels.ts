import type { ByteImage } from '#core/image/image'

/** At the size of a picture on a sheet no more texels can be told apart. */
const LARGEST_TEXTURE = 1024

/** The pixels of an encoded picture as they are stored, made smaller where nobody would see the difference; 8 bits, 4 channels. */
export async function readPixels(blob: Blob): Promise<ByteImage> {
  const bitmap = await createImageBitmap(blob, { colorSpaceConversion: 'none', premultiplyAlpha: 'none' })
  const scale = Math.min(1, LARGEST_TEXTURE / Math.max(bitmap.width, bitmap.height))
  const width = Math.max(1, Math.round(bitmap.width * scale))
  const height = Math.max(1, Math.round(bitmap.height * scale))
  const canvas = new OffscreenCanvas(width, height)
  const context = canvas.getContext('2d', { willReadFrequently: true })!
  context.imageSmoothingQuality = 'high'
  context.drawImage(bitmap, 0, 0, width, height)
  bitmap.close()
  const { data } = context.getImageData(0, 0, width, height)
  return { width, height, channels: 4, data: new Uint8Array(data.buffer) }
}
