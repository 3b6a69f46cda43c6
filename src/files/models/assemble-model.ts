import { type Document, Document as GltfDocument, Logger, type Material, type Texture, WebIO } from '@gltf-transform/core'
import { ALL_EXTENSIONS } from '@gltf-transform/extensions'
import { weld } from '@gltf-transform/functions'
import sharp from 'sharp'
import type { BufferGeometry, Mesh, Material as ThreeMaterial } from 'three'
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js'
import { resolveType } from '#core/codecs/sniff'
import { FileError } from '#core/findings/failure'
import { MATCHED_FILES, MISSING_FILES } from '#core/geometry/read-gltf'
import { parseMapName } from '#core/material/texture-set'
import { readBytes, readHead, type SourceFile, type TypedFile } from '../reading/source-file'
import { matchTextures } from './match-textures'
import {
  createResolvers,
  type GltfJson,
  isExternal,
  listMaterialLibraries,
  listModelReferences,
  type MtlEntry,
  mapAddress,
  parseGltfJson,
  parseMtlEntries,
  type Resolve,
  readGlbHeader,
  readGlbJson,
  readModelText,
  resolveWith,
} from './model-references'

export interface AssembledModel {
  /** One self-contained binary glTF. What is missing stands in its extras as well, so that it is known as long as the file is. */
  bytes: Uint8Array
  /** Addresses of textures and material libraries that no file was found for. */
  missing: string[]
}

/** Whether a model's file holds all of it. */
export async function isSelfContained(file: SourceFile): Promise<boolean> {
  if (resolveType(file.path, await readHead(file.diskPath)) !== 'glb') return false
  const { buffers = [], images = [] } = await readGlbHeader(file.diskPath)
  return ![...buffers, ...images].some(entry => isExternal(entry.uri))
}

/**
 * Makes one binary glTF of a model and the files beside it: glTF with its buffers and textures, or Wavefront OBJ with its materials.
 * A missing texture is left out and named.
 * @throws FileError when the model does not read, or a buffer is missing
 */
export async function assembleModel(main: SourceFile, parts: readonly SourceFile[]): Promise<AssembledModel> {
  const type = resolveType(main.path, await readHead(main.diskPath))
  const missing: string[] = []
  const byName = createResolvers(parts)(main.path)
  const matched = await matchLostTextures({ ...main, type }, byName, parts)
  const resolve = resolveWith(byName, matched)
  const document = type === 'obj' ? await readObj(main, resolve, missing) : await readGltf(main, type, resolve, missing)
  document.setLogger(new Logger(Logger.Verbosity.SILENT))
  const root = document.getRoot()
  if (missing.length > 0) root.setExtras({ ...root.getExtras(), [MISSING_FILES]: missing })
  if (matched.size > 0)
    root.setExtras({ ...root.getExtras(), [MATCHED_FILES]: [...matched].map(([address, file]) => [address, file.path]) })
  return { bytes: await new WebIO().registerExtensions(ALL_EXTENSIONS).writeBinary(document), missing }
}

/** Textures that no name leads to, found among the parts that nothing else asks for. */
async function matchLostTextures(
  main: TypedFile,
  resolve: Resolve,
  parts: readonly SourceFile[],
): Promise<Map<string, SourceFile>> {
  const references = await listModelReferences(main, resolve)
  const lost = references.filter(r => r.isTexture && resolve(r.address) === null)
  const asked = new Set(references.map(r => resolve(r.address)?.path))
  return matchTextures(
    lost,
    parts.filter(p => !asked.has(p.path) && /\.(png|jpe?g|webp|tiff?)$/i.test(p.path)),
  )
}

const PLACEHOLDER = 'missing:'

async function readGltf(main: SourceFile, type: string, resolve: Resolve, missing: string[]): Promise<Document> {
  const resources: Record<string, Uint8Array<ArrayBuffer>> = {}
  let json: GltfJson
  if (type === 'glb') {
    const bytes = await readBytes(main)
    json = readGlbJson(bytes)
    const chunk = readBinaryChunk(bytes)
    if (chunk) resources['@glb.bin'] = chunk
  } else json = parseGltfJson(await readModelText(main))
  for (const { uri } of json.buffers ?? []) {
    if (!isExternal(uri)) continue
    const file = resolve(uri)
    if (!file) throw new FileError('notFound', `Its buffer ${uri} did not come along; without it there is no geometry.`)
    resources[uri] = new Uint8Array(await readBytes(file))
  }
  for (const [i, image] of (json.images ?? []).entries()) {
    if (!isExternal(image.uri)) continue
    const file = resolve(image.uri)
    if (file) {
      resources[image.uri] = new Uint8Array(await readBytes(file))
      continue
    }
    missing.push(image.uri)
    image.uri = `${PLACEHOLDER}${i}.png`
    resources[image.uri] = new Uint8Array(await onePixel())
  }
  let document: Document
  try {
    document = await new WebIO().registerExtensions(ALL_EXTENSIONS).readJSON({ json: json as never, resources })
  } catch {
    throw new FileError('malformed', 'The glTF structure does not read: its JSON or its buffers are damaged.')
  }
  for (const texture of document.getRoot().listTextures()) if (texture.getURI().startsWith(PLACEHOLDER)) texture.dispose()
  return document
}

const onePixel = () =>
  sharp({ create: { width: 1, height: 1, channels: 3, background: '#888' } })
    .png()
    .toBuffer()

/** The second chunk of a binary glTF, where its own buffer is. */
function readBinaryChunk(bytes: Uint8Array): Uint8Array<ArrayBuffer> | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const start = 20 + view.getUint32(12, true)
  if (start + 8 > bytes.length) return null
  return bytes.slice(start + 8, Math.min(bytes.length, start + 8 + view.getUint32(start, true)))
}

async function readObj(main: SourceFile, resolve: Resolve, missing: string[]): Promise<Document> {
  const text = await readModelText(main)
  const entries: Record<string, MtlEntry> = {}
  for (const library of listMaterialLibraries(text)) {
    const file = resolve(library)
    if (file) Object.assign(entries, parseMtlEntries(await readModelText(file)))
    else missing.push(library)
  }
  const document = new GltfDocument()
  document.createBuffer()
  const scene = document.createScene(
    main.path
      .split('/')
      .pop()
      ?.replace(/\.obj$/i, ''),
  )
  const writer = createMaterialWriter(document, entries, resolve, missing)
  let meshes: Mesh[]
  try {
    const group = new OBJLoader().parse(text)
    meshes = group.children.filter((child): child is Mesh => (child as Mesh).isMesh)
  } catch {
    throw new FileError('malformed', 'The OBJ file does not read: its faces or vertices are damaged.')
  }
  for (const mesh of meshes) {
    const node = document.createNode(mesh.name).setMesh(document.createMesh(mesh.name))
    const materials = Array.isArray(mesh.material) ? mesh.material : [mesh.material]
    for (const { start, count, material } of groupsOf(mesh.geometry)) {
      const primitive = createFlatPrimitive(document, mesh.geometry, start, count)
      if (!primitive) continue
      const written = await writer((materials[material] as ThreeMaterial | undefined)?.name ?? '')
      node.getMesh()!.addPrimitive(primitive.setMaterial(written))
    }
    if (node.getMesh()!.listPrimitives().length > 0) scene.addChild(node)
    else node.dispose()
  }
  if (scene.listChildren().length === 0) throw new FileError('malformed', 'The OBJ file holds no faces.')
  await document.transform(weld())
  return document
}

const groupsOf = (geometry: BufferGeometry) =>
  geometry.groups.length > 0
    ? geometry.groups.map(g => ({ start: g.start, count: g.count, material: g.materialIndex ?? 0 }))
    : [{ start: 0, count: geometry.getAttribute('position')?.count ?? 0, material: 0 }]

function createFlatPrimitive(document: Document, geometry: BufferGeometry, start: number, count: number) {
  const [buffer] = document.getRoot().listBuffers()
  const whole = count - (count % 3)
  if (!(whole > 0)) return null
  const primitive = document.createPrimitive()
  for (const [name, semantic, type, size] of [
    ['position', 'POSITION', 'VEC3', 3],
    ['normal', 'NORMAL', 'VEC3', 3],
    ['uv', 'TEXCOORD_0', 'VEC2', 2],
  ] as const) {
    const attribute = geometry.getAttribute(name)
    if (!attribute) continue
    const array = (attribute.array as Float32Array).slice(start * size, (start + whole) * size) as Float32Array<ArrayBuffer>
    if (array.some(v => !Number.isFinite(v))) throw new FileError('malformed', 'The OBJ file has a value that is no number.')
    // The origin of texture coordinates is below in OBJ and above in glTF.
    if (name === 'uv') for (let i = 1; i < array.length; i += 2) array[i] = 1 - array[i]
    primitive.setAttribute(semantic, document.createAccessor().setType(type).setArray(array).setBuffer(buffer))
  }
  return primitive
}

/** Turns MTL entries into glTF materials, each once. An entry that is not there gives none. */
function createMaterialWriter(document: Document, entries: Record<string, MtlEntry>, resolve: Resolve, missing: string[]) {
  const made = new Map<string, Promise<Material | null>>()
  const textures = new Map<string, Promise<Texture | null>>()

  const read = async (statement: string | number[] | undefined): Promise<Uint8Array | null> => {
    if (typeof statement !== 'string') return null
    const address = mapAddress(statement)
    const file = resolve(address)
    if (!file) {
      if (!missing.includes(address)) missing.push(address)
      return null
    }
    // What glTF may hold; anything else is turned into it.
    const bytes = await readBytes(file)
    if (/\.(png|jpe?g)$/i.test(file.path)) return bytes
    return new Uint8Array(await sharp(bytes).png().toBuffer())
  }
  const textureOf = (statement: string | number[] | undefined): Promise<Texture | null> => {
    if (typeof statement !== 'string') return Promise.resolve(null)
    const address = mapAddress(statement)
    const known = textures.get(address)
    if (known) return known
    const making = read(statement).then(bytes => (bytes ? putTexture(address, bytes) : null))
    textures.set(address, making)
    return making
  }
  const putTexture = (name: string, bytes: Uint8Array): Texture =>
    document
      .createTexture(name.split(/[\\/]/).pop())
      .setImage(new Uint8Array(bytes))
      .setMimeType(bytes[0] === 0xff ? 'image/jpeg' : 'image/png')

  /** Roughness in green and metalness in blue, as glTF has them, of one or two grey maps. */
  const packSurface = async (entry: MtlEntry): Promise<Texture | null> => {
    const [roughness, metalness] = [await read(entry.map_pr), await read(entry.map_pm)]
    const given = roughness ?? metalness
    if (!given) return null
    const { width = 1, height = 1 } = await sharp(given).metadata()
    const plane = async (bytes: Uint8Array | null) =>
      bytes
        ? sharp(bytes).resize(width, height, { fit: 'fill' }).toColourspace('b-w').extractChannel(0).raw().toBuffer()
        : Buffer.alloc(width * height, 255)
    const [green, blue] = [await plane(roughness), await plane(metalness)]
    const packed = Buffer.alloc(width * height * 3, 255)
    for (let i = 0; i < width * height; i++) {
      packed[i * 3 + 1] = green[i]
      packed[i * 3 + 2] = blue[i]
    }
    return putTexture(
      'roughness and metalness',
      await sharp(packed, { raw: { width, height, channels: 3 } })
        .png()
        .toBuffer(),
    )
  }

  const make = async (name: string, entry: MtlEntry): Promise<Material> => {
    const number = (key: string): number | null =>
      Number.isFinite(Number.parseFloat(String(entry[key]))) ? Number.parseFloat(String(entry[key])) : null
    const color = (key: string): [number, number, number] | null => {
      const value = entry[key]
      return Array.isArray(value) && value.length >= 3 && value.every(Number.isFinite) ? [value[0], value[1], value[2]] : null
    }
    const alpha = number('d') ?? 1 - (number('tr') ?? 0)
    // The exponent of Blinn's highlight as a roughness (Walter et al. 2007, with alpha the square of the roughness).
    const shininess = number('ns')
    const roughness = number('pr') ?? (shininess === null ? 0.5 : Math.sqrt(Math.sqrt(2 / (Math.max(0, shininess) + 2))))
    const base = await textureOf(entry.map_kd)
    const surface = await packSurface(entry)
    const bump = entry.norm ?? entry.map_bump ?? entry.bump
    const isNormal = entry.norm !== undefined || (typeof bump === 'string' && parseMapName(mapAddress(bump)).role === 'normal')
    const kd = color('kd') ?? [0.8, 0.8, 0.8]
    const material = document
      .createMaterial(name)
      // Many programs write black beside a texture and mean the texture.
      .setBaseColorFactor([...(base ? ([1, 1, 1] as const) : kd), alpha] as [number, number, number, number])
      .setBaseColorTexture(base)
      .setRoughnessFactor(surface && entry.map_pr !== undefined ? 1 : Math.min(1, Math.max(0, roughness)))
      .setMetallicFactor(surface && entry.map_pm !== undefined ? 1 : Math.min(1, Math.max(0, number('pm') ?? 0)))
      .setMetallicRoughnessTexture(surface)
      .setNormalTexture(isNormal ? await textureOf(bump) : null)
      .setEmissiveFactor(color('ke') ?? [0, 0, 0])
      .setEmissiveTexture(await textureOf(entry.map_ke))
    if (alpha < 1) material.setAlphaMode('BLEND')
    if (entry.map_d !== undefined) material.setAlphaMode('MASK').setDoubleSided(true)
    return material
  }
  return (name: string): Promise<Material | null> => {
    const known = made.get(name)
    if (known) return known
    const making = entries[name] ? make(name, entries[name]) : Promise.resolve(null)
    made.set(name, making)
    return making
  }
}
