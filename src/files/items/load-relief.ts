import type { ByteImage } from '#core/image/image'
import type { OpenPbrMaterial } from '#core/material/open-pbr'
import { findRelief } from '#core/render/stages/find-relief'
import type { Relief } from '#core/render/stages/relief-heights'
import { decodeByteImage } from '../reading/decode-image'
import type { ItemSource } from './item-source'

/**
 * How a material's heights lie on a stage; null without any.
 * @param images the pictures that the material's textures name
 */
export async function loadRelief(
  { files }: Pick<ItemSource, 'files'>,
  material: OpenPbrMaterial,
  images: readonly ByteImage[],
  maxTexture: number,
): Promise<Relief | null> {
  const file = files.find(f => f.role === 'height')?.file
  const isOwn = file && !material.textures.displacement
  // One that does not decode was told of when the item was checked.
  return findRelief(material, images, isOwn ? await decodeByteImage(file.diskPath, maxTexture).catch(() => null) : null)
}
