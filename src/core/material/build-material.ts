import { EMISSION_WHITE_NITS } from './emission'
import {
  createMaterial,
  type OpenPbrMaterial,
  type OpenPbrParameters,
  type TextureBinding,
  type TextureSlot,
  type Tiling,
} from './open-pbr'
import type { MapRole } from './texture-set'

export interface RoleImage {
  role: MapRole
  image: number
  handedness?: 'openGl' | 'directX'
}

/** Puts the maps of a texture set into the slots of an OpenPBR material. Constants given win where no map is. */
export function buildMaterialFromMaps(
  name: string,
  maps: readonly RoleImage[],
  tileSizeM: [number, number] | null,
  constants: Partial<OpenPbrParameters> = {},
  tiling: Tiling = 'repeat',
): OpenPbrMaterial {
  const textures: Partial<Record<TextureSlot, TextureBinding>> = {}
  const has = (role: MapRole) => maps.some(m => m.role === role)
  for (const { role, image, handedness } of maps) {
    switch (role) {
      case 'baseColor':
        textures.baseColor = { image, channel: 0 }
        break
      case 'normal':
        textures.geometryNormal = { image, channel: 0, handedness: handedness ?? 'openGl' }
        break
      case 'roughness':
        textures.specularRoughness = { image, channel: 0 }
        break
      case 'gloss':
        if (!has('roughness')) textures.specularRoughness = { image, channel: 0, inverted: true }
        break
      case 'metalness':
        textures.baseMetalness = { image, channel: 0 }
        break
      case 'orm':
        textures.ambientOcclusion ??= { image, channel: 0 }
        if (!has('roughness')) textures.specularRoughness = { image, channel: 1 }
        if (!has('metalness')) textures.baseMetalness = { image, channel: 2 }
        break
      case 'ambientOcclusion':
        textures.ambientOcclusion = { image, channel: 0 }
        break
      case 'height':
        textures.displacement = { image, channel: 0 }
        break
      case 'opacity':
        textures.geometryOpacity = { image, channel: 0 }
        break
      case 'emission':
        textures.emissionColor = { image, channel: 0 }
        break
      case 'translucency':
        textures.subsurfaceColor = { image, channel: 0 }
        break
      case 'specular':
        break
      default:
        role satisfies never
    }
  }
  return createMaterial(
    name,
    {
      specularRoughness: 0.5,
      ...constants,
      ...(textures.emissionColor ? { emissionLuminance: constants.emissionLuminance || EMISSION_WHITE_NITS } : {}),
    },
    { textures, tileSizeM, tiling },
  )
}
