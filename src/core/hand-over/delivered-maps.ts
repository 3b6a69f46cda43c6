import type { TextureSlot } from '../material/open-pbr'
import type { MapRole } from '../material/texture-set'

/** Maps of a material as they are called where they leave the house, and where a material has them. */
export const DELIVERED_MAPS = {
  baseColor: 'baseColor',
  normal: 'geometryNormal',
  roughness: 'specularRoughness',
  metalness: 'baseMetalness',
  opacity: 'geometryOpacity',
  emission: 'emissionColor',
  translucency: 'subsurfaceColor',
  height: 'displacement',
  occlusion: 'ambientOcclusion',
} as const satisfies Record<string, TextureSlot>
export type DeliveredMap = keyof typeof DELIVERED_MAPS
export const DELIVERED_MAP_NAMES = Object.keys(DELIVERED_MAPS) as [DeliveredMap, ...DeliveredMap[]]

const OF_ROLE: Partial<Record<MapRole, readonly DeliveredMap[]>> = {
  baseColor: ['baseColor'],
  normal: ['normal'],
  roughness: ['roughness'],
  gloss: ['roughness'],
  metalness: ['metalness'],
  ambientOcclusion: ['occlusion'],
  height: ['height'],
  opacity: ['opacity'],
  emission: ['emission'],
  translucency: ['translucency'],
  orm: ['occlusion', 'roughness', 'metalness'],
}

/** The maps that files of these roles hold, each once, in the order above. */
export function mapsOfRoles(roles: readonly string[]): DeliveredMap[] {
  const held = new Set(roles.flatMap(role => OF_ROLE[role as MapRole] ?? []))
  return DELIVERED_MAP_NAMES.filter(map => held.has(map))
}
