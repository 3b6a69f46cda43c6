import {
  type Camera,
  type Document,
  type Material as GltfMaterial,
  type Mesh as GltfMesh,
  Node,
  type Primitive,
  type Texture,
  WebIO,
} from '@gltf-transform/core'
import {
  ALL_EXTENSIONS,
  type Anisotropy,
  type Clearcoat,
  type Dispersion,
  type EmissiveStrength,
  type IOR,
  type Iridescence,
  type Light,
  type Sheen,
  type Specular,
  type Transform,
  type Transmission,
  type Volume,
} from '@gltf-transform/extensions'
import { FileError } from '../findings/failure'
import { EMISSION_WHITE_NITS } from '../material/emission'
import { fromGltfAnisotropy } from '../material/gltf-anisotropy'
import {
  createMaterial,
  type OpenPbrMaterial,
  parametersOfDispersion,
  type TextureBinding,
  type TextureSlot,
} from '../material/open-pbr'
import { IDENTITY_MATRIX } from '../math/matrix'
import type { Vec3 } from '../math/vec3'
import { readStamp, type Stamp } from '../stamp'
import { accessorFloats } from './accessor-floats'
import { computeNormalsInPlace, type Mesh } from './mesh'
import type { Model, ModelCamera, ModelGroup, ModelImage, ModelLight, ModelPart } from './model'
import { partName } from './part-primitives'

const MAX_TRIANGLES = 20_000_000

/**
 * Reads a binary glTF (Khronos, glTF 2.0) as {@link modelFromDocument} does.
 * @throws FileError when it ends early, does not read, names vertices that are not there or has too many triangles
 */
export async function parseGlb(bytes: Uint8Array): Promise<Model> {
  if (bytes.length < 20) throw new FileError('truncated', 'The file ends inside its glTF header.')
  const declared = new DataView(bytes.buffer, bytes.byteOffset).getUint32(8, true)
  if (declared > bytes.length)
    throw new FileError('truncated', `The glTF header promises ${declared} bytes, the file has ${bytes.length}.`)
  let document: Document
  try {
    document = await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(bytes)
  } catch {
    throw new FileError('malformed', 'The glTF structure does not read: its JSON or its buffers are damaged.')
  }
  return modelFromDocument(document)
}

export interface ReadModelOptions {
  /** Whether what stands at several places is one mesh for all of them, each with its placement; otherwise each has its own, in world space. */
  sharesShapes?: boolean
}

/**
 * Every primitive of every node that stands in the scene becomes a part in world space (metres, y up), triangles only; metal-rough
 * materials with their extensions become OpenPBR, emission in cd/m²; pictures stay encoded.
 * @throws FileError when a triangle names a vertex that is not there, a position is not finite, there are too many triangles, or nothing but
 *   points and lines
 */
export function modelFromDocument(document: Document, { sharesShapes = false }: ReadModelOptions = {}): Model {
  const root = document.getRoot()
  const images: ModelImage[] = []
  const imageIndex = new Map<Texture, number>()
  const textureImage = (texture: Texture | null): number => {
    const bytes = texture?.getImage()
    if (!texture || !bytes) return -1
    let index = imageIndex.get(texture)
    if (index === undefined) {
      index = images.push({ name: texture.getName() || texture.getURI(), mediaType: texture.getMimeType(), bytes }) - 1
      imageIndex.set(texture, index)
    }
    return index
  }
  const gltfMaterials = root.listMaterials()
  const materials = gltfMaterials.map(m => readGltfMaterial(m, textureImage))
  const parts: ModelPart[] = []
  let triangles = 0
  const lights: ModelLight[] = []
  const cameras: ModelCamera[] = []
  let emptyNodes = 0
  const groupsOf = createGroups(root.listNodes())
  const shown = nodesOfScenes(document)
  const shared = new Map<Primitive, ReadPart | null>()
  const isShared = (mesh: GltfMesh, node: Node) =>
    sharesShapes && mesh.listParents().filter(p => p instanceof Node).length > 1 && stretchOf(node.getWorldMatrix()) > 0
  const readShared = (primitive: Primitive): ReadPart | null => {
    const known = shared.get(primitive)
    if (known !== undefined) return known
    const read = readPrimitive(primitive, IDENTITY_MATRIX)
    shared.set(primitive, read)
    triangles += (read?.mesh.indices.length ?? 0) / 3
    return read
  }
  for (const [nodeIndex, node] of root.listNodes().entries()) {
    if (!shown.has(node)) continue
    const stray = { name: node.getName(), groups: groupsOf(node), stamp: readStamp(node.getExtras()) }
    const light = node.getExtension<Light>('KHR_lights_punctual')
    if (light) lights.push({ ...stray, ...readLight(light), placement: withoutScale(node.getWorldMatrix()) })
    const camera = node.getCamera()
    if (camera?.getType() === 'perspective')
      cameras.push({ ...stray, ...readCamera(camera), placement: withoutScale(node.getWorldMatrix()) })
    const mesh = node.getMesh()
    if (!mesh) {
      if (node.listChildren().length === 0 && !node.getCamera() && !node.getExtension('KHR_lights_punctual')) emptyNodes++
      continue
    }
    mesh.listPrimitives().forEach((primitive, i, all) => {
      const placement = isShared(mesh, node) ? node.getWorldMatrix() : null
      const part = placement ? readShared(primitive) : readPrimitive(primitive, node.getWorldMatrix())
      if (!part) return
      if (!placement) triangles += part.mesh.indices.length / 3
      if (triangles > MAX_TRIANGLES) throw new FileError('tooLarge', `The model has more than ${MAX_TRIANGLES} triangles.`)
      const material = primitive.getMaterial()
      parts.push({
        ...part,
        name: partName(node, primitive, i, all.length > 1),
        material: material ? gltfMaterials.indexOf(material) : -1,
        node: nodeIndex,
        groups: [...groupsOf(node), ...ownGroup(node, nodeIndex)],
        nodeStretch: stretchOf(node.getWorldMatrix()),
        ...(placement ? { placement } : {}),
      })
    })
  }
  if (parts.length === 0 && root.listMeshes().some(m => m.listPrimitives().length > 0))
    throw new FileError('unsupported', 'The model holds points or lines and no faces; there is no surface to show.')
  return {
    parts,
    materials,
    materialStamps: stampsOf(gltfMaterials),
    images,
    lights,
    cameras,
    missingFiles: readMissing(root.getExtras()[MISSING_FILES]),
    matchedFiles: readMatched(root.getExtras()[MATCHED_FILES]),
    lost: readMissing(root.getExtras()[LOST]),
    strays: { cameras: root.listCameras().length, lights: lights.length, emptyNodes, animations: root.listAnimations().length },
  }
}

function stampsOf(materials: readonly GltfMaterial[]): ReadonlyMap<number, Stamp> {
  const stamps = new Map<number, Stamp>()
  for (const [i, material] of materials.entries()) {
    const stamp = readStamp(material.getExtras())
    if (stamp) stamps.set(i, stamp)
  }
  return stamps
}

/** Nodes that stand in a scene; all of them where a file has none. What stands in none is shown by nobody. */
function nodesOfScenes(document: Document): ReadonlySet<Node> {
  const scenes = document.getRoot().listScenes()
  if (scenes.length === 0) return new Set(document.getRoot().listNodes())
  const found = new Set<Node>()
  for (const scene of scenes)
    scene.traverse(node => {
      found.add(node)
    })
  return found
}

/** A node with a mesh that is itself a thing of the library. */
function ownGroup(node: Node, index: number): ModelGroup[] {
  const stamp = readStamp(node.getExtras())
  return stamp && node.getName() ? [{ node: index, name: node.getName(), stamp }] : []
}

/** Of nodes those that they stand below, the outermost first; what has no name is no group to anybody. */
function createGroups(nodes: readonly Node[]): (node: Node) => readonly ModelGroup[] {
  const numbers = new Map(nodes.map((node, i) => [node, i]))
  const known = new Map<Node, readonly ModelGroup[]>()
  return function groupsOf(node: Node): readonly ModelGroup[] {
    const found = known.get(node)
    if (found) return found
    const parent = node.getParentNode()
    const groups = parent
      ? [
          ...groupsOf(parent),
          ...(parent.getName()
            ? [{ node: numbers.get(parent)!, name: parent.getName(), stamp: readStamp(parent.getExtras()) }]
            : []),
        ]
      : []
    known.set(node, groups)
    return groups
  }
}

/** Longest over shortest axis of a matrix, negative where it mirrors. */
function stretchOf(m: ArrayLike<number>): number {
  const lengths = [0, 4, 8].map(i => Math.hypot(m[i], m[i + 1], m[i + 2]))
  const stretch = Math.max(...lengths) / Math.max(Math.min(...lengths), 1e-12)
  const determinant =
    m[0] * (m[5] * m[10] - m[6] * m[9]) - m[4] * (m[1] * m[10] - m[2] * m[9]) + m[8] * (m[1] * m[6] - m[2] * m[5])
  return determinant < 0 ? -stretch : stretch
}

/** Under which the addresses of missing files are kept in the extras of a document's root, so that they are known as long as it is. */
export const MISSING_FILES = 'missingFiles'

/** Under which textures are kept that were found by what they are, each with what the model called it. */
export const MATCHED_FILES = 'matchedFiles'

/** Under which stands what a model came as, and what glTF does not hold of it. */
export const LOST = 'lostInReading'

const readMatched = (value: unknown): { address: string; file: string }[] =>
  (Array.isArray(value) ? value : [])
    .filter((v): v is [string, string] => Array.isArray(v) && v.length === 2 && v.every(w => typeof w === 'string'))
    .slice(0, 1000)
    .map(([address, file]) => ({ address, file }))

const readMissing = (value: unknown): string[] =>
  Array.isArray(value) ? value.filter((v): v is string => typeof v === 'string').slice(0, 1000) : []

function readLight(light: Light): Pick<ModelLight, 'kind' | 'color' | 'intensity' | 'coneRad'> {
  const kind = light.getType()
  const coneRad = kind === 'spot' ? light.getOuterConeAngle() : null
  return { kind, color: light.getColor() as Vec3, intensity: light.getIntensity(), coneRad }
}

/** As it is shown where nobody says how wide. */
const USUAL_ASPECT = 16 / 9
const readCamera = (camera: Camera): Pick<ModelCamera, 'yFovRad' | 'aspect'> => ({
  yFovRad: camera.getYFov(),
  aspect: camera.getAspectRatio() ?? USUAL_ASPECT,
})

/** A matrix whose axes have unit length. */
const withoutScale = (m: readonly number[]): number[] =>
  m.map((v, i) => {
    const axis = i - (i % 4)
    return axis === 12 ? v : v / (Math.hypot(m[axis], m[axis + 1], m[axis + 2]) || 1)
  })

type ReadPart = Pick<ModelPart, 'mesh' | 'hasUvs'> & { hasNormals: boolean }

/** @param m the matrix that carries it, column by column */
function readPrimitive(primitive: Primitive, m: readonly number[]): ReadPart | null {
  const TRIANGLES = 4
  const position = primitive.getAttribute('POSITION')
  if (!position || primitive.getMode() !== TRIANGLES) return null
  const count = position.getCount()
  const mesh: Mesh = {
    positions: new Float32Array(count * 3),
    normals: new Float32Array(count * 3),
    uvs: new Float32Array(count * 2),
    indices: Uint32Array.from(primitive.getIndices()?.getArray() ?? Array.from({ length: count }, (_, i) => i)),
  }
  for (const index of mesh.indices)
    if (index >= count) throw new FileError('malformed', `A triangle names vertex ${index} of ${count}.`)
  if (mesh.indices.length % 3 !== 0) mesh.indices = mesh.indices.slice(0, mesh.indices.length - (mesh.indices.length % 3))
  const p = accessorFloats(position, 3)
  for (let i = 0; i < count; i++) {
    for (let c = 0; c < 3; c++) {
      const value = m[c] * p[i * 3] + m[4 + c] * p[i * 3 + 1] + m[8 + c] * p[i * 3 + 2] + m[12 + c]
      if (!Number.isFinite(value)) throw new FileError('malformed', `Vertex ${i} has no finite position.`)
      mesh.positions[i * 3 + c] = value
    }
  }
  const determinant =
    m[0] * (m[5] * m[10] - m[6] * m[9]) - m[4] * (m[1] * m[10] - m[2] * m[9]) + m[8] * (m[1] * m[6] - m[2] * m[5])
  if (determinant < 0)
    for (let i = 0; i < mesh.indices.length; i += 3) {
      const t = mesh.indices[i + 1]
      mesh.indices[i + 1] = mesh.indices[i + 2]
      mesh.indices[i + 2] = t
    }
  const normal = primitive.getAttribute('NORMAL')
  const hasNormals = normal !== null && normal.getCount() === count
  if (normal && hasNormals) {
    const inverse = inverseTranspose3(m)
    const n = accessorFloats(normal, 3)
    for (let i = 0; i < count * 3; i += 3) {
      const x = inverse[0] * n[i] + inverse[1] * n[i + 1] + inverse[2] * n[i + 2]
      const y = inverse[3] * n[i] + inverse[4] * n[i + 1] + inverse[5] * n[i + 2]
      const z = inverse[6] * n[i] + inverse[7] * n[i + 1] + inverse[8] * n[i + 2]
      const l = Math.sqrt(x * x + y * y + z * z) || 1
      mesh.normals[i] = x / l
      mesh.normals[i + 1] = y / l
      mesh.normals[i + 2] = z / l
    }
  } else computeNormalsInPlace(mesh)
  const uv = primitive.getAttribute('TEXCOORD_0')
  const hasUvs = uv !== null && uv.getCount() === count
  if (hasUvs) mesh.uvs.set(accessorFloats(uv, 2))
  transformUvs(mesh.uvs, primitive.getMaterial())
  return { mesh, hasUvs, hasNormals }
}

/** KHR_texture_transform of a material's first texture that has one, worked into the coordinates: its textures share them here. */
function transformUvs(dstUvs: Float32Array, material: GltfMaterial | null): void {
  const infos = [
    material?.getBaseColorTextureInfo(),
    material?.getMetallicRoughnessTextureInfo(),
    material?.getNormalTextureInfo(),
  ]
  const transform = infos.map(info => info?.getExtension<Transform>('KHR_texture_transform') ?? null).find(t => t !== null)
  if (!transform) return
  const [ox, oy] = transform.getOffset()
  const [sx, sy] = transform.getScale()
  const [cos, sin] = [Math.cos(transform.getRotation()), Math.sin(transform.getRotation())]
  for (let i = 0; i < dstUvs.length; i += 2) {
    const [u, v] = [dstUvs[i] * sx, dstUvs[i + 1] * sy]
    dstUvs[i] = cos * u + sin * v + ox
    dstUvs[i + 1] = -sin * u + cos * v + oy
  }
}

/** Cofactors of the upper 3x3: carries normals through any affine transform, up to length. */
function inverseTranspose3(m: ArrayLike<number>): number[] {
  const [a, b, c, d, e, f, g, h, i] = [m[0], m[4], m[8], m[1], m[5], m[9], m[2], m[6], m[10]]
  const sign = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g) < 0 ? -1 : 1
  return [
    e * i - f * h,
    f * g - d * i,
    d * h - e * g,
    c * h - b * i,
    a * i - c * g,
    b * g - a * h,
    b * f - c * e,
    c * d - a * f,
    a * e - b * d,
  ].map(v => v * sign)
}

/** A glTF material with its KHR extensions as OpenPBR. `textureImage` gives the index of a texture's image, −1 for none. */
export function readGltfMaterial(material: GltfMaterial, textureImage: (t: Texture | null) => number): OpenPbrMaterial {
  const [r, g, b, alpha] = material.getBaseColorFactor()
  const ior = material.getExtension<IOR>('KHR_materials_ior')?.getIOR() ?? 1.5
  const transmission = material.getExtension<Transmission>('KHR_materials_transmission')
  const dispersion = material.getExtension<Dispersion>('KHR_materials_dispersion')
  const volume = material.getExtension<Volume>('KHR_materials_volume')
  const specular = material.getExtension<Specular>('KHR_materials_specular')
  const clearcoat = material.getExtension<Clearcoat>('KHR_materials_clearcoat')
  const sheen = material.getExtension<Sheen>('KHR_materials_sheen')
  const sheenWeight = sheen ? Math.max(...sheen.getSheenColorFactor()) : 0
  const anisotropy = material.getExtension<Anisotropy>('KHR_materials_anisotropy')
  const stretched = anisotropy ? fromGltfAnisotropy(material.getRoughnessFactor(), anisotropy.getAnisotropyStrength()) : null
  const iridescence = material.getExtension<Iridescence>('KHR_materials_iridescence')
  const emissive = material.getEmissiveFactor()
  const strength = material.getExtension<EmissiveStrength>('KHR_materials_emissive_strength')?.getEmissiveStrength() ?? 1
  const emits = emissive.some(v => v > 0)
  const textures: Partial<Record<TextureSlot, TextureBinding>> = {}
  const bind = (slot: TextureSlot, texture: Texture | null, channel: TextureBinding['channel'], more = {}) => {
    const image = textureImage(texture)
    if (image >= 0) textures[slot] = { image, channel, ...more }
  }
  bind('baseColor', material.getBaseColorTexture(), 0)
  bind('specularRoughness', material.getMetallicRoughnessTexture(), 1)
  bind('baseMetalness', material.getMetallicRoughnessTexture(), 2)
  bind('geometryNormal', material.getNormalTexture(), 0, { handedness: 'openGl' })
  if (emits) bind('emissionColor', material.getEmissiveTexture(), 0)
  if (material.getAlphaMode() !== 'OPAQUE') bind('geometryOpacity', material.getBaseColorTexture(), 3)
  const cutOut = material.getAlphaMode() === 'MASK' && material.getDoubleSided()
  return createMaterial(
    material.getName(),
    {
      baseColor: [r, g, b],
      geometryOpacity: material.getAlphaMode() === 'OPAQUE' ? 1 : alpha,
      baseMetalness: material.getMetallicFactor(),
      specularRoughness: stretched?.roughness ?? material.getRoughnessFactor(),
      specularRoughnessAnisotropy: stretched?.anisotropy,
      geometryTangentRotation: anisotropy ? anisotropy.getAnisotropyRotation() / (2 * Math.PI) : undefined,
      specularColor: specular ? (specular.getSpecularColorFactor() as [number, number, number]) : undefined,
      coatWeight: clearcoat?.getClearcoatFactor(),
      coatRoughness: clearcoat?.getClearcoatRoughnessFactor(),
      // The coat of glTF has one index and does not darken.
      coatIor: clearcoat ? 1.5 : undefined,
      coatDarkening: clearcoat ? 0 : undefined,
      fuzzWeight: sheen ? sheenWeight : undefined,
      fuzzColor:
        sheenWeight > 0 ? (sheen!.getSheenColorFactor().map(c => c / sheenWeight) as [number, number, number]) : undefined,
      fuzzRoughness: sheen?.getSheenRoughnessFactor(),
      thinFilmWeight: iridescence?.getIridescenceFactor(),
      thinFilmIor: iridescence?.getIridescenceIOR(),
      thinFilmThickness: iridescence ? iridescence.getIridescenceThicknessMaximum() / 1000 : undefined,
      specularWeight: specular?.getSpecularFactor(),
      specularIor: ior,
      transmissionWeight: transmission?.getTransmissionFactor(),
      transmissionColor: volume
        ? (volume.getAttenuationColor() as [number, number, number])
        : transmission
          ? [r, g, b]
          : undefined,
      transmissionDepth: volume && Number.isFinite(volume.getAttenuationDistance()) ? volume.getAttenuationDistance() : undefined,
      ...parametersOfDispersion(dispersion?.getDispersion()),
      // A transmissive glTF surface without thickness, and a cut-out leaf, are thin walls.
      geometryThinWalled: (transmission !== null && !(volume && volume.getThicknessFactor() > 0)) || cutOut,
      subsurfaceWeight: cutOut ? 0.7 : undefined,
      subsurfaceColor: cutOut ? [1, 1, 1] : undefined,
      emissionLuminance: emits ? EMISSION_WHITE_NITS * strength : undefined,
      emissionColor: emits ? (emissive as [number, number, number]) : undefined,
    },
    { textures },
  )
}
