import { toHex } from '../../color/srgb'
import { createFinding } from '../../findings/finding'
import type { ModelCheck } from './model-check'

/** Plain white or grey without any texture: what a modelling program gives a part that was given no material. */
export const checkDefaultSurfaces: ModelCheck = ({ model }) =>
  model.parts.flatMap(part => {
    const material = model.materials[part.material]
    if (!material) return [createFinding('defaultSurface', { reason: 'none' }, part.name)]
    const [r, g, b] = material.parameters.baseColor
    const p = material.parameters
    const plain =
      Object.keys(material.textures).length === 0 &&
      Math.max(r, g, b) - Math.min(r, g, b) < 0.01 &&
      r > 0.45 &&
      p.baseMetalness < 0.5 &&
      p.transmissionWeight === 0 &&
      p.emissionLuminance === 0
    const unnamed = /^$|^(material|default|lambert|standard|none)[\s._-]*\d*$/i.test(material.name)
    return plain && unnamed
      ? [createFinding('defaultSurface', { reason: 'plain', material: material.name, color: toHex([r, g, b]) }, part.name)]
      : []
  })
