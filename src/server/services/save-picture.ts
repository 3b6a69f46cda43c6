import { readFile } from 'node:fs/promises'
import { parseExr } from '#core/codecs/exr'
import { writeHdr } from '#core/codecs/hdr'
import { developForDisplay } from '#core/render/develop'
import { encodePicture } from '#files/encode-picture'
import type { PictureFormat } from '#shared/contracts/compare.contract'
import type { Actor } from '../db/access'
import type { Context } from './context'
import { getPreviewFile } from './previews'

const MEDIA_TYPES: Record<PictureFormat, string> = {
  png: 'image/png',
  webp: 'image/webp',
  jpeg: 'image/jpeg',
  exr: 'image/x-exr',
  hdr: 'image/vnd.radiance',
}

/** A preview as a file: display-encoded for PNG, WebP and JPEG, linear for OpenEXR and Radiance HDR. Each says which in its metadata. */
export async function savePicture(
  { db, storage }: Context,
  actor: Actor,
  previewId: number,
  format: PictureFormat,
): Promise<{ bytes: Uint8Array; mediaType: string; extension: string }> {
  const hash = await getPreviewFile(db, actor, previewId, 'linear')
  const exr = new Uint8Array(await readFile(await storage.localPath(hash)))
  const file = { mediaType: MEDIA_TYPES[format], extension: format === 'jpeg' ? 'jpg' : format }
  switch (format) {
    case 'exr':
      return { ...file, bytes: exr }
    case 'hdr':
      return { ...file, bytes: writeHdr(parseExr(exr)) }
    default:
      return { ...file, bytes: await encodePicture(developForDisplay(parseExr(exr)), format) }
  }
}
