import type { Document } from '@gltf-transform/core'
import sharp from 'sharp'

/**
 * Makes a document's pictures no larger than `mostPx` on their longer side, each in the form it has. One that does not decode stays as it
 * is, for whoever reads it to say so.
 * @returns whether any was larger
 */
export async function shrinkTextures(document: Document, mostPx: number): Promise<boolean> {
  let isAnyLarger = false
  for (const texture of document.getRoot().listTextures()) {
    const bytes = texture.getImage()
    const size = texture.getSize()
    if (!bytes || !size || Math.max(...size) <= mostPx) continue
    const small = sharp(bytes).resize(mostPx, mostPx, { fit: 'inside' })
    const isPhoto = texture.getMimeType() === 'image/jpeg'
    // Normals and figures are pictures, too: their channels are worth the same.
    const encoded = isPhoto ? small.jpeg({ quality: 95, chromaSubsampling: '4:4:4' }) : small.png({ compressionLevel: 4 })
    const shrunk = await encoded.toBuffer().catch(() => null)
    if (!shrunk) continue
    texture.setImage(new Uint8Array(shrunk))
    isAnyLarger = true
  }
  return isAnyLarger
}
