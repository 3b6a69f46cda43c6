import { linearToSrgbByte } from '#core/color/srgb'
import type { ByteImage, FloatImage, Image } from '#core/image/image'
import { findSeam } from '#core/image/tile-seam'
import { drawMapSheet } from '#core/map/draw-map'
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
  const tiles = measureMap(image).alpha !== 'cutOut' && !findSeam(image, 'x').isSeen && !findSeam(image, 'y').isSeen
  const [backdropAlbedo] = rig.backdrops
  const picture = drawMapSheet(image, { width, aspect: PREVIEW_ASPECT, tiles, mount: linearToSrgbByte(backdropAlbedo) })
  return { picture, linear: undevelop(picture), backdropAlbedo }
}
