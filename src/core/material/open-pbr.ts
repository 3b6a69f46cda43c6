import type { Vec3 } from '../math/vec3'

/**
 * Parameters of OpenPBR Surface 1.1 (Academy Software Foundation), under its own names. Lengths in metres but for the film, which
 * is in micrometres; colours linear Rec.709. How the preview renderer draws them is told in render/surface.ts.
 */
export interface OpenPbrParameters {
  baseWeight: number
  baseColor: Vec3
  baseDiffuseRoughness: number
  baseMetalness: number
  specularWeight: number
  specularColor: Vec3
  specularRoughness: number
  specularRoughnessAnisotropy: number
  specularIor: number
  transmissionWeight: number
  transmissionColor: Vec3
  /** Distance at which white light has become `transmissionColor`; 0 tints at the surface instead. */
  transmissionDepth: number
  subsurfaceWeight: number
  subsurfaceColor: Vec3
  coatWeight: number
  coatColor: Vec3
  coatRoughness: number
  coatIor: number
  coatDarkening: number
  fuzzWeight: number
  fuzzColor: Vec3
  fuzzRoughness: number
  thinFilmWeight: number
  thinFilmThickness: number
  thinFilmIor: number
  emissionLuminance: number
  emissionColor: Vec3
  geometryOpacity: number
  geometryThinWalled: boolean
  /** Turn of the tangent about the normal, in whole turns: the grain of brushed metal. Stands for OpenPBR's geometry_tangent. */
  geometryTangentRotation: number
  /** Mean free path of light beneath the surface; 0, the default here and not in OpenPBR, is drawn as diffuse: nobody has measured it. */
  subsurfaceRadius: number
  /** Its share by colour. */
  subsurfaceRadiusScale: Vec3
  /** Mean cosine of the angle that a scattering turns light by. */
  subsurfaceScatterAnisotropy: number
  /** How strongly glass bends colours apart, 0 not at all; over the Abbe number. */
  transmissionDispersionScale: number
  transmissionDispersionAbbeNumber: number
}

/** The specification's defaults. */
export const OPEN_PBR_DEFAULTS: Readonly<OpenPbrParameters> = {
  baseWeight: 1,
  baseColor: [0.8, 0.8, 0.8],
  baseDiffuseRoughness: 0,
  baseMetalness: 0,
  specularWeight: 1,
  specularColor: [1, 1, 1],
  specularRoughness: 0.3,
  specularRoughnessAnisotropy: 0,
  specularIor: 1.5,
  transmissionWeight: 0,
  transmissionColor: [1, 1, 1],
  transmissionDepth: 0,
  subsurfaceWeight: 0,
  subsurfaceColor: [0.8, 0.8, 0.8],
  coatWeight: 0,
  coatColor: [1, 1, 1],
  coatRoughness: 0,
  coatIor: 1.6,
  coatDarkening: 1,
  fuzzWeight: 0,
  fuzzColor: [1, 1, 1],
  fuzzRoughness: 0.5,
  thinFilmWeight: 0,
  thinFilmThickness: 0.5,
  thinFilmIor: 1.4,
  emissionLuminance: 0,
  emissionColor: [1, 1, 1],
  geometryOpacity: 1,
  geometryThinWalled: false,
  geometryTangentRotation: 0,
  subsurfaceRadius: 0,
  subsurfaceRadiusScale: [1, 0.5, 0.25],
  subsurfaceScatterAnisotropy: 0,
  transmissionDispersionScale: 0,
  transmissionDispersionAbbeNumber: 20,
}

export type ParameterName = keyof OpenPbrParameters
export type ColorParameter = { [K in ParameterName]: OpenPbrParameters[K] extends Vec3 ? K : never }[ParameterName]
export type ScalarParameter = { [K in ParameterName]: OpenPbrParameters[K] extends number ? K : never }[ParameterName]

export const isColorParameter = (name: string): name is ColorParameter =>
  Array.isArray((OPEN_PBR_DEFAULTS as unknown as Record<string, unknown>)[name])

/** Any parameter may come from a texture; a normal map, a height map and occlusion stand beside them. */
export type TextureSlot = ColorParameter | ScalarParameter | 'geometryNormal' | 'displacement' | 'ambientOcclusion'

export interface TextureBinding {
  /** Index into the list of images that travels with the material. */
  image: number
  /** For single-value slots: which channel to read. */
  channel: 0 | 1 | 2 | 3
  /** The stored value v means 1 − v (a gloss map in the roughness slot). */
  inverted?: boolean
  /** For the normal slot: which way its green channel points. */
  handedness?: 'openGl' | 'directX'
}

export const TILINGS = ['repeat', 'once'] as const
export type Tiling = (typeof TILINGS)[number]

export interface OpenPbrMaterial {
  name: string
  parameters: OpenPbrParameters
  textures: Partial<Record<TextureSlot, TextureBinding>>
  /** Size of one repeat in metres; null when texture coordinates are used as they are. */
  tileSizeM: [number, number] | null
  /** Whether its pictures repeat beyond their edges, or stand once, their edges drawn out; they repeat without it. */
  tiling?: Tiling
  /** Height of white over black in the displacement map; null when nobody has said. */
  reliefM?: number | null
}

const RELIEF_SHARE = 0.01

/** Height of white over black in the displacement map, metres; a hundredth of the tile where nobody has said, as a plaster or a brick has. */
export function reliefOf({ reliefM, tileSizeM }: Pick<OpenPbrMaterial, 'reliefM' | 'tileSizeM'>): number {
  const [width, height] = tileSizeM ?? [1, 1]
  return reliefM ?? RELIEF_SHARE * Math.max(width, height)
}

/** Strength of dispersion as glTF has it: 20 over the Abbe number that glass is to have. */
export const dispersionOf = (p: OpenPbrParameters): number =>
  (DISPERSION_OF_ONE * p.transmissionDispersionScale) / Math.max(p.transmissionDispersionAbbeNumber, 1)
const DISPERSION_OF_ONE = 20

/** The parameters of glass with that strength; `undefined` for none. */
export const parametersOfDispersion = (
  dispersion: number | undefined,
): Partial<Pick<OpenPbrParameters, 'transmissionDispersionScale' | 'transmissionDispersionAbbeNumber'>> => {
  if (!dispersion || !(dispersion > 0)) return {}
  const scale = Math.min(1, dispersion)
  return { transmissionDispersionScale: scale, transmissionDispersionAbbeNumber: (DISPERSION_OF_ONE * scale) / dispersion }
}

/** Colour of a solid's diffuse light, that from beneath its surface included; linear. */
export const diffuseColorOf = ({ baseColor, subsurfaceColor, subsurfaceWeight, geometryThinWalled }: OpenPbrParameters): Vec3 =>
  geometryThinWalled ? baseColor : (baseColor.map((c, k) => c + (subsurfaceColor[k] - c) * subsurfaceWeight) as Vec3)

/** A material from the defaults and what differs; `undefined` never overrides a default. */
export function createMaterial(
  name: string,
  given: Partial<OpenPbrParameters> = {},
  rest: Partial<Pick<OpenPbrMaterial, 'textures' | 'tileSizeM' | 'tiling'>> = {},
): OpenPbrMaterial {
  const parameters = { ...OPEN_PBR_DEFAULTS }
  for (const [key, value] of Object.entries(given)) if (value !== undefined) Object.assign(parameters, { [key]: value })
  return {
    name,
    parameters,
    textures: rest.textures ?? {},
    tileSizeM: rest.tileSizeM ?? null,
    ...(rest.tiling === 'once' ? { tiling: rest.tiling } : {}),
  }
}
