import { EMISSION_WHITE_NITS } from '../../material/emission'
import { OPEN_PBR_DEFAULTS, type OpenPbrParameters, type ParameterName } from '../../material/open-pbr'
import type { Vec3 } from '../../math/vec3'

/** What an input of a surface means here: a parameter, or a map that stands beside them. */
export type InputMeaning = ParameterName | 'normal' | 'height' | 'occlusion' | 'emissionStrength'

export interface SurfaceInput {
  to: InputMeaning
  /** From the input's numbers to the parameter's; as they are without it. */
  by?: (values: number[]) => number[]
}

export interface SurfaceModel {
  inputs: Readonly<Record<string, SurfaceInput>>
  /** What follows from several of them, in place. */
  finish: (parameters: Partial<OpenPbrParameters>) => void
}

type Parameters = Partial<OpenPbrParameters>

const nothingMore = (): void => {}
const mean = (values: number[]): number[] => [values.slice(0, 3).reduce((sum, v) => sum + v, 0) / Math.min(3, values.length)]
const nmToMicrometres = ([v]: number[]): number[] => [v / 1000]
const weightToNits = ([v]: number[]): number[] => [v * EMISSION_WHITE_NITS]

/** Our parameters are OpenPBR's own inputs, in camel case. */
const toInputName = (parameter: string): string => parameter.replace(/[A-Z0-9]+/g, m => `_${m.toLowerCase()}`)

const OPEN_PBR: SurfaceModel = {
  inputs: {
    ...Object.fromEntries(Object.keys(OPEN_PBR_DEFAULTS).map(name => [toInputName(name), { to: name as ParameterName }])),
    geometry_normal: { to: 'normal' },
  },
  finish: nothingMore,
}

/** Source: I. Georgiev et al., "Autodesk Standard Surface", 2019; where its defaults differ from OpenPBR's they are set. */
const STANDARD_SURFACE: SurfaceModel = {
  inputs: {
    base: { to: 'baseWeight' },
    base_color: { to: 'baseColor' },
    diffuse_roughness: { to: 'baseDiffuseRoughness' },
    metalness: { to: 'baseMetalness' },
    specular: { to: 'specularWeight' },
    specular_color: { to: 'specularColor' },
    specular_roughness: { to: 'specularRoughness' },
    specular_IOR: { to: 'specularIor' },
    specular_anisotropy: { to: 'specularRoughnessAnisotropy' },
    specular_rotation: { to: 'geometryTangentRotation' },
    transmission: { to: 'transmissionWeight' },
    transmission_color: { to: 'transmissionColor' },
    transmission_depth: { to: 'transmissionDepth' },
    subsurface: { to: 'subsurfaceWeight' },
    subsurface_color: { to: 'subsurfaceColor' },
    subsurface_radius: { to: 'subsurfaceRadiusScale' },
    subsurface_scale: { to: 'subsurfaceRadius' },
    subsurface_anisotropy: { to: 'subsurfaceScatterAnisotropy' },
    transmission_dispersion: { to: 'transmissionDispersionAbbeNumber' },
    sheen: { to: 'fuzzWeight' },
    sheen_color: { to: 'fuzzColor' },
    sheen_roughness: { to: 'fuzzRoughness' },
    coat: { to: 'coatWeight' },
    coat_color: { to: 'coatColor' },
    coat_roughness: { to: 'coatRoughness' },
    coat_IOR: { to: 'coatIor' },
    thin_film_thickness: { to: 'thinFilmThickness', by: nmToMicrometres },
    thin_film_IOR: { to: 'thinFilmIor' },
    emission: { to: 'emissionLuminance', by: weightToNits },
    emission_color: { to: 'emissionColor' },
    opacity: { to: 'geometryOpacity', by: mean },
    thin_walled: { to: 'geometryThinWalled' },
    normal: { to: 'normal' },
  },
  finish(parameters) {
    setWhereMissing(parameters, { specularRoughness: 0.2, coatRoughness: 0.1, coatIor: 1.5, fuzzRoughness: 0.3 })
    // Its coat does not darken what is below it.
    if ((parameters.coatWeight ?? 0) > 0) setWhereMissing(parameters, { coatDarkening: 0 })
    if ((parameters.thinFilmThickness ?? 0) > 0) parameters.thinFilmWeight = 1
    // An Abbe number, and none at all where it is 0.
    if ((parameters.transmissionDispersionAbbeNumber ?? 0) > 0) parameters.transmissionDispersionScale = 1
    else delete parameters.transmissionDispersionAbbeNumber
    // A free path by colour alone is one of so many metres.
    if (parameters.subsurfaceRadiusScale) parameters.subsurfaceRadius ??= 1
    takeLongestOut(parameters)
  },
}

/** Source: Khronos Group, glTF 2.0 with its material extensions, as the MaterialX node gltf_pbr has them. */
const GLTF_PBR: SurfaceModel = {
  inputs: {
    base_color: { to: 'baseColor' },
    metallic: { to: 'baseMetalness' },
    roughness: { to: 'specularRoughness' },
    normal: { to: 'normal' },
    occlusion: { to: 'occlusion' },
    transmission: { to: 'transmissionWeight' },
    specular: { to: 'specularWeight' },
    specular_color: { to: 'specularColor' },
    ior: { to: 'specularIor' },
    alpha: { to: 'geometryOpacity' },
    iridescence: { to: 'thinFilmWeight' },
    iridescence_ior: { to: 'thinFilmIor' },
    iridescence_thickness: { to: 'thinFilmThickness', by: nmToMicrometres },
    sheen_color: { to: 'fuzzColor' },
    sheen_roughness: { to: 'fuzzRoughness' },
    clearcoat: { to: 'coatWeight' },
    clearcoat_roughness: { to: 'coatRoughness' },
    emissive: { to: 'emissionColor' },
    emissive_strength: { to: 'emissionLuminance', by: weightToNits },
    attenuation_distance: { to: 'transmissionDepth' },
    attenuation_color: { to: 'transmissionColor' },
  },
  finish(parameters) {
    // What the form holds as one where nothing is given.
    setWhereMissing(parameters, { baseMetalness: 1, specularRoughness: 1, coatIor: 1.5 })
    splitColor(parameters, 'fuzzColor', 'fuzzWeight', 1)
    splitEmission(parameters)
  },
}

/** Source: Pixar, "USD Preview Surface", 2.6. */
const USD_PREVIEW: SurfaceModel = {
  inputs: {
    diffuseColor: { to: 'baseColor' },
    metallic: { to: 'baseMetalness' },
    roughness: { to: 'specularRoughness' },
    clearcoat: { to: 'coatWeight' },
    clearcoatRoughness: { to: 'coatRoughness' },
    opacity: { to: 'geometryOpacity' },
    ior: { to: 'specularIor' },
    emissiveColor: { to: 'emissionColor' },
    normal: { to: 'normal' },
    displacement: { to: 'height' },
    occlusion: { to: 'occlusion' },
  },
  finish(parameters) {
    setWhereMissing(parameters, { baseColor: [0.18, 0.18, 0.18], specularRoughness: 0.5, coatIor: 1.5 })
    splitEmission(parameters)
  },
}

const MODELS: Record<string, SurfaceModel> = {
  open_pbr_surface: OPEN_PBR,
  standard_surface: STANDARD_SURFACE,
  gltf_pbr: GLTF_PBR,
  UsdPreviewSurface: USD_PREVIEW,
}

export const findSurfaceModel = (category: string): SurfaceModel | null => MODELS[category] ?? null

/** Free paths by colour as the longest of them and shares of it. */
function takeLongestOut(parameters: Parameters): void {
  const paths = parameters.subsurfaceRadiusScale
  const longest = Math.max(...(paths ?? [0]))
  if (!paths || !(longest > 0)) return
  parameters.subsurfaceRadius = (parameters.subsurfaceRadius ?? 0) * longest
  parameters.subsurfaceRadiusScale = paths.map(v => v / longest) as Vec3
}

function setWhereMissing(parameters: Parameters, given: Parameters): void {
  for (const [name, value] of Object.entries(given)) if (!(name in parameters)) Object.assign(parameters, { [name]: value })
}

/** A colour that is its own weight becomes a colour at its brightest and the weight beside it. */
function splitColor(
  parameters: Parameters,
  color: 'fuzzColor' | 'emissionColor',
  weight: 'fuzzWeight' | 'emissionLuminance',
  unit: number,
): void {
  const given = parameters[color]
  if (!given) return
  const peak = Math.max(...given)
  parameters[weight] = peak * unit
  if (peak > 0) parameters[color] = given.map(v => v / peak) as Vec3
  else delete parameters[color]
}

function splitEmission(parameters: Parameters): void {
  const strength = parameters.emissionLuminance ?? EMISSION_WHITE_NITS
  if (parameters.emissionColor) splitColor(parameters, 'emissionColor', 'emissionLuminance', strength)
  else delete parameters.emissionLuminance
}
