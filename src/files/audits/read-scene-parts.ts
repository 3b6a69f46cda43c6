import type { Document } from '@gltf-transform/core'
import { FileError } from '#core/findings/failure'
import { accessorFloats } from '#core/geometry/accessor-floats'
import type { Mesh } from '#core/geometry/mesh'
import { readGltfMaterial } from '#core/geometry/read-gltf'
import type { OpenPbrMaterial } from '#core/material/open-pbr'
import { loadGltfIo } from '../models/gltf-io'
import type { SceneFile, SceneJson, ScenePrimitive, SceneView } from './scene-file'

/** The smallest PNG; it stands for pictures while only materials are read. */
const NO_PICTURE =
  'data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=='

/** The materials of a scene in OpenPBR terms, in its order; their textures name the scene's images. No picture is read. */
export async function readSceneMaterials({ json }: SceneFile): Promise<OpenPbrMaterial[]> {
  const { asset, extensionsUsed, materials = [], textures, samplers, images = [] } = json
  const document = await read({
    asset,
    ...(extensionsUsed ? { extensionsUsed } : {}),
    materials: materials.map(({ extras: _, ...m }) => m),
    ...(textures ? { textures } : {}),
    ...(samplers ? { samplers } : {}),
    images: images.map(({ name, mimeType }, i) => ({
      name: name ?? `image ${i}`,
      mimeType: mimeType ?? 'image/png',
      uri: NO_PICTURE,
    })),
  })
  const listed = document.getRoot().listTextures()
  return document
    .getRoot()
    .listMaterials()
    .map(material => readGltfMaterial(material, texture => (texture ? listed.indexOf(texture) : -1)))
}

export interface ScenePart {
  mesh: Pick<Mesh, 'positions' | 'indices'>
  /** Null where the file gives none. */
  uvs: Float32Array | null
}

const TRIANGLES = 4

/**
 * One primitive with its positions as they are stored (unpacked, in its own frame); null of points and lines. Only its own bytes are read.
 * @throws FileError where they are damaged
 */
export async function readScenePart(scene: SceneFile, primitive: ScenePrimitive): Promise<ScenePart | null> {
  if ((primitive.mode ?? TRIANGLES) !== TRIANGLES || primitive.attributes.POSITION === undefined) return null
  const document = await read(...(await cutOut(scene, primitive)))
  const [cut] = document.getRoot().listMeshes()[0].listPrimitives()
  const position = cut.getAttribute('POSITION')
  if (!position) return null
  const uv = cut.getAttribute('TEXCOORD_0')
  const count = position.getCount()
  const indices = Uint32Array.from(cut.getIndices()?.getArray() ?? Array.from({ length: count }, (_, i) => i))
  if (indices.some(i => i >= count)) throw new FileError('malformed', `A triangle names a vertex of ${count} that is not there.`)
  return { mesh: { positions: accessorFloats(position, 3), indices }, uvs: uv ? accessorFloats(uv, 2) : null }
}

/** A glTF of one primitive, with what bytes it needs of the scene's. */
async function cutOut(
  scene: SceneFile,
  primitive: ScenePrimitive,
): Promise<[SceneJson, Record<string, Uint8Array<ArrayBuffer>>]> {
  const { json } = scene
  const views: SceneView[] = []
  const viewOf = new Map<number, number>()
  const chunks: Uint8Array<ArrayBuffer>[] = []
  let length = 0
  const append = async (buffer: number, offset: number, size: number): Promise<number> => {
    const at = length
    chunks.push(await scene.readBuffer(buffer, offset, size), new Uint8Array((4 - (size % 4)) % 4))
    length += size + ((4 - (size % 4)) % 4)
    return at
  }
  const takeView = async (index: number): Promise<number> => {
    const known = viewOf.get(index)
    if (known !== undefined) return known
    const { buffer, byteOffset = 0, byteLength, extensions, ...rest } = json.bufferViews![index]
    const packed = Object.entries(extensions ?? {}).find(([, e]) => e.buffer !== undefined)
    const view: SceneView = packed
      ? {
          ...rest,
          buffer: 0,
          byteOffset: 0,
          byteLength,
          extensions: {
            [packed[0]]: {
              ...packed[1],
              buffer: 0,
              byteOffset: await append(packed[1].buffer!, packed[1].byteOffset ?? 0, packed[1].byteLength ?? 0),
            },
          },
        }
      : { ...rest, buffer: 0, byteOffset: await append(buffer, byteOffset, byteLength), byteLength }
    viewOf.set(index, views.push(view) - 1)
    return views.length - 1
  }
  const accessors: NonNullable<SceneJson['accessors']> = []
  const takeAccessor = async (index: number): Promise<number> => {
    const { bufferView, sparse, ...rest } = json.accessors![index]
    const taken = {
      ...rest,
      ...(bufferView === undefined ? {} : { bufferView: await takeView(bufferView) }),
      ...(sparse
        ? {
            sparse: {
              ...sparse,
              indices: { ...sparse.indices, bufferView: await takeView(sparse.indices.bufferView) },
              values: { ...sparse.values, bufferView: await takeView(sparse.values.bufferView) },
            },
          }
        : {}),
    }
    return accessors.push(taken) - 1
  }
  const attributes: Record<string, number> = {}
  for (const name of ['POSITION', 'TEXCOORD_0'])
    if (primitive.attributes[name] !== undefined) attributes[name] = await takeAccessor(primitive.attributes[name])
  const draco = primitive.extensions?.KHR_draco_mesh_compression
  const cut: ScenePrimitive = {
    attributes,
    ...(primitive.indices === undefined ? {} : { indices: await takeAccessor(primitive.indices) }),
    ...(draco?.bufferView === undefined
      ? {}
      : {
          extensions: {
            KHR_draco_mesh_compression: {
              bufferView: await takeView(draco.bufferView),
              attributes: Object.fromEntries(Object.entries(draco.attributes ?? {}).filter(([name]) => name in attributes)),
            },
          },
        }),
  }
  const bytes = new Uint8Array(length)
  let at = 0
  for (const chunk of chunks) {
    bytes.set(chunk, at)
    at += chunk.length
  }
  const packings = (json.extensionsUsed ?? []).filter(name => /compression|quantization/.test(name))
  return [
    {
      asset: { version: '2.0' },
      ...(packings.length > 0 ? { extensionsUsed: packings, extensionsRequired: packings } : {}),
      scene: 0,
      scenes: [{ nodes: [0] }],
      nodes: [{ mesh: 0 }],
      meshes: [{ primitives: [cut] }],
      accessors,
      bufferViews: views,
      buffers: [{ byteLength: length, uri: 'cut.bin' }],
    },
    { 'cut.bin': bytes },
  ]
}

async function read(json: unknown, resources: Record<string, Uint8Array<ArrayBuffer>> = {}): Promise<Document> {
  try {
    return await (await loadGltfIo()).readJSON({ json: json as never, resources })
  } catch {
    throw new FileError('malformed', 'The glTF structure does not read: its JSON or its buffers are damaged.')
  }
}
