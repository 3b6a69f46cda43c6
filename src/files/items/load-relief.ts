import type { ByteImage } from '#core/image/image'
import { halveBytes } from '#core/image/reduce'
import { estimateRelief, LEAST_RELIEF_CORRELATION } from '#core/material/estimate-relief'
import { type OpenPbrMaterial, reliefOf } from '#core/material/open-pbr'
import { createMipTexture } from '#core/render/scene/texture'
import type { Relief } from '#core/render/stages/displace-mesh'
import { decodeByteImage } from '../reading/decode-image'
import type { ItemSource } from './item-source'

/** Slopes of this many texels a side tell as much of a height as all of them do. */
const COMPARED_PX = 256

/**
 * A material's height map with how high it is: as its normal map has it, where there is one; else as nobody has said. Null without heights, and
 * where the two maps tell of different surfaces.
 * @param images the pictures that the material's textures name
 */
export async function loadRelief(
  source: ItemSource,
  material: OpenPbrMaterial,
  images: readonly ByteImage[],
  maxTexture: number,
): Promise<Relief | null> {
  const { tileSizeM, textures, tiling } = material
  const file = source.files.find(f => f.role === 'height')?.file
  if (!file || !tileSizeM) return null
  const { displacement, geometryNormal } = textures
  // One that does not decode was told of when the material was read.
  const image = displacement ? images[displacement.image] : await decodeByteImage(file.diskPath, maxTexture).catch(() => null)
  if (!image) return null
  const reliefM = geometryNormal
    ? measureRelief(image, images[geometryNormal.image], geometryNormal.handedness ?? 'openGl', tileSizeM)
    : reliefOf(material)
  if (reliefM === null) return null
  return { heights: createMipTexture(image, 'linear', tiling !== 'once'), channel: 0, tileSizeM, reliefM }
}

function measureRelief(
  heights: ByteImage,
  normals: ByteImage,
  handedness: 'openGl' | 'directX',
  tileSizeM: readonly [number, number],
): number | null {
  // Maps of one set are of one shape; where they are not, they tell of different surfaces.
  if (heights.width !== normals.width || heights.height !== normals.height) return null
  const found = estimateRelief(reduce(heights), reduce(normals), handedness, tileSizeM)
  return found && found.correlation >= LEAST_RELIEF_CORRELATION && found.reliefM > 0 ? found.reliefM : null
}

function reduce(image: ByteImage): ByteImage {
  let small = image
  while (Math.max(small.width, small.height) > COMPARED_PX) small = halveBytes(small, 'linear')
  return small
}
