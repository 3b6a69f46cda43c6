import type { Rig, Stage } from '#core/render/rigs/rig'
import type { PictureFormat } from '#shared/contracts/compare.contract'

export const STAGE_WORDS: Record<Stage, string> = {
  materialSheet: 'Bent sheet with a cup',
  cloth: 'Cloth over a stand',
  vessel: 'Vessel of it, with water',
  content: 'Clear vessel filled with it',
  closeUp: 'Close-up, 160 mm wide',
  wall: 'Wall, 3 x 3 m',
  subject: 'The whole model',
  leaf: 'One leaf of it',
  wallWash: 'A light before a wall',
  panorama: 'Panorama with three balls',
  lightBay: 'Luminaire in a bay',
  flat: 'Laid flat, with its texels',
}

export const FRAMING_WORDS: Record<Rig['camera']['framing'], string> = {
  shorterSide: "the frame's shorter side",
  fill: 'the side it reaches first',
}

/** Name of a file format, and what its values are. */
export const FORMAT_WORDS: Record<PictureFormat, [string, string]> = {
  png: ['PNG', 'for display'],
  webp: ['WebP', 'for display'],
  jpeg: ['JPEG', 'for display'],
  pngP3: ['PNG, Display P3', 'for display'],
  png16: ['PNG, 16 bits', 'for display'],
  tiff16: ['TIFF, 16 bits', 'for display'],
  exr: ['OpenEXR', 'linear'],
  hdr: ['Radiance HDR', 'linear'],
}
