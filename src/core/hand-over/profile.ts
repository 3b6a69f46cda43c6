import { parseNamePattern } from '../standard/name-pattern'
import type { Target } from '../standard/target-names'

/** How materials leave the house. */
export const MATERIAL_FORMS = ['materialX', 'gltf', 'usd', 'objMtl'] as const
export type MaterialForm = (typeof MATERIAL_FORMS)[number]

/** How models leave the house. */
export const MODEL_FORMS = ['gltf', 'usdz', 'obj'] as const
export type ModelForm = (typeof MODEL_FORMS)[number]

/** levels: with its levels of detail and its stand-in beside it; light: in its place the lightest that there is. */
export const MODEL_DETAILS = ['full', 'levels', 'light'] as const
export type ModelDetail = (typeof MODEL_DETAILS)[number]

export const SKY_FORMS = ['asStored', 'exr', 'hdr'] as const
export const MAP_FORMS = ['asStored', 'png', 'tiff', 'exr'] as const
export const NORMAL_DIRECTIONS = ['asStored', 'openGl', 'directX'] as const
export const ROUGHNESS_WAYS = ['asStored', 'roughness', 'gloss'] as const
/** packed: occlusion, roughness and metalness in red, green and blue of one picture. */
export const MAP_PACKINGS = ['asStored', 'apart', 'packed'] as const
export const COLOR_FILES = ['asStored', 'jpeg', 'png', 'tiff'] as const
/** Of what is no colour: normals, roughness, heights. */
export const DATA_FILES = ['asStored', 'png8', 'png16', 'tiff16', 'exr'] as const
export const LENGTH_UNITS = ['m', 'cm', 'mm'] as const
export type LengthUnit = (typeof LENGTH_UNITS)[number]
export const UP_AXES = ['y', 'z'] as const
export type UpAxis = (typeof UP_AXES)[number]
/** whiteCard: scaled so that a white horizontal card reads 1. */
export const SKY_EXPOSURES = ['asStored', 'whiteCard'] as const
/** ahead: turned so that the strongest light stands in the middle of the picture. */
export const SKY_HEADINGS = ['asStored', 'ahead'] as const

/** How one renderer of the house wants its files. Lengths of the picture sides in pixels. */
export interface Profile {
  materials: MaterialForm
  models: ModelForm
  modelDetail: ModelDetail
  environments: (typeof SKY_FORMS)[number]
  maps: (typeof MAP_FORMS)[number]
  /** Longest side of textures, and width of environments; null leaves them as they are. */
  maxSizePx: number | null
  /** The same within a category and below it, where it is another; what is nearest to an item wins. */
  sizes: { category: string; maxSizePx: number | null }[]
  normals: (typeof NORMAL_DIRECTIONS)[number]
  roughness: (typeof ROUGHNESS_WAYS)[number]
  packing: (typeof MAP_PACKINGS)[number]
  colorFiles: (typeof COLOR_FILES)[number]
  dataFiles: (typeof DATA_FILES)[number]
  /** Of OpenUSD and OBJ; glTF is always in metres with y up. */
  unit: LengthUnit
  upAxis: UpAxis
  skyExposure: (typeof SKY_EXPOSURES)[number]
  skyHeading: (typeof SKY_HEADINGS)[number]
  /** Patterns of facts, as names of items have them; `{code}` is in the first, `{code}` and `{map}` in the second. */
  folderName: string
  textureName: string
}

/** As the house hands over where nothing else is said: everything as it is kept. */
export const HOUSE_PROFILE: Profile = {
  materials: 'materialX',
  models: 'gltf',
  modelDetail: 'full',
  environments: 'asStored',
  maps: 'asStored',
  maxSizePx: null,
  sizes: [],
  normals: 'asStored',
  roughness: 'asStored',
  packing: 'asStored',
  colorFiles: 'asStored',
  dataFiles: 'asStored',
  unit: 'm',
  upAxis: 'y',
  skyExposure: 'asStored',
  skyHeading: 'asStored',
  folderName: '{code} {name} v{version}',
  textureName: '{code} {name} v{version} {map}',
}

/** The target whose measured fidelity says what a form of materials keeps. */
export const TARGET_OF_FORM: Record<MaterialForm, Target> = {
  materialX: 'materialX',
  gltf: 'gltf',
  usd: 'usdPreviewSurface',
  objMtl: 'objMtl',
}

/** What the pictures of a category may measure at most, in pixels a side; null leaves them. */
export function sizeFor({ maxSizePx, sizes }: Pick<Profile, 'maxSizePx' | 'sizes'>, category: string): number | null {
  const [nearest] = sizes
    .filter(s => category === s.category || category.startsWith(`${s.category}.`))
    .sort((a, b) => b.category.length - a.category.length)
  return nearest ? nearest.maxSizePx : maxSizePx
}

/** Why a pattern of file names cannot be taken, as a sentence; null when it can. */
export function findPatternProblem(pattern: string, needed: readonly string[]): string | null {
  const parsed = parseNamePattern(pattern)
  if ('problem' in parsed) return parsed.problem
  const named = new Set(parsed.parts.flatMap(part => (part.kind === 'fact' ? [part.fact] : [])))
  const absent = needed.find(fact => !named.has(fact))
  return absent ? `Without {${absent}}, outside of brackets, two files would have one name.` : null
}
