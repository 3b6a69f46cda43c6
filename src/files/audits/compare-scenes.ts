import type { Change } from '#core/audit/compare-materials'
import { compareUses } from '#core/audit/compare-uses'
import { asDelivered } from '#core/audit/material-print'
import { comparePictures } from '#core/compare/compare-pictures'
import { FileError } from '#core/findings/failure'
import type { FloatImage } from '#core/image/image'
import { developForDisplay } from '#core/render/film/develop'
import type { Rig } from '#core/render/rigs/rig'
import { type ItemSource, loadItem } from '../items/load-item'
import type { SourceFile } from '../reading/source-file'
import { encodePicture } from '../writing/encode-picture'
import { withScene } from './gather-scene'
import { openSceneMaterial, renderOnRig, TEXTURE_PX } from './open-scene-material'
import { readScene } from './read-scene'
import { readSceneMaterials } from './read-scene-parts'

/** A material of one scene and the same item's of another, by their numbers there. */
export interface ScenePair {
  own: number
  other: number
}

type Scenes = readonly [own: readonly SourceFile[], other: readonly SourceFile[]]

/**
 * What is different about each of some items between two scenes, from the other to this one.
 * @throws FileError where a scene does not read, or has no material of such a number
 */
export const compareScenes = (scenes: Scenes, pairs: readonly ScenePair[]): Promise<Change[][]> =>
  withScene(scenes[0], async own => {
    const here = await readScene(own)
    return withScene(scenes[1], async other => {
      const there = await readScene(other)
      return pairs.map(pair => {
        const [a, b] = [here.materials.find(m => m.index === pair.own), there.materials.find(m => m.index === pair.other)]
        if (!a || !b) throw new FileError('notFound', 'One of the scenes has no material of this number any more.')
        return compareUses(a, b, [own.form, other.form])
      })
    })
  })

export interface PicturesBeside {
  /** As WebP. */
  own: Uint8Array
  other: Uint8Array
  flipMean: number
  deltaE00: number
}

/** Renders an item as each of two scenes has it on one rig. @param source of the library, for how large a repeat is */
export async function pictureBeside(scenes: Scenes, pair: ScenePair, source: ItemSource, rig: Rig): Promise<PicturesBeside> {
  const { loaded } = await loadItem(source, 'preview', TEXTURE_PX)
  if (loaded.kind !== 'material') throw new FileError('unsupported', 'Only materials are rendered beside each other.')
  const { tileSizeM, tiling } = asDelivered(loaded.material)
  const render = (files: readonly SourceFile[], index: number): Promise<FloatImage> =>
    withScene(files, async scene => {
      const material = (await readSceneMaterials(scene))[index]
      if (!material) throw new FileError('notFound', 'The scene has no material of this number.')
      return renderOnRig(await openSceneMaterial(scene, { ...material, tileSizeM, ...(tiling ? { tiling } : {}) }), rig)
    })
  const [own, other] = [await render(scenes[0], pair.own), await render(scenes[1], pair.other)]
  const { meanFlip, deltaEOfMeans } = comparePictures(other, own)
  const encode = async (image: FloatImage) => new Uint8Array(await encodePicture(developForDisplay(image), 'webp'))
  return { own: await encode(own), other: await encode(other), flipMean: meanFlip, deltaE00: deltaEOfMeans }
}
