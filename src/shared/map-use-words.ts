import type { MapUse } from '#core/map/map-use'

/** What a map is for, as it is said. */
export const MAP_USE_WORDS: Readonly<Record<MapUse, string>> = {
  mask: 'mask',
  grunge: 'wear',
  stamp: 'stamp',
  decal: 'decal',
  pattern: 'pattern',
  gradient: 'gradient',
  color: 'picture',
}
