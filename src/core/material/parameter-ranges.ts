import { type ColorParameter, isColorParameter, OPEN_PBR_DEFAULTS, type ScalarParameter } from './open-pbr'

/** Where a parameter's values lie: the specification's bounds, and for editing a span that covers what surfaces have. */
export interface ScalarRange {
  min: number
  /** Largest value that is taken. */
  max: number
  /** Largest value a slider reaches. */
  usual: number
  unit: '' | 'm' | 'µm' | 'cd/m²' | 'turns'
}

const share = { min: 0, max: 1, usual: 1, unit: '' } as const
const ior = { min: 1, max: 4, usual: 3, unit: '' } as const

export const SCALAR_RANGES: Record<ScalarParameter, ScalarRange> = {
  baseWeight: share,
  baseDiffuseRoughness: share,
  baseMetalness: share,
  specularWeight: share,
  specularRoughness: share,
  specularRoughnessAnisotropy: share,
  specularIor: ior,
  transmissionWeight: share,
  transmissionDepth: { min: 0, max: 1000, usual: 0.5, unit: 'm' },
  transmissionDispersionScale: share,
  transmissionDispersionAbbeNumber: { min: 9, max: 200, usual: 90, unit: '' },
  subsurfaceWeight: share,
  subsurfaceRadius: { min: 0, max: 10, usual: 0.02, unit: 'm' },
  subsurfaceScatterAnisotropy: { min: 0, max: 0.95, usual: 0.95, unit: '' },
  coatWeight: share,
  coatRoughness: share,
  coatIor: ior,
  coatDarkening: share,
  fuzzWeight: share,
  fuzzRoughness: share,
  thinFilmWeight: share,
  thinFilmThickness: { min: 0, max: 10, usual: 1, unit: 'µm' },
  thinFilmIor: ior,
  emissionLuminance: { min: 0, max: 1e6, usual: 2000, unit: 'cd/m²' },
  geometryOpacity: share,
  geometryTangentRotation: { min: 0, max: 1, usual: 1, unit: 'turns' },
}

/** Parameters in the order of the layers they belong to. */
export const PARAMETER_GROUPS = {
  base: ['baseColor', 'baseWeight', 'baseDiffuseRoughness', 'baseMetalness'],
  specular: [
    'specularWeight',
    'specularColor',
    'specularRoughness',
    'specularRoughnessAnisotropy',
    'geometryTangentRotation',
    'specularIor',
  ],
  transmission: [
    'transmissionWeight',
    'transmissionColor',
    'transmissionDepth',
    'transmissionDispersionScale',
    'transmissionDispersionAbbeNumber',
    'geometryThinWalled',
  ],
  subsurface: ['subsurfaceWeight', 'subsurfaceColor', 'subsurfaceRadius', 'subsurfaceRadiusScale', 'subsurfaceScatterAnisotropy'],
  coat: ['coatWeight', 'coatColor', 'coatRoughness', 'coatIor', 'coatDarkening'],
  fuzz: ['fuzzWeight', 'fuzzColor', 'fuzzRoughness'],
  thinFilm: ['thinFilmWeight', 'thinFilmThickness', 'thinFilmIor'],
  emission: ['emissionLuminance', 'emissionColor'],
  opacity: ['geometryOpacity'],
} as const satisfies Record<string, readonly (keyof typeof OPEN_PBR_DEFAULTS)[]>
export type ParameterGroup = keyof typeof PARAMETER_GROUPS

export const COLOR_PARAMETERS = Object.keys(OPEN_PBR_DEFAULTS).filter(isColorParameter) as ColorParameter[]
