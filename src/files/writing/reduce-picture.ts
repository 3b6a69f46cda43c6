import { readFile } from 'node:fs/promises'
import { extname } from 'node:path'
import sharp from 'sharp'
import { luminance } from '#core/color/srgb'
import { auditPicture, type PictureFault } from '#core/compare/audit-picture'
import { FileError } from '#core/findings/failure'
import type { ByteImage, FloatImage } from '#core/image/image'
import { reduceFloat } from '#core/image/reduce'
import { percentile } from '#core/math/statistics'
import { developForDisplay } from '#core/render/film/develop'
import { decodeEnvironment } from '../reading/decode-environment'
import { asFileError, MAX_PIXELS } from '../reading/decode-image'
import { encodePicture } from './encode-picture'

/** A picture that somebody brought, made small enough to be shown as a preview, and what a rig's maker would say of it. */
export interface ReducedPicture {
  /** Display-encoded WebP. */
  bytes: Uint8Array
  width: number
  height: number
  originalWidth: number
  originalHeight: number
  score: number
  faults: PictureFault[]
}

/** Longer side in pixels. */
const SIZE = 1024
const AUDIT_SIZE = 256
/** Median luminance of a linear picture is brought to this before it is tone mapped. */
const MIDDLE = 0.18

/**
 * Reduces a picture by area averaging; linear ones (OpenEXR, Radiance) in linear light, then exposed by their median and tone mapped
 * as previews are. What is transparent is laid on mid grey.
 * @param name the file's name, whose ending tells the format apart
 * @throws FileError when it does not decode
 */
export async function reducePicture(diskPath: string, name: string): Promise<ReducedPicture> {
  const ending = extname(name).toLowerCase()
  const { image, originalWidth, originalHeight } =
    ending === '.hdr' || ending === '.exr' ? await reduceLinear(diskPath, ending) : await reduceDisplay(diskPath)
  const { score, faults } = auditPicture(await shrink(image, AUDIT_SIZE))
  const bytes = new Uint8Array(await encodePicture(image, 'webp', { description: 'Display-encoded: sRGB' }))
  return { bytes, width: image.width, height: image.height, originalWidth, originalHeight, score, faults }
}

async function reduceLinear(diskPath: string, ending: '.hdr' | '.exr') {
  const full = decodeEnvironment(new Uint8Array(await readFile(diskPath)), ending === '.hdr' ? 'hdr' : 'exr')
  const scale = Math.min(1, SIZE / Math.max(full.width, full.height))
  const small = scale < 1 ? reduceFloat(full, Math.round(full.width * scale), Math.round(full.height * scale)) : full
  return { image: developForDisplay(expose(small)), originalWidth: full.width, originalHeight: full.height }
}

function expose(image: FloatImage): FloatImage {
  const { data, channels } = image
  const values: number[] = []
  for (let i = 0; i + 2 < data.length; i += channels) values.push(luminance(data[i], data[i + 1], data[i + 2]))
  const middle = percentile(values.filter(Number.isFinite), 0.5)
  if (!(middle > 0)) return image
  return { ...image, data: data.map(v => (Number.isFinite(v) ? (v * MIDDLE) / middle : 0)) }
}

async function reduceDisplay(diskPath: string) {
  try {
    const source = sharp(diskPath, { limitInputPixels: MAX_PIXELS, failOn: 'warning' })
    const { width = 0, height = 0, orientation = 1 } = await source.metadata()
    const { data, info } = await source
      .rotate()
      .resize(SIZE, SIZE, { fit: 'inside', withoutEnlargement: true })
      .flatten({ background: '#808080' })
      .toColourspace('srgb')
      .removeAlpha()
      .raw({ depth: 'uchar' })
      .toBuffer({ resolveWithObject: true })
    const image: ByteImage = { width: info.width, height: info.height, channels: 3, data: toRgb(data, info.channels) }
    const isTurned = orientation >= 5
    return { image, originalWidth: isTurned ? height : width, originalHeight: isTurned ? width : height }
  } catch (error) {
    throw error instanceof FileError ? error : asFileError(error)
  }
}

function toRgb(data: Uint8Array, channels: number): Uint8Array {
  if (channels === 3) return new Uint8Array(data)
  return Uint8Array.from({ length: (data.length / channels) * 3 }, (_, i) => data[Math.floor(i / 3) * channels])
}

async function shrink(image: ByteImage, size: number): Promise<ByteImage> {
  const { data, info } = await sharp(image.data, { raw: { width: image.width, height: image.height, channels: 3 } })
    .resize(size, size, { fit: 'inside', withoutEnlargement: true })
    .raw()
    .toBuffer({ resolveWithObject: true })
  return { width: info.width, height: info.height, channels: 3, data: new Uint8Array(data) }
}
