import {
  type Camera,
  type Document,
  Document as GltfDocument,
  type Mesh as GltfMesh,
  type Material,
  type Node,
  type Texture,
} from '@gltf-transform/core'
import { KHRLightsPunctual } from '@gltf-transform/extensions'
import { weld } from '@gltf-transform/functions'
import sharp from 'sharp'
import type {
  BufferGeometry,
  Mesh,
  MeshPhysicalMaterial,
  Object3D,
  PerspectiveCamera,
  Texture as SceneTexture,
  Material as ThreeMaterial,
} from 'three'
import { FileError } from '#core/findings/failure'
import { toRadians } from '#core/math/angles'
import type { Vec3 } from '#core/math/vec3'
import { lampColor } from '#core/render/lights/photometric-profile'
import { toPng } from '../writing/house-picture'
import { type PlaneSource, packSurface, withOpacity } from './combine-maps'
import { addressOf, isStageCamera, stagePathOf, usdLightOf } from './loaded-scene'
import { setCoat, setEmission } from './material-extensions'

/** Bytes of a texture by its address; null where it did not come along. */
export type ReadTexture = (address: string) => Promise<Uint8Array | null>

/** A scene as glTF, with what glTF does not hold of it, in words for the people who get it. */
export async function writeScene(scene: Object3D, readTexture: ReadTexture): Promise<{ document: Document; lost: string[] }> {
  const document = new GltfDocument()
  document.createBuffer()
  const lost = new Set<string>()
  const materials = createMaterials(document, readTexture, lost)
  const meshes: WrittenMeshes = new Map()
  let triangles = 0
  const write = async (object: Object3D): Promise<Node> => {
    const node = document.createNode(object.name)
    object.updateMatrix()
    node.setMatrix(object.matrix.toArray())
    if (isMesh(object)) triangles += await writeMesh(document, object, node, { materials, meshes, lost })
    else if ((object as { isLine?: boolean }).isLine) lost.add('lines')
    else if ((object as { isPoints?: boolean }).isPoints) lost.add('points')
    if (isStageCamera(object)) node.setCamera(toCamera(document, object))
    if ((object as { isLight?: boolean }).isLight && !writeLight(document, object, node)) lost.add('lights')
    for (const child of object.children) if (isKept(child)) node.addChild(await write(child))
    return node
  }
  if (((scene as { animations?: unknown[] }).animations?.length ?? 0) > 0) lost.add('animation')
  document.createScene(scene.name).addChild(await write(scene))
  if (triangles === 0) throw new FileError('malformed', 'The model holds no triangles.')
  await document.transform(weld())
  return { document, lost: [...lost] }
}

const isMesh = (object: Object3D): object is Mesh => (object as Mesh).isMesh === true

/** What holds neither shapes nor lights or cameras whose figures are known is left out. */
const isKept = (object: Object3D): boolean =>
  isMesh(object) || isStageCamera(object) || usdLightOf(object) !== null || object.children.some(isKept)

function toCamera(document: Document, { fov, aspect, near }: PerspectiveCamera): Camera {
  return document
    .createCamera()
    .setType('perspective')
    .setYFov(toRadians(fov))
    .setAspectRatio(aspect)
    .setZNear(Math.max(near, 1e-3))
}

/** What a lamp's temperature is white beside: daylight, as that form has it. */
const WHITE_KELVIN = 6500

/** @returns whether what it gives is known */
function writeLight(document: Document, object: Object3D, node: Node): boolean {
  const light = usdLightOf(object)
  if (!light) return false
  const { kind, color, kelvin, coneRad, growsWithArea } = light
  const tint = kelvin === null ? [1, 1, 1] : lampColor(kelvin, WHITE_KELVIN)
  const tinted = color.map((v, k) => Math.max(0, v * tint[k]))
  // A colour of the standard has 1 at most.
  const peak = Math.max(1, ...tinted)
  const scale = growsWithArea ? Math.cbrt(Math.abs(object.matrixWorld.determinant())) ** 2 : 1
  const made = document
    .createExtension(KHRLightsPunctual)
    .createLight(object.name)
    .setType(kind)
    .setColor(tinted.map(v => v / peak) as Vec3)
    .setIntensity(light.intensity * scale * peak)
  if (coneRad !== null) made.setOuterConeAngle(Math.min(coneRad, Math.PI / 2)).setInnerConeAngle(0)
  node.setExtension('KHR_lights_punctual', made)
  return true
}

/** Meshes of shapes, by what each of them wears: one that stands at several places is there once. */
type WrittenMeshes = Map<BufferGeometry, Map<string, { mesh: GltfMesh; triangles: number }>>

type WriteMaterial = (material: ThreeMaterial | undefined) => Promise<Material | null>

async function writeMesh(
  document: Document,
  mesh: Mesh,
  node: Node,
  { materials, meshes, lost }: { materials: WriteMaterial; meshes: WrittenMeshes; lost: Set<string> },
): Promise<number> {
  const list = Array.isArray(mesh.material) ? mesh.material : [mesh.material]
  const ofShape = meshes.get(mesh.geometry) ?? new Map<string, { mesh: GltfMesh; triangles: number }>()
  meshes.set(mesh.geometry, ofShape)
  const worn = list.map(m => stagePathOf(m) ?? m.uuid).join(' ')
  const known = ofShape.get(worn)
  if (known) {
    if (known.triangles > 0) node.setMesh(known.mesh)
    return known.triangles
  }
  const flat = mesh.geometry.index ? mesh.geometry.toNonIndexed() : mesh.geometry
  if (flat.getAttribute('color')) lost.add('colours of vertices')
  const target = document.createMesh(mesh.name)
  let triangles = 0
  for (const { start, count, material: index } of groupsOf(flat)) {
    const primitive = createFlatPrimitive(document, flat, start, count)
    if (!primitive) continue
    triangles += Math.floor(count / 3)
    target.addPrimitive(primitive.setMaterial(await materials(list[index])))
  }
  ofShape.set(worn, { mesh: target, triangles })
  if (triangles > 0) node.setMesh(target)
  return triangles
}

/** Vertices of each material, in order; one for all where a geometry has none. */
export const groupsOf = (geometry: BufferGeometry) => {
  const vertices = geometry.getAttribute('position')?.count ?? 0
  return geometry.groups.length > 0
    ? geometry.groups.map(g => ({ start: g.start, count: Math.min(g.count, vertices - g.start), material: g.materialIndex ?? 0 }))
    : [{ start: 0, count: vertices, material: 0 }]
}

/** Whole triangles of a geometry without indices; null where there is none. @throws FileError where a value is no number */
export function createFlatPrimitive(document: Document, geometry: BufferGeometry, start: number, count: number) {
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
    if (!attribute || attribute.count < start + whole) continue
    const array = new Float32Array(whole * size)
    for (let i = 0; i < whole; i++) for (let c = 0; c < size; c++) array[i * size + c] = attribute.getComponent(start + i, c)
    if (array.some(v => !Number.isFinite(v))) throw new FileError('malformed', 'The model has a value that is no number.')
    // The origin of texture coordinates is below in these formats and above in glTF.
    if (name === 'uv') for (let i = 1; i < array.length; i += 2) array[i] = 1 - array[i]
    primitive.setAttribute(semantic, document.createAccessor().setType(type).setArray(array).setBuffer(buffer))
  }
  return primitive
}

/** What the materials of any loader may have, beside what all of them have. */
type AnyMaterial = Partial<
  MeshPhysicalMaterial & { shininess: number; specularMap: SceneTexture | null; isMeshPhongMaterial: boolean }
> & { name: string }

/**
 * What a stage says of the values of a map: a factor, where that is all, as glTF has it; otherwise what is to be worked into the picture.
 */
function readingOf(
  texture: SceneTexture | null | undefined,
): { factor: number; worked: null } | { factor: null; worked: { scale: number; bias: number } } {
  const first = (list: unknown): number | null => (Array.isArray(list) && Number.isFinite(list[0]) ? Number(list[0]) : null)
  const scale = first(texture?.userData.scale) ?? 1
  const bias = first(texture?.userData.bias) ?? 0
  return bias === 0 && scale >= 0 && scale <= 1 ? { factor: scale, worked: null } : { factor: null, worked: { scale, bias } }
}

async function hasAlpha(texture: Texture | null): Promise<boolean> {
  const bytes = texture?.getImage()
  return bytes ? !(await sharp(bytes).stats()).isOpaque : false
}

const clamp = (v: number): number => Math.min(1, Math.max(0, v))

function createMaterials(document: Document, readTexture: ReadTexture, lost: Set<string>): WriteMaterial {
  const made = new Map<ThreeMaterial | string, Promise<Material>>()
  const textures = new Map<string, Promise<Texture | null>>()
  const read = async (texture: SceneTexture | null | undefined): Promise<{ address: string; bytes: Uint8Array } | null> => {
    const address = addressOf(texture)
    const bytes = address === null ? null : await readTexture(address)
    return address !== null && bytes ? { address, bytes } : null
  }
  const put = (name: string, bytes: Uint8Array, mimeType: string) =>
    document.createTexture(name.split(/[\\/]/).pop()).setImage(new Uint8Array(bytes)).setMimeType(mimeType)
  const textureOf = (texture: SceneTexture | null | undefined): Promise<Texture | null> => {
    const address = addressOf(texture)
    if (address === null) return Promise.resolve(null)
    const known = textures.get(address)
    if (known) return known
    const making = read(texture).then(async found => {
      if (!found) return null
      const kind =
        found.bytes[0] === 0xff && found.bytes[1] === 0xd8 ? 'image/jpeg' : found.bytes[0] === 0x89 ? 'image/png' : null
      return kind ? put(address, found.bytes, kind) : put(address, await toPng(found.bytes), 'image/png')
    })
    textures.set(address, making)
    return making
  }
  const planeOf = async (texture: SceneTexture | null | undefined): Promise<PlaneSource | null> => {
    const found = await read(texture)
    const { worked } = readingOf(texture)
    return found && { bytes: found.bytes, channel: null, ...(worked ? { reading: worked } : {}) }
  }
  /** Roughness in green, metalness in blue, as glTF has them. */
  const surfaceOf = async (m: AnyMaterial): Promise<Texture | null> => {
    if (addressOf(m.roughnessMap) !== null && addressOf(m.roughnessMap) === addressOf(m.metalnessMap))
      return textureOf(m.roughnessMap)
    const packed = await packSurface(await planeOf(m.roughnessMap), await planeOf(m.metalnessMap))
    return packed && put('roughness and metalness', packed, 'image/png')
  }
  /** The colour with what cuts it out as its alpha. */
  const colorOf = async (m: AnyMaterial): Promise<Texture | null> => {
    const [color, opacity] = [await read(m.map), await planeOf(m.alphaMap)]
    if (!color || !opacity || addressOf(m.map) === addressOf(m.alphaMap)) return textureOf(m.map)
    return put(color.address, await withOpacity(color.bytes, opacity), 'image/png')
  }
  const make = async (given: ThreeMaterial): Promise<Material> => {
    const m = given as AnyMaterial
    const about = m.name ? ` of ${m.name}` : ''
    if (m.specularMap) lost.add(`the specular map${about}`)
    if (m.bumpMap && !m.normalMap) lost.add(`the bump map${about}`)
    if (m.displacementMap) lost.add(`the displacement map${about}`)
    const surface = await surfaceOf(m)
    const base = await colorOf(m)
    // The exponent of Blinn's highlight as a roughness (Walter et al. 2007, with alpha the square of the roughness).
    const roughness =
      m.roughness ?? (m.isMeshPhongMaterial ? Math.sqrt(Math.sqrt(2 / (Math.max(0, m.shininess ?? 30) + 2))) : 0.7)
    const alpha = clamp(m.opacity ?? 1)
    const material = document
      .createMaterial(m.name)
      .setBaseColorFactor([
        ...(base && !m.color ? [1, 1, 1] : (m.color?.toArray() ?? [0.8, 0.8, 0.8]).map(clamp)),
        alpha,
      ] as never)
      .setBaseColorTexture(base)
      .setRoughnessFactor(clamp(roughness * (readingOf(m.roughnessMap).factor ?? 1)))
      .setMetallicFactor(clamp((m.metalness ?? 0) * (readingOf(m.metalnessMap).factor ?? 1)))
      .setMetallicRoughnessTexture(surface)
      .setNormalTexture(await textureOf(m.normalMap))
      .setEmissiveTexture(await textureOf(m.emissiveMap))
      .setDoubleSided(given.side === 2)
    const [r, g, b] = (m.emissive?.toArray() ?? [0, 0, 0]).map(v => Math.max(0, v * (m.emissiveIntensity ?? 1)))
    setEmission(document, material, [r, g, b])
    setCoat(document, material, m.clearcoat ?? 0, m.clearcoatRoughness ?? 0)
    if (alpha < 1 && given.transparent) material.setAlphaMode('BLEND')
    // Told to be seen through by what its colour map holds beside the colour.
    const isCutOut = m.alphaMap || (m.alphaTest ?? 0) > 0 || (given.transparent && alpha === 1 && (await hasAlpha(base)))
    if (isCutOut) material.setAlphaMode('MASK').setDoubleSided(true)
    return material
  }
  return material => {
    if (!material) return Promise.resolve(null)
    const key = stagePathOf(material) ?? material
    const known = made.get(key) ?? make(material)
    made.set(key, known)
    return known
  }
}
