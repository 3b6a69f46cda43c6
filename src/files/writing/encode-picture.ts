import sharp from 'sharp'
import type { ByteImage } from '#core/image/image'

/**
 * Display-encoded picture bytes. The metadata says how it is encoded, so that nobody has to guess.
 * @param options.width pixels to reduce it to, keeping its proportions
 */
export async function encodePicture(
  image: ByteImage,
  format: 'png' | 'webp' | 'jpeg',
  { description = 'Display-encoded: PBR Neutral, sRGB', width }: { description?: string; width?: number } = {},
): Promise<Buffer> {
  const raw = { width: image.width, height: image.height, channels: image.channels as 1 | 2 | 3 | 4 }
  const whole = sharp(image.data, { raw })
  const pipeline = (width ? whole.resize(width) : whole).withExif({ IFD0: { ImageDescription: description } })
  switch (format) {
    case 'png':
      return pipeline.png().toBuffer()
    case 'webp':
      return pipeline.webp({ quality: 92, smartSubsample: true }).toBuffer()
    case 'jpeg':
      return pipeline.jpeg({ quality: 92, chromaSubsampling: '4:4:4' }).toBuffer()
    default:
      return format satisfies never
  }
}
