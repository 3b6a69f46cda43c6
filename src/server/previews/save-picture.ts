import type { CompareKey } from '#shared/compare-key'
import { PICTURE_FILES, type PictureFormat } from '#shared/contracts/compare.contract'
import type { Actor } from '../platform/access'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { ProblemError } from '../platform/problem'
import { getComparison } from './compare'
import { getPreviewFile } from './previews'

interface SavedPicture {
  bytes: Uint8Array
  mediaType: string
  extension: string
}

/** Reading, comparing and encoding pictures is for a thread: nobody else's answer waits for it. */
export interface SaveContext extends Context {
  compute: ComputePool
}

/** A preview as a file: display-encoded for PNG, WebP, JPEG and TIFF, linear for OpenEXR and Radiance HDR. Each says which in its metadata. */
export async function savePicture(
  context: SaveContext,
  actor: Actor,
  previewId: number,
  format: PictureFormat,
): Promise<SavedPicture> {
  return save(context, [await pathOf(context, actor, previewId)], format)
}

/** Pictures of a comparison beside each other in one; what each is stands in the metadata. */
export async function saveComparison(
  context: SaveContext,
  actor: Actor,
  keys: readonly CompareKey[],
  format: PictureFormat,
): Promise<SavedPicture> {
  const compared = await getComparison(context, actor, keys)
  const missing = compared.filter(c => !c.preview?.linearUrl).map(c => c.code)
  if (compared.length === 0) throw new ProblemError('badRequest', 'There is nothing to save.')
  if (missing.length > 0)
    throw new ProblemError('notReady', `Not rendered yet: ${missing.join(', ')}. Save it once every picture is there.`)
  const paths = await Promise.all(compared.map(({ preview }) => pathOf(context, actor, Number(preview!.url.split('/').pop()))))
  const captions = compared.map(
    ({ code, version, preview }, k) =>
      `${String.fromCharCode(65 + k)}: ${code} version ${version}, ${preview!.quality}, ${preview!.rig} revision ${preview!.rigRevision}`,
  )
  return save(context, paths, format, captions)
}

const pathOf = async ({ pool, storage }: SaveContext, actor: Actor, previewId: number): Promise<string> =>
  storage.localPath(await getPreviewFile(pool, actor.id, previewId, 'linear'))

const save = async (
  { compute }: SaveContext,
  diskPaths: string[],
  format: PictureFormat,
  captions: string[] = [],
): Promise<SavedPicture> => ({
  bytes: await compute.run('savePictures', { diskPaths, format, captions }),
  mediaType: PICTURE_FILES[format].mediaType,
  extension: PICTURE_FILES[format].ending,
})
