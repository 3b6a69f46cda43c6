import { Document } from '@gltf-transform/core'
import { readGltfMaterial } from '../geometry/read-gltf'
import {
  createMaterial,
  dispersionOf,
  OPEN_PBR_DEFAULTS,
  type OpenPbrMaterial,
  type OpenPbrParameters,
  type ParameterName,
  type TextureSlot,
} from '../material/open-pbr'
import type { Target } from '../standard/target-names'
import { addGltfMaterial, type GltfTextures, readGltfBinary, writeGltfBinary } from './gltf'
import { parseMaterialX } from './materialx/read-materialx'
import { MATERIALX_SLOTS, writeMaterialX } from './materialx/write-materialx'
import { MTL_SLOTS, parseMtl, writeMtl } from './obj-mtl'
import { parseUsdPreviewSurface, USD_SLOTS, writeUsdPreviewSurface } from './usd/usd-preview-surface'

export interface ThroughTarget {
  /** The material as a reader of the target gets it. */
  material: OpenPbrMaterial
  /** Parameters that changed on the way, and textures that did not come along. */
  lost: (ParameterName | TextureSlot)[]
}

const GLTF_SLOTS: ReadonlySet<TextureSlot> = new Set([
  'baseColor',
  'baseMetalness',
  'specularRoughness',
  'geometryNormal',
  'geometryOpacity',
  'emissionColor',
])

/** Writes the material in the target's own form, reads that again, and tells what became of it. */
export async function passThroughTarget(source: OpenPbrMaterial, target: Target): Promise<ThroughTarget> {
  const files = new Map(Object.values(source.textures).map(b => [b!.image, `map-${b!.image}.png`]))
  switch (target) {
    case 'gltf':
      return compare(source, (await throughGltf(source)).parameters, GLTF_SLOTS)
    case 'materialX':
      return compare(source, parseMaterialX(writeMaterialX(source, files)).parameters, MATERIALX_SLOTS)
    case 'usdPreviewSurface':
      return compare(source, parseUsdPreviewSurface(writeUsdPreviewSurface(source, files)), USD_SLOTS)
    case 'objMtl':
      return compare(source, parseMtl(writeMtl(source, files)), MTL_SLOTS)
    default:
      return target satisfies never
  }
}

/** A pixel, for the places where a texture stands: what it shows does not matter to the parameters. */
const PIXEL = Uint8Array.from([0x89, 0x50, 0x4e, 0x47])

async function throughGltf(source: OpenPbrMaterial): Promise<OpenPbrMaterial> {
  const picture = { name: 'map', mediaType: 'image/png', bytes: PIXEL }
  const textures: GltfTextures = {
    baseColor: source.textures.baseColor ? picture : undefined,
    roughnessMetalness: source.textures.specularRoughness || source.textures.baseMetalness ? picture : undefined,
    normal: source.textures.geometryNormal ? picture : undefined,
    emission: source.textures.emissionColor ? picture : undefined,
  }
  const document = new Document()
  document.createBuffer()
  addGltfMaterial(document, source, textures)
  const read = await readGltfBinary(await writeGltfBinary(document))
  const material = readGltfMaterial(read.getRoot().listMaterials()[0], t => (t ? 0 : -1))
  if (textures.roughnessMetalness) {
    // Both share one picture: where only one has a map, the writer puts the other's figure into its channel.
    const { baseMetalness, specularRoughness } = source.parameters
    if (!source.textures.baseMetalness) material.parameters.baseMetalness = baseMetalness
    if (!source.textures.specularRoughness) material.parameters.specularRoughness = specularRoughness
  }
  return material
}

const TOLERANCE = 1e-3
/** Weights that switch a whole layer off, and the parameters that then do not matter. */
const LAYERS: [ParameterName, RegExp][] = [
  ['coatWeight', /^coat/],
  ['fuzzWeight', /^fuzz/],
  ['thinFilmWeight', /^thinFilm/],
  ['transmissionWeight', /^transmission/],
  ['subsurfaceWeight', /^subsurface/],
  ['emissionLuminance', /^emission/],
]

function compare(source: OpenPbrMaterial, read: Partial<OpenPbrParameters>, slots: ReadonlySet<TextureSlot>): ThroughTarget {
  const textures: OpenPbrMaterial['textures'] = {}
  const lost: ThroughTarget['lost'] = []
  for (const [slot, binding] of Object.entries(source.textures) as [TextureSlot, never][]) {
    // Occlusion is baked shadow: no renderer of ours reads it, and its loss is none.
    if (slot === 'ambientOcclusion') continue
    if (slots.has(slot)) textures[slot] = binding
    else lost.push(slot)
  }
  // What a map gives is not the constant's business.
  const given = Object.fromEntries(Object.entries(read).filter(([name]) => !(name in textures))) as Partial<OpenPbrParameters>
  const kept = createMaterial(source.name, given, { textures, tileSizeM: source.tileSizeM })
  for (const name in textures) Object.assign(kept.parameters, { [name]: source.parameters[name as ParameterName] })
  if (textures.emissionColor) kept.parameters.emissionLuminance = source.parameters.emissionLuminance
  kept.reliefM = source.reliefM
  for (const name of Object.keys(OPEN_PBR_DEFAULTS) as ParameterName[]) {
    if (name in source.textures) continue
    if (LAYERS.some(([weight, names]) => names.test(name) && source.parameters[weight] === 0 && kept.parameters[weight] === 0))
      continue
    if (name === 'geometryTangentRotation' && source.parameters.specularRoughnessAnisotropy === 0) continue
    // Two figures say one thing.
    if (/^transmissionDispersion/.test(name) && isSame(dispersionOf(source.parameters), dispersionOf(kept.parameters))) continue
    if (!isSame(source.parameters[name], kept.parameters[name])) lost.push(name)
  }
  return { material: kept, lost }
}

const isSame = (a: number | boolean | readonly number[], b: number | boolean | readonly number[]): boolean =>
  Array.isArray(a) && Array.isArray(b)
    ? a.every((v, k) => Math.abs(v - b[k]) <= TOLERANCE)
    : typeof a === 'number' && typeof b === 'number'
      ? Math.abs(a - b) <= TOLERANCE * Math.max(1, Math.abs(a))
      : a === b
