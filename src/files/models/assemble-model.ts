import {
  type Document,
  Document as GltfDocument,
  Logger,
  type Material,
  type Node,
  type Scene,
  type Texture,
} from '@gltf-transform/core'
import { ALL_EXTENSIONS } from '@gltf-transform/extensions'
import { weld } from '@gltf-transform/functions'
import sharp from 'sharp'
import type { Mesh, Material as ThreeMaterial } from 'three'
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js'
import { resolveType } from '#core/codecs/sniff'
import { FileError } from '#core/findings/failure'
import { LOST, MATCHED_FILES, MISSING_FILES } from '#core/geometry/read-gltf'
import { parseMapName } from '#core/material/texture-set'
import { CONSTANTS_MULTIPLY } from '#core/targets/obj-mtl'
import { readBytes, readHead, type SourceFile, type TypedFile } from '../reading/source-file'
import { toPng } from '../writing/house-picture'
import { type PlaneSource, packSurface, withOpacity } from './combine-maps'
import { loadGltfIo } from './gltf-io'
import { isSceneType, type SceneType } from './loaded-scene'
import { isPlain, makePlain } from './make-plain'
import { matchTextures } from './match-textures'
import { setCoat, setEmission } from './material-extensions'
import {
  createResolvers,
  type GltfJson,
  isExternal,
  listMaterialLibraries,
  listModelReferences,
  type MtlEntry,
  mapAddress,
  mapChannel,
  parseGltfJson,
  parseMtlEntries,
  type Resolve,
  readGlbHeader,
  readGlbJson,
  readModelText,
  readScene,
  resolveWith,
} from './model-references'
import { listObjGroups } from './obj-groups'
import { createFlatPrimitive, groupsOf, writeScene } from './write-scene'

export interface AssembledModel {
  /** One self-contained binary glTF. What is missing stands in its extras as well, so that it is known as long as the file is. */
  bytes: Uint8Array
  /** Addresses of textures and material libraries that no file was found for. */
  missing: string[]
}

/** Whether a model's file holds all of it, for every program to read. */
export async function isPlainGlb(file: SourceFile): Promise<boolean> {
  if (resolveType(file.path, await readHead(file.diskPath)) !== 'glb') return false
  const header = await readGlbHeader(file.diskPath)
  return isPlain(header) && ![...(header.buffers ?? []), ...(header.images ?? [])].some(entry => isExternal(entry.uri))
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
  const document = isSceneType(type)
    ? await readSceneModel(main, type, resolve, missing)
    : type === 'obj'
      ? await readObj(main, resolve, missing)
      : await readGltf(main, type, resolve, missing)
  document.setLogger(new Logger(Logger.Verbosity.SILENT))
  const root = document.getRoot()
  if (missing.length > 0) root.setExtras({ ...root.getExtras(), [MISSING_FILES]: missing })
  if (matched.size > 0)
    root.setExtras({ ...root.getExtras(), [MATCHED_FILES]: [...matched].map(([address, file]) => [address, file.path]) })
  await makePlain(document)
  return { bytes: await (await loadGltfIo()).writeBinary(document), missing }
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

/** What a file asks for and nobody here knows is left out and told: its shape reads all the same. */
function dropUnknownExtensions(json: GltfJson): string[] {
  const known = new Set<string>(ALL_EXTENSIONS.map(e => e.EXTENSION_NAME))
  const unknown = (json.extensionsRequired ?? []).filter(name => !known.has(name))
  json.extensionsRequired = (json.extensionsRequired ?? []).filter(name => known.has(name))
  return unknown
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
  const unknown = dropUnknownExtensions(json)
  let document: Document
  try {
    document = await (await loadGltfIo()).readJSON({ json: json as never, resources })
  } catch {
    throw new FileError('malformed', 'The glTF structure does not read: its JSON or its buffers are damaged.')
  }
  if (unknown.length > 0) document.getRoot().setExtras({ ...document.getRoot().getExtras(), [LOST]: ['glTF', ...unknown] })
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

/** An interchange model by its loader; what glTF does not hold of it stands in the extras. */
async function readSceneModel(main: SourceFile, type: SceneType, resolve: Resolve, missing: string[]): Promise<Document> {
  const { scene, embedded } = await readScene(main, type)
  const { document, lost } = await writeScene(scene, async address => {
    const inside = embedded.get(address)
    if (inside) return new Uint8Array(await inside.arrayBuffer())
    if (address.startsWith('data:')) return new Uint8Array(Buffer.from(address.slice(address.indexOf(',') + 1), 'base64'))
    const file = resolve(address)
    if (file) return readBytes(file)
    if (!missing.includes(address)) missing.push(address)
    return null
  })
  const root = document.getRoot()
  root.setExtras({ ...root.getExtras(), [LOST]: [type, ...lost] })
  return document
}

async function readObj(main: SourceFile, resolve: Resolve, missing: string[]): Promise<Document> {
  const text = await readModelText(main)
  const entries: ObjMaterials = {}
  for (const library of listMaterialLibraries(text)) {
    const file = resolve(library)
    if (file) {
      const statements = await readModelText(file)
      const multiplies = statements.includes(CONSTANTS_MULTIPLY)
      for (const [name, entry] of Object.entries(parseMtlEntries(statements))) entries[name] = { entry, multiplies }
    } else missing.push(library)
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
    const group = new OBJLoader().parse(text.replace(LINES_AND_POINTS, ''))
    meshes = group.children.filter((child): child is Mesh => (child as Mesh).isMesh)
  } catch {
    throw new FileError('malformed', 'The OBJ file does not read: its faces or vertices are damaged.')
  }
  const placeOf = createPlaces(document, scene, listObjGroups(text))
  for (const mesh of meshes) {
    const place = placeOf(mesh.name)
    const node = document.createNode(mesh.name).setMesh(document.createMesh(mesh.name))
    const materials = Array.isArray(mesh.material) ? mesh.material : [mesh.material]
    for (const { start, count, material } of groupsOf(mesh.geometry)) {
      const primitive = createFlatPrimitive(document, mesh.geometry, start, count)
      if (!primitive) continue
      const written = await writer((materials[material] as ThreeMaterial | undefined)?.name ?? '')
      node.getMesh()!.addPrimitive(primitive.setMaterial(written))
    }
    if (node.getMesh()!.listPrimitives().length > 0) place().addChild(node)
    else node.dispose()
  }
  if (scene.listChildren().length === 0) throw new FileError('malformed', 'The OBJ file holds no faces.')
  await document.transform(weld())
  return document
}

/** Where the objects of an OBJ file stand, asked for in its order: in its groups, each a node, or in the scene. */
function createPlaces(document: Document, scene: Scene, objects: ReturnType<typeof listObjGroups>) {
  const nodes = new Map<string, Node>()
  let next = 0
  return (name: string): (() => Scene | Node) => {
    let at = next
    while (at < objects.length && objects[at].name !== name) at++
    if (at === objects.length) return () => scene
    next = at + 1
    return () => {
      let [parent, path]: [Scene | Node, string] = [scene, '']
      for (const group of objects[at].groups) {
        path += ` ${group}`
        const node = nodes.get(path) ?? document.createNode(group)
        if (!nodes.has(path)) parent.addChild(node)
        nodes.set(path, node)
        parent = node
      }
      return parent
    }
  }
}

/** Beside faces the loader takes all of a thing for lines where it has one. */
const LINES_AND_POINTS = /^[ \t]*[lp][ \t].*$/gm

/** Materials of an OBJ file by their names, and whether what stands beside a map multiplies it. */
type ObjMaterials = Record<string, { entry: MtlEntry; multiplies: boolean }>

/** Turns MTL entries into glTF materials, each once. An entry that is not there gives none. */
function createMaterialWriter(document: Document, entries: ObjMaterials, resolve: Resolve, missing: string[]) {
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
    return toPng(bytes)
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

  const planeOf = async (statement: string | number[] | undefined): Promise<PlaneSource | null> => {
    const bytes = await read(statement)
    return bytes && { bytes, channel: mapChannel(statement as string) }
  }
  const isSameFile = (a: string | number[] | undefined, b: string | number[] | undefined): boolean =>
    typeof a === 'string' && typeof b === 'string' && mapAddress(a) === mapAddress(b)

  /** Roughness in green and metalness in blue, as glTF has them. */
  const surfaceOf = async ({ map_pr, map_pm }: MtlEntry): Promise<Texture | null> => {
    const isPacked = isSameFile(map_pr, map_pm) && mapChannel(map_pr as string) === 1 && mapChannel(map_pm as string) === 2
    if (isPacked) return textureOf(map_pr)
    const packed = await packSurface(await planeOf(map_pr), await planeOf(map_pm))
    return packed && putTexture('roughness and metalness', packed)
  }

  /** The colour with what cuts it out as its alpha. */
  const colorOf = async ({ map_kd, map_d }: MtlEntry): Promise<Texture | null> => {
    const color = await read(map_kd)
    if (!color || isSameFile(map_kd, map_d)) return textureOf(map_kd)
    const opacity = await planeOf(map_d)
    return opacity ? putTexture(mapAddress(map_kd as string), await withOpacity(color, opacity)) : textureOf(map_kd)
  }

  const make = async (name: string, { entry, multiplies }: ObjMaterials[string]): Promise<Material> => {
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
    const base = await colorOf(entry)
    const surface = await surfaceOf(entry)
    const bump = entry.norm ?? entry.map_bump ?? entry.bump
    const isNormal = entry.norm !== undefined || (typeof bump === 'string' && parseMapName(mapAddress(bump)).role === 'normal')
    const kd = color('kd') ?? [0.8, 0.8, 0.8]
    const material = document
      .createMaterial(name)
      // Many programs write black beside a texture and mean the texture.
      .setBaseColorFactor([...(base && !multiplies ? ([1, 1, 1] as const) : kd), alpha] as [number, number, number, number])
      .setBaseColorTexture(base)
      .setRoughnessFactor(surface && entry.map_pr !== undefined && !multiplies ? 1 : Math.min(1, Math.max(0, roughness)))
      .setMetallicFactor(surface && entry.map_pm !== undefined && !multiplies ? 1 : Math.min(1, Math.max(0, number('pm') ?? 0)))
      .setMetallicRoughnessTexture(surface)
      .setNormalTexture(isNormal ? await textureOf(bump) : null)
      .setEmissiveTexture(await textureOf(entry.map_ke))
    setEmission(document, material, color('ke') ?? [0, 0, 0])
    setCoat(document, material, number('pc') ?? 0, number('pcr') ?? 0)
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
