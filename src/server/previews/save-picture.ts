import { readFile } from 'node:fs/promises'
import { parseExr } from '#core/codecs/exr'
import { writeHdr } from '#core/codecs/hdr'
import { comparePictures } from '#core/compare/compare-pictures'
import { joinPictures } from '#core/compare/join-pictures'
import type { FloatImage } from '#core/image/image'
import { developForDisplay } from '#core/render/film/develop'
import { encodeExr } from '#files/writing/encode-exr'
import { encodePicture } from '#files/writing/encode-picture'
import type { CompareKey } from '#shared/compare-key'
import type { PictureFormat } from '#shared/contracts/compare.contract'
import type { Actor } from '../platform/access'
import type { Context } from '../platform/context'
import { ProblemError } from '../platform/problem'
import { getComparison } from './compare'
import { getPreviewFile } from './previews'

const MEDIA_TYPES: Record<PictureFormat, string> = {
  png: 'image/png',
  webp: 'image/webp',
  jpeg: 'image/jpeg',
  exr: 'image/x-exr',
  hdr: 'image/vnd.radiance',
}

interface SavedPicture {
  bytes: Uint8Array
  mediaType: string
  extension: string
}

/** A preview as a file: display-encoded for PNG, WebP and JPEG, linear for OpenEXR and Radiance HDR. Each says which in its metadata. */
export async function savePicture(
  { db, storage }: Context,
  actor: Actor,
  previewId: number,
  format: PictureFormat,
): Promise<SavedPicture> {
  const hash = await getPreviewFile(db, actor, previewId, 'linear')
  return encode(parseExr(new Uint8Array(await readFile(await storage.localPath(hash)))), format)
}

/** Pictures of a comparison beside each other in one, as large as the largest; what each is stands in the metadata. */
export async function saveComparison(
  context: Context,
  actor: Actor,
  keys: readonly CompareKey[],
  format: PictureFormat,
): Promise<SavedPicture> {
  const compared = await getComparison(context, actor, keys)
  const missing = compared.filter(c => !c.preview?.linearUrl).map(c => c.code)
  if (compared.length === 0) throw new ProblemError('badRequest', 'There is nothing to save.')
  if (missing.length > 0)
    throw new ProblemError('notReady', `Not rendered yet: ${missing.join(', ')}. Save it once every picture is there.`)
  const pictures = await Promise.all(
    compared.map(async ({ preview }) => {
      const hash = await getPreviewFile(context.db, actor, Number(preview!.url.split('/').pop()), 'linear')
      return parseExr(new Uint8Array(await readFile(await context.storage.localPath(hash))))
    }),
  )
  const what = compared.map(
    ({ code, version, preview }, k) =>
      `${String.fromCharCode(65 + k)}: ${code} version ${version}, ${preview!.quality}, ${preview!.rig} revision ${preview!.rigRevision}`,
  )
  if (pictures.length === 2) {
    const { meanFlip, p95Flip, deltaEOfMeans } = comparePictures(pictures[0], pictures[1])
    what.push(`FLIP mean ${meanFlip.toFixed(4)}, p95 ${p95Flip.toFixed(4)}; dE00 of the means ${deltaEOfMeans.toFixed(2)}`)
  }
  return encode(joinPictures(pictures, pictures.length === 4 ? 2 : Math.min(3, pictures.length)), format, what.join('; '))
}

async function encode(image: FloatImage, format: PictureFormat, what = ''): Promise<SavedPicture> {
  const file = { mediaType: MEDIA_TYPES[format], extension: format === 'jpeg' ? 'jpg' : format }
  const say = (encoding: string) => [encoding, what].filter(Boolean).join('. ')
  switch (format) {
    case 'exr':
      return { ...file, bytes: encodeExr(image, say('Linear Rec.709')) }
    case 'hdr':
      return { ...file, bytes: writeHdr(image, say('Linear Rec.709')) }
    default:
      return {
        ...file,
        bytes: await encodePicture(developForDisplay(image), format, say('Display-encoded: PBR Neutral, sRGB')),
      }
  }
}
