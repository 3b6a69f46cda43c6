import { readFile } from 'node:fs/promises'
import type { Texture } from 'three'
import { MTLLoader } from 'three/examples/jsm/loaders/MTLLoader.js'
import { FileError } from '#core/findings/failure'
import { groupBy } from '#core/group-by'
import type { MapRole } from '#core/material/texture-set'
import { readHead, type SourceFile, type TypedFile } from '../reading/source-file'
import { addressOf, decodeText, isSceneType, type LoadedScene, type SceneType } from './loaded-scene'

/** Larger text models than this are refused before they are read. */
const MAX_TEXT_BYTES = 1024 ** 3

/** Finds a delivered file by the address a model names it with; null when there is none. */
export type Resolve = (address: string) => SourceFile | null

const PICTURE_ENDING = /\.(png|jpe?g|webp|tiff?|tga|bmp|psd|dds|ktx2|avif|jxl|p[gpnbf]m|exr)$/i

/**
 * Resolvers over the files of a delivery, one for each model that asks: first where the address points, then anywhere by the same file
 * name, then by the same name saved as another kind of picture; of several the nearest to the model. Absolute addresses of the machine
 * where the model was made count by their file name. Case does not matter.
 */
export function createResolvers(files: readonly SourceFile[]): (modelPath: string) => Resolve {
  const byPath = new Map(files.map(f => [f.path.toLowerCase(), f]))
  const byName = groupBy(files, f => nameOf(f.path))
  const byStem = groupBy(
    files.filter(f => PICTURE_ENDING.test(f.path)),
    f => stemOf(f.path),
  )
  return modelPath => {
    const folder = modelPath.split('/').slice(0, -1)
    const nearest = (found: readonly SourceFile[] = []): SourceFile | null =>
      found.reduce<SourceFile | null>(
        (best, file) => (best && distance(best.path, folder) <= distance(file.path, folder) ? best : file),
        null,
      )
    return address => {
      const clean = decodeAddress(address)
      const parts = [...folder]
      for (const part of clean.split('/')) {
        if (part === '..') parts.pop()
        else if (part !== '' && part !== '.') parts.push(part)
      }
      return (
        byPath.get(parts.join('/').toLowerCase()) ??
        nearest(byName.get(nameOf(clean))) ??
        (PICTURE_ENDING.test(clean) ? nearest(byStem.get(stemOf(clean))) : null)
      )
    }
  }
}

const nameOf = (path: string): string => (path.split('/').pop() ?? path).toLowerCase()

const stemOf = (path: string): string => nameOf(path).replace(PICTURE_ENDING, '')

/** How many folders apart. */
function distance(path: string, folder: readonly string[]): number {
  const other = path.split('/').slice(0, -1)
  let shared = 0
  while (shared < other.length && shared < folder.length && other[shared] === folder[shared]) shared++
  return other.length + folder.length - 2 * shared
}

function decodeAddress(address: string): string {
  const slashed = address.replaceAll('\\', '/').replace(/^[a-z]:/i, '')
  try {
    return decodeURIComponent(slashed)
  } catch {
    return slashed
  }
}

export async function readModelText(file: SourceFile): Promise<string> {
  if (file.size > MAX_TEXT_BYTES) throw new FileError('tooLarge', 'A text model larger than 1 GB is not read; export it as .glb.')
  return decodeText(await readFile(file.diskPath))
}

export interface GltfJson {
  asset?: { version?: string }
  extensionsUsed?: string[]
  extensionsRequired?: string[]
  skins?: unknown[]
  meshes?: { primitives?: { mode?: number }[] }[]
  buffers?: { uri?: string; byteLength?: number }[]
  images?: { uri?: string }[]
  textures?: { source?: number }[]
  materials?: {
    pbrMetallicRoughness?: { baseColorTexture?: TextureInfo; metallicRoughnessTexture?: TextureInfo }
    normalTexture?: TextureInfo
    occlusionTexture?: TextureInfo
    emissiveTexture?: TextureInfo
  }[]
}
interface TextureInfo {
  index?: number
}

export const isExternal = (uri: string | undefined): uri is string => uri !== undefined && !uri.startsWith('data:')

/** @throws FileError `malformed` */
export function parseGltfJson(text: string): GltfJson {
  let found: GltfJson | null = null
  try {
    const json: unknown = JSON.parse(text)
    if (typeof json === 'object' && json !== null && ('asset' in json || 'techniques' in json)) found = json as GltfJson
  } catch {
    // Said below.
  }
  if (!found) throw new FileError('malformed', 'The glTF structure does not read: its JSON is damaged.')
  if (!(Number(found.asset?.version ?? 1) >= 2)) throw firstVersion()
  return found
}

/** glTF 1.0 tells how surfaces look by programs for graphics cards, which no table of materials can be made of. */
const firstVersion = () =>
  new FileError(
    'unsupported',
    'This is glTF in its first version (1.0). Open it in the program it came from, and export it as glTF 2.0.',
  )

const GLB_JSON = 0x4e4f534a
const MAX_HEADER = 256 * 1024 ** 2

/** The JSON chunk of a binary glTF; FileError when there is none. */
export function readGlbJson(bytes: Uint8Array): GltfJson {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.length >= 20 && view.getUint32(4, true) === 1) throw firstVersion()
  const length = bytes.length >= 20 ? view.getUint32(12, true) : 0
  if (length === 0 || 20 + length > bytes.length || view.getUint32(16, true) !== GLB_JSON)
    throw new FileError('malformed', 'The glTF structure does not read: its first chunk is damaged.')
  return parseGltfJson(new TextDecoder().decode(bytes.subarray(20, 20 + length)))
}

/** The same, without reading the rest of the file. */
export async function readGlbHeader(diskPath: string): Promise<GltfJson> {
  const start = await readHead(diskPath, 20)
  const length = start.length === 20 ? new DataView(start.buffer, start.byteOffset).getUint32(12, true) : 0
  return readGlbJson(await readHead(diskPath, 20 + Math.min(length, MAX_HEADER)))
}

/** One material of an MTL file; keys in lower case. Colours are lists, all else is text as written. */
export type MtlEntry = Record<string, string | number[] | undefined>

export function parseMtlEntries(text: string): Record<string, MtlEntry> {
  // Known to the loader's types only as something it will draw with.
  const creator = new MTLLoader().parse(text, '') as unknown as { materialsInfo: Record<string, MtlEntry> }
  return creator.materialsInfo
}

/** Which channel of its picture an MTL map statement means; null where it does not say. */
export function mapChannel(statement: string): 0 | 1 | 2 | 3 | 'grey' | null {
  const said = /(?:^|\s)-imfchan\s+([rgbml])\s/.exec(statement)?.[1]
  return said ? ({ r: 0, g: 1, b: 2, m: 3, l: 'grey' } as const)[said as 'r' | 'g' | 'b' | 'm' | 'l'] : null
}

/** The file of an MTL map statement, its options left out. */
export function mapAddress(statement: string): string {
  const words = statement.trim().split(/\s+/)
  let at = 0
  while (words[at]?.startsWith('-')) {
    const counts: Record<string, number> = { '-s': 3, '-o': 3, '-t': 3, '-mm': 2 }
    const wanted = counts[words[at]] ?? 1
    at++
    // Of three numbers the last two may be missing.
    for (let k = 0; k < wanted && at < words.length - 1; k++) {
      if (wanted > 1 && !Number.isFinite(Number(words[at]))) break
      at++
    }
  }
  return words.slice(at).join(' ')
}

export const listMaterialLibraries = (obj: string): string[] => [...obj.matchAll(/^mtllib[ \t]+(.+?)[ \t\r]*$/gm)].map(m => m[1])

/** A file that a model names, and what it uses it as where it is a texture. */
export interface ModelReference {
  address: string
  isTexture: boolean
  role: MapRole | null
}

/**
 * Everything that a model names beside itself: buffers, textures, material libraries and what those name.
 * @throws FileError when the model, or its JSON, does not read
 */
export async function listModelReferences(file: TypedFile, resolve: Resolve): Promise<ModelReference[]> {
  switch (file.type) {
    case 'gltf':
      return externalsOf(parseGltfJson(await readModelText(file)))
    case 'glb':
      return externalsOf(await readGlbHeader(file.diskPath))
    case 'obj': {
      const libraries = listMaterialLibraries(await readModelText(file))
      const found = libraries.map((address): ModelReference => ({ address, isTexture: false, role: null }))
      for (const library of libraries) {
        const mtl = resolve(library)
        if (!mtl) continue
        for (const entry of Object.values(parseMtlEntries(await readModelText(mtl))))
          for (const [key, value] of Object.entries(entry))
            if (isMapKey(key) && typeof value === 'string')
              found.push({ address: mapAddress(value), isTexture: true, role: MTL_ROLES[key] ?? null })
      }
      return found
    }
    default:
      return isSceneType(file.type) ? externalsOfScene(await readScene(file, file.type)) : []
  }
}

export const isMapKey = (key: string): boolean => /^(map_|bump$|norm$|disp$)/.test(key)

const MTL_ROLES: Record<string, MapRole> = {
  map_kd: 'baseColor',
  map_pr: 'roughness',
  map_pm: 'metalness',
  map_d: 'opacity',
  map_ke: 'emission',
  norm: 'normal',
}

/** Slots of the loaders' materials that hold what a map of ours holds. */
const SCENE_ROLES: Record<string, MapRole | null> = {
  map: 'baseColor',
  normalMap: 'normal',
  roughnessMap: 'roughness',
  metalnessMap: 'metalness',
  alphaMap: 'opacity',
  emissiveMap: 'emission',
  bumpMap: null,
  specularMap: null,
  displacementMap: null,
}

function externalsOfScene({ scene }: LoadedScene): ModelReference[] {
  const found = new Map<string, ModelReference>()
  scene.traverse(object => {
    const { material } = object as { material?: object | object[] }
    for (const each of material === undefined ? [] : Array.isArray(material) ? material : [material])
      for (const [slot, role] of Object.entries(SCENE_ROLES)) {
        const address = addressOf((each as Record<string, Texture | null | undefined>)[slot])
        if (address !== null && !address.startsWith('embedded:') && !address.startsWith('data:'))
          found.set(address, { address, isTexture: true, role: found.get(address)?.role ?? role })
      }
  })
  return [...found.values()]
}

const MAX_SCENE_BYTES = 1024 ** 3

/** @throws FileError */
export async function readScene(file: SourceFile, type: SceneType): Promise<LoadedScene> {
  if (file.size > MAX_SCENE_BYTES) throw new FileError('tooLarge', 'A model larger than 1 GB is read as .glb only.')
  try {
    // Most deliveries have no need of them, and they are large.
    const { loadScene } = await import('./scene-loaders')
    return loadScene(type, new Uint8Array(await readFile(file.diskPath)))
  } catch (error) {
    if (error instanceof FileError) throw error
    if (error instanceof Error && /version not supported/i.test(error.message))
      throw new FileError('unsupported', 'This FBX is older than its reader knows (before 2011); export it anew, or as glTF.')
    throw new FileError('malformed', 'The model does not read; it is damaged, or holds something that its reader does not know.')
  }
}

function externalsOf({ buffers = [], images = [], textures = [], materials = [] }: GltfJson): ModelReference[] {
  const roles = new Map<number, MapRole>()
  const note = (info: { index?: number } | undefined, role: MapRole) => {
    const image = info?.index === undefined ? undefined : textures[info.index]?.source
    if (image !== undefined) roles.set(image, role)
  }
  for (const material of materials) {
    note(material.occlusionTexture, 'ambientOcclusion')
    note(material.emissiveTexture, 'emission')
    note(material.normalTexture, 'normal')
    note(material.pbrMetallicRoughness?.metallicRoughnessTexture, 'orm')
    note(material.pbrMetallicRoughness?.baseColorTexture, 'baseColor')
  }
  const bufferRefs = buffers.flatMap(({ uri }) => (isExternal(uri) ? [{ address: uri, isTexture: false, role: null }] : []))
  const imageRefs = images.flatMap(({ uri }, i) =>
    isExternal(uri) ? [{ address: uri, isTexture: true, role: roles.get(i) ?? null }] : [],
  )
  return [...bufferRefs, ...imageRefs]
}

/** A resolver that knows, besides, what lost textures were found to be. */
export const resolveWith =
  (resolve: Resolve, matched: ReadonlyMap<string, SourceFile>): Resolve =>
  address =>
    resolve(address) ?? matched.get(address) ?? null
