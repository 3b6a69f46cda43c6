import type { Document } from '@gltf-transform/core'
import { convertPrimitiveToTriangles, dequantize, metalRough, unpartition } from '@gltf-transform/functions'
import { bakeRestPose } from '#core/geometry/rest-pose'
import { toPng } from '../writing/house-picture'
import type { GltfJson } from './model-references'

/** Extensions that say how data is packed, or are out of use; what they hold is written plainly instead. */
const PACKING = [
  'KHR_draco_mesh_compression',
  'EXT_meshopt_compression',
  'KHR_meshopt_compression',
  'KHR_mesh_quantization',
  'KHR_texture_basisu',
  'EXT_texture_webp',
  'EXT_texture_avif',
  'KHR_materials_pbrSpecularGlossiness',
]
const TRIANGLES = 4
const CONVERTIBLE = [5, 6]

/** Whether a glTF is read by every program without a decoder, stands still and has triangles alone. */
export const isPlain = ({ extensionsUsed = [], skins = [], meshes = [] }: GltfJson): boolean =>
  skins.length === 0 &&
  !extensionsUsed.some(e => PACKING.includes(e)) &&
  meshes.every(m => (m.primitives ?? []).every(p => !CONVERTIBLE.includes(p.mode ?? TRIANGLES)))

/**
 * Writes out what a document holds packed: meshes as floats, strips and fans as triangles, skinned meshes as they stand at rest, textures as
 * PNG or JPEG, specular and glossiness as metalness and roughness.
 */
export async function makePlain(document: Document): Promise<void> {
  const root = document.getRoot()
  await document.transform(dequantize(), unpartition())
  for (const mesh of root.listMeshes())
    for (const primitive of mesh.listPrimitives())
      if (CONVERTIBLE.includes(primitive.getMode())) convertPrimitiveToTriangles(primitive)
  bakeRestPose(document)
  for (const texture of root.listTextures()) {
    const bytes = texture.getImage()
    if (!bytes || texture.getMimeType() === 'image/png' || texture.getMimeType() === 'image/jpeg') continue
    texture
      .setImage(new Uint8Array(await toPng(bytes)))
      .setMimeType('image/png')
      .setURI('')
  }
  if (root.listExtensionsUsed().some(e => e.extensionName === 'KHR_materials_pbrSpecularGlossiness'))
    await document.transform(metalRough())
  for (const extension of root.listExtensionsUsed()) if (PACKING.includes(extension.extensionName)) extension.dispose()
}
