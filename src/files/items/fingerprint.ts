import { createHash } from 'node:crypto'
import { computePerceptualHash } from '#core/image/perceptual-hash'
import type { LoadedItem } from './load-item'

/** By what an item is known again, however its files were named, packed or saved. */
export interface Fingerprint {
  /** Path of the file it is taken from: base colour, model, panorama or light curve. */
  path: string
  /** SHA-256 of the decoded pixels, of the triangles, or of the intensities: a re-saved file has the same. */
  content: string
  /** Hash of the look, sixteen hexadecimal digits; null for models and lights. */
  perceptualHash: string | null
}

/** Null for a material without a colour or height map. */
export function fingerprintItem(loaded: LoadedItem, mainPath: string | null): Fingerprint | null {
  switch (loaded.kind) {
    case 'material': {
      const map = loaded.maps.find(m => m.role === 'baseColor') ?? loaded.maps.find(m => m.role === 'height')
      if (!map) return null
      const { image } = map
      const content = hashOf([new Uint32Array([image.width, image.height, image.channels]), image.data])
      return { path: map.path, content, perceptualHash: computePerceptualHash(image) }
    }
    case 'model': {
      if (mainPath === null) return null
      return {
        path: mainPath,
        content: hashOf(loaded.model.parts.flatMap(p => [p.mesh.positions, p.mesh.indices])),
        perceptualHash: null,
      }
    }
    case 'environment': {
      if (mainPath === null) return null
      return { path: mainPath, content: loaded.contentHash, perceptualHash: computePerceptualHash(loaded.analysis.overview) }
    }
    case 'light': {
      const { web } = loaded.light
      const angles = Float64Array.from([...web.cDeg, ...web.gammaDeg])
      return { path: loaded.light.path, content: hashOf([angles, web.candela]), perceptualHash: null }
    }
    case 'map': {
      const { image } = loaded
      const content = hashOf([new Uint32Array([image.width, image.height, image.channels]), image.data])
      return { path: loaded.path, content, perceptualHash: computePerceptualHash(image) }
    }
    default:
      return loaded satisfies never
  }
}

function hashOf(arrays: readonly (Uint8Array | Uint16Array | Uint32Array | Float32Array | Float64Array)[]): string {
  const hash = createHash('sha256')
  for (const array of arrays) hash.update(new Uint8Array(array.buffer, array.byteOffset, array.byteLength))
  return hash.digest('hex')
}
