import { linearToSrgbByte } from '#core/color/srgb'
import type { ByteImage, FloatImage, Image } from '#core/image/image'
import { drawMapSheet } from '#core/map/draw-map'
import { findTiling } from '#core/map/map-tiling'
import { measureMap } from '#core/map/measure-map'
import { undevelop } from '#core/render/film/develop'
import { PREVIEW_ASPECT, type QualityName, qualityOf, type Rig } from '#core/render/rigs/rig'

/** The preview of a map: nothing is lit, so nothing is rendered and its colours stay what they are. */
export function layFlat(
  image: Image,
  rig: Rig,
  quality: QualityName,
  width = qualityOf(rig, quality).width,
): { picture: ByteImage; linear: FloatImage; backdropAlbedo: number } {
  const tiling = findTiling(image, measureMap(image))
  const [backdropAlbedo] = rig.backdrops
  const picture = drawMapSheet(image, {
    width,
    aspect: PREVIEW_ASPECT,
    tiles: tiling.x && tiling.y,
    mount: linearToSrgbByte(backdropAlbedo),
  })
  return { picture, linear: undevelop(picture), backdropAlbedo }
}
