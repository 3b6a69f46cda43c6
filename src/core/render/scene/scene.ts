import type { Mesh } from '../../geometry/mesh'
import type { ByteImage } from '../../image/image'
import {
  type ColorParameter,
  isColorParameter,
  OPEN_PBR_DEFAULTS,
  type OpenPbrMaterial,
  type OpenPbrParameters,
  type ScalarParameter,
  type TextureBinding,
  type TextureSlot,
} from '../../material/open-pbr'
import { type Affine, IDENTITY, invertAffine } from '../../math/affine'
import type { Lamp } from './lamp'
import type { RayCaster } from './ray-caster'
import { type Placement, SimdCaster, TINTED, type TriangleRange } from './simd-caster'
import { createMipTexture, type MipTexture, readTexture } from './texture'
import type { TreeCache } from './tree-cache'

export interface TextureRead {
  texture: MipTexture
  binding: TextureBinding
}

export interface SceneMaterial {
  source: OpenPbrMaterial
  /** The parameters at the place read last: constants, and over them what the textures said. Written by the surface reader. */
  live: OpenPbrParameters
  /** Parameters that come from a texture. */
  colors: (TextureRead & { name: ColorParameter })[]
  scalars: (TextureRead & { name: ScalarParameter })[]
  normal: TextureRead | null
  /** Only where there is no normal map: the surface is bent by the slope of its heights. */
  height: TextureRead | null
  opacity: TextureRead | null
  /** Texture repeats per unit of the mesh's texture coordinates. */
  scaleU: number
  scaleV: number
}

/** A thing to draw: a mesh whose texture coordinates are in metres when its material has a tile size. */
export interface SceneObject {
  mesh: Mesh
  material: OpenPbrMaterial
  images: readonly ByteImage[]
}

/** Things that are kept once and drawn wherever they are placed. */
export interface PlacedObjects {
  objects: readonly SceneObject[]
  placements: readonly Affine[]
}

/** Everything the integrator reads, flat. Index t is a triangle; those of placed things lie in their own space. */
export interface Scene {
  caster: RayCaster
  /** What a hit's placement refers to; and their maps back, where there are any. */
  placements: readonly Placement[]
  backOf: readonly Affine[]
  triangleCount: number
  /** 9 per triangle. */
  positions: Float32Array
  /** 9 per triangle. */
  normals: Float32Array
  /** 6 per triangle. */
  uvs: Float32Array
  materialOf: Uint16Array
  /** Texture repeats per metre: root of uv area over surface area. */
  uvDensity: Float32Array
  materials: SceneMaterial[]
  lamps: readonly Lamp[]
}

/**
 * Glass bends no light on its way to or from something diffuse: that passes straight through, less what is reflected and absorbed (see
 * integrator/clear-light.ts). Traced truly, such light is found by chance only, as fireflies over a black shadow.
 */
export const letsLightThrough = (material: OpenPbrMaterial): boolean =>
  material.parameters.transmissionWeight > 0.5 && material.parameters.baseMetalness < 0.5

/**
 * Whether glass takes off so much of the light that goes straight through it that it is looked for. Of clear glass what is reflected and
 * what is bent aside is neither lost nor gathered: the light arrives as if the glass were not there.
 */
export function tintsLight({ parameters }: OpenPbrMaterial): boolean {
  const { transmissionColor, transmissionDepth, geometryThinWalled } = parameters
  const lowest = Math.min(...transmissionColor)
  if (geometryThinWalled || !(transmissionDepth > 0)) return lowest < LEAST_TINT
  return Math.max(lowest, 1e-4) ** (TYPICAL_WALL_M / transmissionDepth) < LEAST_TINT
}
const LEAST_TINT = 0.95
const TYPICAL_WALL_M = 0.01

/** Mip levels by image, so that scenes of the same images need not make them again. */
export type MipCache = Map<ByteImage, MipTexture>

/**
 * What the integrator reads: all triangles of all objects in one flat list, with a hierarchy over them. Parameters out of their range
 * are taken as the nearest sound ones; holes are those of opacity under one half.
 * @param objects in metres, y up; texture coordinates in metres where the material has a tile size, else in repeats
 * @param mipCache kept by whoever renders the same pictures again
 * @param lamps lights of the objects' own; the light around comes with the rendering
 * @param placed what is drawn more than once, in metres of its own space
 * @param trees of the placed things, kept by whoever puts the same meshes together again
 */
export function createScene(
  loose: readonly SceneObject[],
  mipCache: MipCache = new Map(),
  lamps: readonly Lamp[] = [],
  placed: readonly PlacedObjects[] = [],
  trees?: TreeCache,
): Scene {
  const objects = [...loose, ...placed.flatMap(p => p.objects)]
  const triangleCount = objects.reduce((sum, o) => sum + o.mesh.indices.length / 3, 0)
  const positions = new Float32Array(triangleCount * 9)
  const normals = new Float32Array(triangleCount * 9)
  const uvs = new Float32Array(triangleCount * 6)
  const materialOf = new Uint16Array(triangleCount)
  const uvDensity = new Float32Array(triangleCount)
  const materials: SceneMaterial[] = []
  const masked = new Uint8Array(triangleCount)
  const clear = new Uint8Array(triangleCount)
  let t = 0
  for (const { mesh, material, images } of objects) {
    const compiled = compileMaterial(withSoundParameters(material), images, mipCache)
    const index = materials.push(compiled) - 1
    const isCut = hasHoles(compiled)
    const clearness = clearnessOf(material)
    for (let i = 0; i < mesh.indices.length; i += 3, t++) {
      for (let c = 0; c < 3; c++) {
        const v = mesh.indices[i + c]
        for (let k = 0; k < 3; k++) {
          positions[t * 9 + c * 3 + k] = mesh.positions[v * 3 + k]
          normals[t * 9 + c * 3 + k] = mesh.normals[v * 3 + k]
        }
        uvs[t * 6 + c * 2] = mesh.uvs[v * 2] * compiled.scaleU
        uvs[t * 6 + c * 2 + 1] = mesh.uvs[v * 2 + 1] * compiled.scaleV
      }
      materialOf[t] = index
      masked[t] = isCut ? 1 : 0
      clear[t] = clearness
      uvDensity[t] = measureUvDensity(positions, uvs, t)
    }
  }
  const scratch = new Float64Array(4)
  const accept = (triangle: number, u: number, v: number): boolean => {
    const { opacity: slot, source } = materials[materialOf[triangle]]
    if (!slot) return source.parameters.geometryOpacity >= 0.5
    const at = triangle * 6
    const w = 1 - u - v
    readTexture(
      slot.texture,
      uvs[at] * w + uvs[at + 2] * u + uvs[at + 4] * v,
      uvs[at + 1] * w + uvs[at + 3] * u + uvs[at + 5] * v,
      0,
      scratch,
    )
    return scratch[slot.binding.channel] >= 0.5
  }
  const placements = placed.flatMap(({ placements }, shape) => placements.map(toWorld => ({ shape, toWorld })))
  const shapes = rangesOf(loose, placed, materials)
  const caster = SimdCaster.build({ positions, masked, accept, clear, shapes, trees }, placements)
  const backOf = mapsBack(placements)
  return { caster, placements, backOf, triangleCount, positions, normals, uvs, materialOf, uvDensity, materials, lamps }
}

/**
 * The same triangles in other materials, without building anything anew: null where the materials cut them otherwise, let light through
 * otherwise, or repeat their pictures at another size.
 * @param materials one for each object, in the order of the scene
 */
export function withMaterials(
  scene: Scene,
  materials: readonly { material: OpenPbrMaterial; images: readonly ByteImage[] }[],
  mipCache: MipCache,
): Scene | null {
  if (materials.length !== scene.materials.length) return null
  const compiled = materials.map(({ material, images }) => compileMaterial(withSoundParameters(material), images, mipCache))
  const isSame = compiled.every((own, i) => {
    const before = scene.materials[i]
    return (
      own.scaleU === before.scaleU &&
      own.scaleV === before.scaleV &&
      hasHoles(own) === hasHoles(before) &&
      letsLightThrough(own.source) === letsLightThrough(before.source) &&
      tintsLight(own.source) === tintsLight(before.source)
    )
  })
  return isSame ? { ...scene, materials: compiled } : null
}

/** Puts the placed things of a scene elsewhere, without building anything but the tree over them anew. */
export function placeElsewhere(scene: Scene, placements: readonly Placement[]): void {
  if (scene.caster instanceof SimdCaster) scene.caster.place(placements)
  scene.placements = placements
  scene.backOf = mapsBack(placements)
}

const mapsBack = (placements: readonly Placement[]): Affine[] => placements.map(p => invertAffine(p.toWorld) ?? IDENTITY)

const hasHoles = ({ opacity, source }: SceneMaterial): boolean => opacity !== null || source.parameters.geometryOpacity < 1

/** As {@link SimdCaster} wants to know of a triangle. */
const clearnessOf = (material: OpenPbrMaterial): number => (!letsLightThrough(material) ? 0 : tintsLight(material) ? TINTED : 1)

/** Which triangles belong to which of the placed things. */
function rangesOf(
  loose: readonly SceneObject[],
  placed: readonly PlacedObjects[],
  materials: readonly SceneMaterial[],
): TriangleRange[] {
  const countOf = (objects: readonly SceneObject[]) => objects.reduce((sum, o) => sum + o.mesh.indices.length / 3, 0)
  let first = countOf(loose)
  let number = loose.length
  return placed.map(({ objects }) => {
    const parts = objects.map(({ mesh, material }) => ({
      mesh,
      flags: clearnessOf(material) * 2 + (hasHoles(materials[number++]) ? 1 : 0),
    }))
    const range = { first, count: countOf(objects), parts }
    first += range.count
    return range
  })
}

/** What is no number, or no colour a surface can have, becomes the nearest thing that is: a broken file gives a picture all the same. */
function withSoundParameters(material: OpenPbrMaterial): OpenPbrMaterial {
  const parameters = { ...material.parameters }
  const fallback = OPEN_PBR_DEFAULTS as unknown as Record<string, number | number[] | boolean>
  const clamp = (v: number, or: number) => Math.min(Math.max(Number.isFinite(v) ? v : or, 0), MAX_PARAMETER)
  for (const [key, value] of Object.entries(parameters)) {
    const or = fallback[key]
    if (typeof value === 'number') Object.assign(parameters, { [key]: clamp(value, or as number) })
    else if (Array.isArray(value))
      Object.assign(parameters, { [key]: value.map((v, i) => Math.min(clamp(v, (or as number[])[i]), 1)) })
  }
  return { ...material, parameters }
}
const MAX_PARAMETER = 1e6

function compileMaterial(source: OpenPbrMaterial, images: readonly ByteImage[], mipCache: MipCache): SceneMaterial {
  const compiled: SceneMaterial = {
    source,
    live: copyParameters(source.parameters),
    colors: [],
    scalars: [],
    normal: null,
    height: null,
    opacity: null,
    scaleU: 1,
    scaleV: 1,
  }
  for (const [slot, binding] of Object.entries(source.textures) as [TextureSlot, TextureBinding][]) {
    const image = images[binding.image]
    if (!image || slot === 'ambientOcclusion') continue
    let texture = mipCache.get(image)
    if (!texture) {
      texture = createMipTexture(image, isColorParameter(slot) ? 'srgb' : 'linear', source.tiling !== 'once')
      mipCache.set(image, texture)
    }
    const read = { texture, binding }
    if (slot === 'geometryNormal') compiled.normal = read
    else if (slot === 'displacement') compiled.height = read
    else if (slot === 'geometryOpacity') compiled.opacity = read
    else if (isColorParameter(slot)) compiled.colors.push({ ...read, name: slot })
    else compiled.scalars.push({ ...read, name: slot })
  }
  if (compiled.normal) compiled.height = null
  const [tileU, tileV] = source.tileSizeM ?? [1, 1]
  compiled.scaleU = tileU > 0 ? 1 / tileU : 1
  compiled.scaleV = tileV > 0 ? 1 / tileV : 1
  return compiled
}

/** A copy that shares no colour with its source. */
const copyParameters = (parameters: OpenPbrParameters): OpenPbrParameters =>
  Object.fromEntries(
    Object.entries(parameters).map(([key, value]) => [key, Array.isArray(value) ? [...value] : value]),
  ) as unknown as OpenPbrParameters

function measureUvDensity(positions: Float32Array, uvs: Float32Array, t: number): number {
  const p = t * 9
  const q = t * 6
  const ax = positions[p + 3] - positions[p]
  const ay = positions[p + 4] - positions[p + 1]
  const az = positions[p + 5] - positions[p + 2]
  const bx = positions[p + 6] - positions[p]
  const by = positions[p + 7] - positions[p + 1]
  const bz = positions[p + 8] - positions[p + 2]
  const area = Math.hypot(ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx)
  const uvArea = Math.abs((uvs[q + 2] - uvs[q]) * (uvs[q + 5] - uvs[q + 1]) - (uvs[q + 4] - uvs[q]) * (uvs[q + 3] - uvs[q + 1]))
  return area > 0 ? Math.sqrt(uvArea / area) : 0
}
