import type { ByteImage } from '../../image/image'
import { halveBytes } from '../../image/reduce'
import { measureRelief } from '../../material/estimate-relief'
import { type OpenPbrMaterial, reliefOf } from '../../material/open-pbr'
import { createMipTexture } from '../scene/texture'
import type { Relief } from './relief-heights'

/** Slopes of this many texels a side tell as much of a height as all of them do. */
const COMPARED_PX = 256

/**
 * How a material's heights lie on a stage: as deep as its normal map has them, where there is one, else as nobody has said.
 * @param images the pictures that the material's textures name
 * @param heights its height map, where a normal map keeps it from being one of its textures
 * @returns null without heights or a size, and where heights and normals tell of different surfaces
 */
export function findRelief(
  { tileSizeM, textures, tiling, reliefM }: OpenPbrMaterial,
  images: readonly ByteImage[],
  heights: ByteImage | null,
): Relief | null {
  const { displacement, geometryNormal } = textures
  const image = displacement ? images[displacement.image] : heights
  if (!image || !tileSizeM) return null
  const normals = geometryNormal && images[geometryNormal.image]
  const deep = normals
    ? measureRelief(reduce(image), reduce(normals), geometryNormal.handedness ?? 'openGl', tileSizeM)
    : reliefOf({ reliefM, tileSizeM })
  if (deep === null) return null
  const texture = createMipTexture(image, 'linear', tiling !== 'once')
  return { heights: texture, channel: displacement?.channel ?? 0, tileSizeM, reliefM: deep }
}

function reduce(image: ByteImage): ByteImage {
  let small = image
  while (Math.max(small.width, small.height) > COMPARED_PX) small = halveBytes(small, 'linear')
  return small
}
