import { type FileHandle, open } from 'node:fs/promises'
import type { LightPrint } from '#core/audit/compare-lights'
import type { SceneForm } from '#core/audit/compare-materials'
import { resolveType } from '#core/codecs/sniff'
import { FileError } from '#core/findings/failure'
import { MISSING_FILES } from '#core/geometry/read-gltf'
import type { Vec3 } from '#core/math/vec3'
import { assembleModel } from '../models/assemble-model'
import { createResolvers, isExternal, parseGltfJson, readGlbHeader, readGlbJson, readModelText } from '../models/model-references'
import { readHead, type SourceFile } from '../reading/source-file'
import { readStamps, stampScene } from './stamp-scene'

/** What of the JSON of a glTF scene is looked at or written here; all else in it is kept as it is. */
export interface SceneJson {
  asset: { version: string; generator?: string; extras?: unknown }
  extensionsUsed?: string[]
  extensionsRequired?: string[]
  scene?: number
  scenes?: { name?: string; nodes?: number[] }[]
  nodes?: SceneNode[]
  meshes?: SceneMesh[]
  cameras?: { type?: string; perspective?: { yfov: number; aspectRatio?: number } }[]
  accessors?: SceneAccessor[]
  bufferViews?: SceneView[]
  buffers?: { uri?: string; byteLength: number }[]
  materials?: SceneMaterial[]
  textures?: { source?: number; sampler?: number; extensions?: Record<string, unknown> }[]
  images?: { uri?: string; mimeType?: string; bufferView?: number; name?: string }[]
  samplers?: unknown[]
  animations?: { channels?: { target?: { node?: number } }[] }[]
  extensions?: Record<string, unknown>
  extras?: Record<string, unknown>
}
export interface SceneNode {
  name?: string
  children?: number[]
  mesh?: number
  skin?: number
  camera?: number
  matrix?: number[]
  translation?: number[]
  rotation?: number[]
  scale?: number[]
  extensions?: Record<string, { attributes?: Record<string, number>; light?: number }>
  extras?: Record<string, unknown>
}
export interface SceneMesh {
  name?: string
  primitives: ScenePrimitive[]
  extras?: Record<string, unknown>
}
export interface ScenePrimitive {
  attributes: Record<string, number>
  indices?: number
  material?: number
  mode?: number
  targets?: unknown[]
  extensions?: Record<string, { bufferView?: number; attributes?: Record<string, number>; mappings?: { material: number }[] }>
}
interface SceneAccessor {
  bufferView?: number
  sparse?: { indices: { bufferView: number }; values: { bufferView: number } }
  count: number
}
export interface SceneView {
  buffer: number
  byteOffset?: number
  byteLength: number
  extensions?: Record<string, { buffer?: number; byteOffset?: number; byteLength?: number }>
}
export interface SceneTextureInfo {
  index: number
  texCoord?: number
  extensions?: Record<string, unknown>
}
export interface SceneMaterial {
  name?: string
  pbrMetallicRoughness?: Record<string, unknown>
  normalTexture?: SceneTextureInfo
  occlusionTexture?: SceneTextureInfo
  emissiveTexture?: SceneTextureInfo
  extensions?: Record<string, Record<string, unknown>>
  extras?: Record<string, unknown>
}

/** A light of the extension KHR_lights_punctual. */
export interface ScenePunctualLight {
  name?: string
  type: LightPrint['kind']
  color?: Vec3
  intensity?: number
  range?: number
  spot?: { innerConeAngle?: number; outerConeAngle?: number }
}

/** The lights that nodes name by their numbers; the very list of the scene. */
export const listPunctualLights = ({ extensions }: SceneJson): ScenePunctualLight[] =>
  (extensions?.KHR_lights_punctual as { lights?: ScenePunctualLight[] } | undefined)?.lights ?? []

type ReadRange = (offset: number, length: number) => Promise<Uint8Array<ArrayBuffer>>

/** A scene whose structure is in memory and whose bytes are read where they are asked for, so that it may be larger than memory. */
export interface SceneFile {
  form: SceneForm
  json: SceneJson
  /** Bytes of a buffer from an offset on. */
  readBuffer: (buffer: number, offset: number, length: number) => Promise<Uint8Array<ArrayBuffer>>
  readView: (view: number) => Promise<Uint8Array<ArrayBuffer>>
  /** An encoded picture; null where it did not come along. */
  readImage: (image: number) => Promise<Uint8Array<ArrayBuffer> | null>
  close: () => Promise<void>
}

/** What is not glTF, and what glTF says in ways of its own, is put together first. */
const NEEDS_ASSEMBLY = ['KHR_materials_pbrSpecularGlossiness']

/**
 * Opens a scene.
 * @param parts the files that came along with it
 * @throws FileError where it does not read
 */
export async function openScene(main: SourceFile, parts: readonly SourceFile[]): Promise<SceneFile> {
  const type = resolveType(main.path, await readHead(main.diskPath))
  if (type === 'glb' || type === 'gltf') {
    const json = type === 'glb' ? await readGlbHeader(main.diskPath) : parseGltfJson(await readModelText(main))
    if (!json.extensionsUsed?.some(name => NEEDS_ASSEMBLY.includes(name)))
      return type === 'glb' ? openGlbFile(json as SceneJson, main) : openGltf(json as SceneJson, main, parts)
  }
  const { bytes, missing } = await assembleModel(main, parts)
  const scene = openGlbBytes(bytes)
  const stamps = await readStamps(type, main, parts)
  if (stamps) stampScene(scene.json, stamps)
  if (missing.length > 0) scene.json.extras = { ...scene.json.extras, [MISSING_FILES]: missing }
  const form = type === 'obj' ? 'obj' : type.startsWith('usd') ? 'usd' : type === 'glb' || type === 'gltf' ? 'gltf' : 'other'
  return { ...scene, form }
}

/** A scene that is in memory as binary glTF. */
export function openGlbBytes(bytes: Uint8Array): SceneFile {
  const json = readGlbJson(bytes) as SceneJson
  const start = binaryStart(new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true))
  const read: ReadRange = async (offset, length) => bytes.slice(start + offset, start + offset + length)
  return sceneOf(json, [read], async () => null, [])
}

const binaryStart = (jsonLength: number): number => 20 + jsonLength + 8

async function openGlbFile(json: SceneJson, main: SourceFile): Promise<SceneFile> {
  const handle = await open(main.diskPath, 'r')
  const head = await readHead(main.diskPath, 20)
  const start = binaryStart(new DataView(head.buffer, head.byteOffset).getUint32(12, true))
  return sceneOf(json, [rangeOf(handle, start)], async () => null, [handle])
}

async function openGltf(json: SceneJson, main: SourceFile, parts: readonly SourceFile[]): Promise<SceneFile> {
  const resolve = createResolvers(parts)(main.path)
  const handles: FileHandle[] = []
  const readers: ReadRange[] = []
  for (const { uri } of json.buffers ?? []) {
    if (isExternal(uri)) {
      const file = resolve(uri)
      if (!file) {
        await Promise.all(handles.map(h => h.close()))
        throw new FileError('notFound', `Its buffer ${uri} did not come along; without it there is no geometry.`)
      }
      const handle = await open(file.diskPath, 'r')
      handles.push(handle)
      readers.push(rangeOf(handle, 0))
    } else {
      const bytes = fromDataAddress(uri ?? '')
      readers.push(async (offset, length) => bytes.slice(offset, offset + length))
    }
  }
  const readOutside = async (uri: string) => {
    const file = resolve(uri)
    if (!file) return null
    const handle = await open(file.diskPath, 'r')
    try {
      return await rangeOf(handle, 0)(0, file.size)
    } finally {
      await handle.close()
    }
  }
  return sceneOf(json, readers, readOutside, handles)
}

const rangeOf =
  (handle: FileHandle, start: number): ReadRange =>
  async (offset, length) => {
    const bytes = new Uint8Array(length)
    const { bytesRead } = await handle.read(bytes, 0, length, start + offset)
    if (bytesRead < length)
      throw new FileError('truncated', 'The scene breaks off before its end; it was probably cut off when it was copied.')
    return bytes
  }

const fromDataAddress = (uri: string): Uint8Array<ArrayBuffer> =>
  new Uint8Array(Buffer.from(uri.slice(uri.indexOf(',') + 1), uri.includes(';base64,') ? 'base64' : 'utf8'))

function sceneOf(
  json: SceneJson,
  readers: readonly ReadRange[],
  readOutside: (uri: string) => Promise<Uint8Array<ArrayBuffer> | null>,
  handles: readonly FileHandle[],
): SceneFile {
  const readBuffer: SceneFile['readBuffer'] = (buffer, offset, length) => {
    const read = readers[buffer]
    if (!read) throw new FileError('malformed', 'The glTF structure does not read: it names a buffer that is not there.')
    return read(offset, length)
  }
  const readView: SceneFile['readView'] = view => {
    const found = json.bufferViews?.[view]
    if (!found) throw new FileError('malformed', 'The glTF structure does not read: it names bytes that are not there.')
    return readBuffer(found.buffer, found.byteOffset ?? 0, found.byteLength)
  }
  return {
    form: 'gltf',
    json,
    readBuffer,
    readView,
    readImage: async image => {
      const { uri, bufferView } = json.images?.[image] ?? {}
      if (bufferView !== undefined) return readView(bufferView)
      if (uri === undefined) return null
      return isExternal(uri) ? readOutside(uri) : fromDataAddress(uri)
    },
    close: async () => {
      await Promise.all(handles.map(h => h.close()))
    },
  }
}
