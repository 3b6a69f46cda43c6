import sharp from 'sharp'
import { FileError } from '#core/findings/failure'
import { developForDisplay } from '#core/render/film/develop'
import { renderTurntable } from '#core/render/pictures/turntable'
import type { Rig } from '#core/render/rigs/rig'
import { encodePicture } from '../writing/encode-picture'
import type { ItemSource } from './item-source'
import { loadItem, toPreviewSubject } from './load-item'

/** At the size of a frame no more texels than this can be told apart. */
const TEXTURE_SIZE = 1024
const FRAME_MS = 90

/** Renders one full turn of a material or a model as an animated WebP that runs for ever. */
export async function turnItem(source: ItemSource, rig: Rig, onProgress: (share: number) => boolean): Promise<Buffer> {
  const { loaded } = await loadItem(source, 'preview', TEXTURE_SIZE)
  if (loaded.kind === 'map') throw new FileError('unsupported', 'Only what has an outside can be turned.')
  const subject = await toPreviewSubject(loaded, TEXTURE_SIZE)
  if (subject.kind === 'environment' || subject.kind === 'light')
    throw new FileError('unsupported', 'Only what has an outside can be turned.')
  const frames = renderTurntable(subject, rig, rig.backdrops[0], onProgress)
  if (!frames) throw new FileError('unsupported', 'The turn was stopped.')
  const pictures = await Promise.all(frames.map(f => encodePicture(developForDisplay(f), 'png')))
  return sharp(pictures, { join: { animated: true } })
    .webp({ quality: 88, loop: 0, delay: pictures.map(() => FRAME_MS) })
    .toBuffer()
}
