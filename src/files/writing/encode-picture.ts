import sharp from 'sharp'
import type { ByteImage } from '#core/image/image'

/**
 * Display-encoded picture bytes. The metadata says how it is encoded, so that nobody has to guess.
 * @param options.width pixels to reduce it to, keeping its proportions
 * @param options.profile goes along; the values are made to fit it
 */
export async function encodePicture(
  image: ByteImage,
  format: 'png' | 'webp' | 'jpeg',
  {
    description = 'Display-encoded: PBR Neutral, sRGB',
    width,
    profile,
  }: { description?: string; width?: number; profile?: 'srgb' | 'p3' } = {},
): Promise<Buffer> {
  const raw = { width: image.width, height: image.height, channels: image.channels as 1 | 2 | 3 | 4 }
  const whole = sharp(image.data, { raw })
  const sized = width ? whole.resize(width) : whole
  const pipeline = (profile ? sized.withIccProfile(profile) : sized).withExif({ IFD0: { ImageDescription: description } })
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

/** The same of 16 bits a channel, with the sRGB profile. */
export function encodeDeep(
  { width, height, data }: { width: number; height: number; data: Uint16Array },
  format: 'png16' | 'tiff16',
  description: string,
): Promise<Buffer> {
  const pipeline = sharp(data, { raw: { width, height, channels: 3 } })
    .toColourspace('rgb16')
    .withIccProfile('srgb')
    .withExif({ IFD0: { ImageDescription: description } })
  return (format === 'png16' ? pipeline.png() : pipeline.tiff({ compression: 'deflate' })).toBuffer()
}
