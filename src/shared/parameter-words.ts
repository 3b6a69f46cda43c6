import type { ParameterName } from '#core/material/open-pbr'
import type { ParameterGroup } from '#core/material/parameter-ranges'

export const GROUP_WORDS: Record<ParameterGroup, string> = {
  base: 'Base',
  specular: 'Specular',
  transmission: 'Transmission',
  subsurface: 'Subsurface',
  coat: 'Coat',
  fuzz: 'Fuzz',
  thinFilm: 'Thin film',
  emission: 'Emission',
  opacity: 'Opacity',
}

export const PARAMETER_WORDS: Record<ParameterName, string> = {
  baseWeight: 'Base weight',
  baseColor: 'Base colour',
  baseDiffuseRoughness: 'Diffuse roughness',
  baseMetalness: 'Metalness',
  specularWeight: 'Specular weight',
  specularColor: 'Specular colour',
  specularRoughness: 'Roughness',
  specularRoughnessAnisotropy: 'Anisotropy',
  specularIor: 'Index of refraction',
  transmissionWeight: 'Transmission weight',
  transmissionColor: 'Transmission colour',
  transmissionDepth: 'Depth of that colour',
  transmissionDispersionScale: 'Dispersion',
  transmissionDispersionAbbeNumber: 'Abbe number',
  subsurfaceWeight: 'Subsurface weight',
  subsurfaceColor: 'Subsurface colour',
  subsurfaceRadius: 'Mean free path',
  subsurfaceRadiusScale: 'Free path by colour',
  subsurfaceScatterAnisotropy: 'Scattering forward',
  coatWeight: 'Coat weight',
  coatColor: 'Coat colour',
  coatRoughness: 'Coat roughness',
  coatIor: 'Coat index',
  coatDarkening: 'Coat darkening',
  fuzzWeight: 'Fuzz weight',
  fuzzColor: 'Fuzz colour',
  fuzzRoughness: 'Fuzz roughness',
  thinFilmWeight: 'Film weight',
  thinFilmThickness: 'Film thickness',
  thinFilmIor: 'Film index',
  emissionLuminance: 'Luminance',
  emissionColor: 'Emission colour',
  geometryOpacity: 'Opacity',
  geometryThinWalled: 'Thin-walled',
  geometryTangentRotation: 'Grain turned',
}

const SLOT_WORDS: Record<string, string> = { geometryNormal: 'Normal map', displacement: 'Height map' }

/** Name of a parameter or a map that a target does not carry. */
export const lostWord = (name: string): string => PARAMETER_WORDS[name as ParameterName] ?? SLOT_WORDS[name] ?? name
