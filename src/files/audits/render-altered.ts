import { asDelivered } from '#core/audit/material-print'
import { comparePictures } from '#core/compare/compare-pictures'
import type { FloatImage } from '#core/image/image'
import { developForDisplay } from '#core/render/film/develop'
import type { Rig } from '#core/render/rigs/rig'
import type { ItemSource } from '../items/item-source'
import { loadItem } from '../items/load-item'
import type { SourceFile } from '../reading/source-file'
import { encodePicture } from '../writing/encode-picture'
import { withScene } from './gather-scene'
import { openSceneMaterial, renderOnRig, TEXTURE_PX } from './open-scene-material'
import { readSceneMaterials } from './read-scene-parts'

export interface AlteredMaterial {
  /** Its number in the scene. */
  index: number
  /** The library's version that it is compared with. */
  source: ItemSource
}

export interface AlteredPictures {
  index: number
  /** As WebP: as it is in the scene, and as the library has it. */
  own: Uint8Array
  library: Uint8Array
  flipMean: number
  deltaE00: number
}

/** Renders materials of a scene on a rig, each beside the library's, and says how far apart they look. */
export const renderAltered = (
  files: readonly SourceFile[],
  altered: readonly AlteredMaterial[],
  rig: Rig,
  onProgress: (share: number) => void = () => {},
): Promise<AlteredPictures[]> =>
  withScene(files, async scene => {
    const materials = await readSceneMaterials(scene)
    const pictures: AlteredPictures[] = []
    for (const [k, { index, source }] of altered.entries()) {
      const { loaded } = await loadItem(source, 'preview', TEXTURE_PX)
      if (loaded.kind !== 'material') continue
      const library = asDelivered(loaded.material)
      const tileSizeM = library.tileSizeM
      const own = await openSceneMaterial(scene, {
        ...materials[index],
        tileSizeM,
        ...(library.tiling ? { tiling: library.tiling } : {}),
      })
      const [ours, theirs] = [renderOnRig(own, rig), renderOnRig({ material: library, images: loaded.images }, rig)]
      const { meanFlip, deltaEOfMeans } = comparePictures(theirs, ours)
      const encode = async (image: FloatImage) => new Uint8Array(await encodePicture(developForDisplay(image), 'webp'))
      pictures.push({
        index,
        own: await encode(ours),
        library: await encode(theirs),
        flipMean: meanFlip,
        deltaE00: deltaEOfMeans,
      })
      onProgress((k + 1) / altered.length)
    }
    return pictures
  })
