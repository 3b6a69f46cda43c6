import type { Profile } from '#core/hand-over/profile'

type Words<K extends keyof Profile> = Record<Extract<Profile[K], string>, string>

export const MATERIAL_FORM_WORDS: Words<'materials'> = {
  materialX: 'MaterialX and textures',
  gltf: 'glTF sample patches',
  usd: 'OpenUSD sample patches',
  objMtl: 'OBJ / MTL sample patches',
}

export const MODEL_FORM_WORDS: Words<'models'> = {
  gltf: 'binary glTF',
  usdz: 'OpenUSD packages',
  obj: 'OBJ / MTL',
}

export const MODEL_DETAIL_WORDS: Words<'modelDetail'> = {
  full: 'full, alone',
  levels: 'full, with lighter ones beside it',
  light: 'the lightest that there is',
}

export const SKY_FORM_WORDS: Words<'environments'> = {
  asStored: 'as they are kept',
  exr: 'OpenEXR',
  hdr: 'Radiance HDR',
}

export const MAP_FORM_WORDS: Words<'maps'> = {
  asStored: 'as they are kept',
  png: 'PNG',
  tiff: 'TIFF',
  exr: 'OpenEXR',
}

export const NORMAL_WORDS: Words<'normals'> = {
  asStored: 'as they are kept',
  openGl: 'green up',
  directX: 'green down',
}

export const ROUGHNESS_WORDS: Words<'roughness'> = {
  asStored: 'as it is kept',
  roughness: 'roughness',
  gloss: 'gloss',
}

export const PACKING_WORDS: Words<'packing'> = {
  asStored: 'as they are kept',
  apart: 'each in a picture of its own',
  packed: 'packed in red, green, blue',
}

export const COLOR_FILE_WORDS: Words<'colorFiles'> = {
  asStored: 'as they are kept',
  jpeg: 'JPEG',
  png: 'PNG',
  tiff: 'TIFF',
}

export const DATA_FILE_WORDS: Words<'dataFiles'> = {
  asStored: 'as they are kept',
  png8: 'PNG, 8 bits',
  png16: 'PNG, 16 bits',
  tiff16: 'TIFF, 16 bits',
  exr: 'OpenEXR',
}

export const UNIT_WORDS: Words<'unit'> = { m: 'metres', cm: 'centimetres', mm: 'millimetres' }
export const UP_WORDS: Words<'upAxis'> = { y: 'y up', z: 'z up' }
export const EXPOSURE_WORDS: Words<'skyExposure'> = {
  asStored: 'as they are kept',
  whiteCard: 'a white card reads 1',
}
export const HEADING_WORDS: Words<'skyHeading'> = {
  asStored: 'as they are kept',
  ahead: 'strongest light ahead',
}

export const sizeWord = (px: number | null): string => (px === null ? 'full size' : `${px} px`)

/** A profile in a line: the forms, then what is not as it is kept. */
export function summarizeProfile(profile: Profile): string {
  const parts = [MATERIAL_FORM_WORDS[profile.materials], `models as ${MODEL_FORM_WORDS[profile.models]}`]
  if (profile.materials !== 'gltf') {
    if (profile.normals !== 'asStored') parts.push(`normals ${NORMAL_WORDS[profile.normals]}`)
    if (profile.roughness !== 'asStored') parts.push(ROUGHNESS_WORDS[profile.roughness])
    if (profile.packing !== 'asStored') parts.push(`maps ${profile.packing === 'packed' ? 'packed' : 'apart'}`)
    if (profile.dataFiles !== 'asStored') parts.push(`data ${DATA_FILE_WORDS[profile.dataFiles]}`)
  }
  if (profile.colorFiles !== 'asStored') parts.push(`colour ${COLOR_FILE_WORDS[profile.colorFiles]}`)
  if (usesSpace(profile)) parts.push(`${UNIT_WORDS[profile.unit]}, ${UP_WORDS[profile.upAxis]}`)
  if (profile.modelDetail !== 'full') parts.push(`models ${MODEL_DETAIL_WORDS[profile.modelDetail]}`)
  if (profile.environments !== 'asStored') parts.push(`skies ${SKY_FORM_WORDS[profile.environments]}`)
  if (profile.skyExposure !== 'asStored') parts.push(EXPOSURE_WORDS[profile.skyExposure])
  if (profile.skyHeading !== 'asStored') parts.push(HEADING_WORDS[profile.skyHeading])
  if (profile.maps !== 'asStored') parts.push(`single maps ${MAP_FORM_WORDS[profile.maps]}`)
  parts.push(profile.sizes.length > 0 ? `${sizeWord(profile.maxSizePx)}, other by category` : sizeWord(profile.maxSizePx))
  return parts.join(' · ')
}

/** Whether anything of it says what it counts in; glTF always counts in metres with y up. */
export const usesSpace = ({ materials, models }: Pick<Profile, 'materials' | 'models'>): boolean =>
  models !== 'gltf' || materials === 'usd' || materials === 'objMtl'
