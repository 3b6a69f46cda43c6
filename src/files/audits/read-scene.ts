import { createHash } from 'node:crypto'
import type { LightPrint } from '#core/audit/compare-lights'
import { focalOf, readViewNote, type ViewPrint } from '#core/audit/compare-views'
import { type Facing, faceOf, type Lie, lieOf, saysDirection } from '#core/audit/how-it-lies'
import type { Digest } from '#core/audit/map-print'
import { type MaterialPrint, printMaterial } from '#core/audit/material-print'
import { type Matrix, type PartPrint, printPart, scaleOf } from '#core/audit/model-print'
import type { SceneTreeNode } from '#core/audit/scene-tree'
import { FileError } from '#core/findings/failure'
import { MISSING_FILES } from '#core/geometry/read-gltf'
import type { ByteImage } from '#core/image/image'
import type { OpenPbrMaterial } from '#core/material/open-pbr'
import { measurePattern, type Pattern } from '#core/material/pattern'
import { IDENTITY_MATRIX } from '#core/math/matrix'
import { readStamp, type Stamp } from '#core/stamp'
import { decodeByteImage, MAX_SIDE } from '../reading/decode-image'
import { readSceneMaterials, readScenePart } from './read-scene-parts'
import { listPunctualLights, type SceneFile, type SceneMaterial, type SceneNode } from './scene-file'

export interface SceneMaterialUse {
  /** Its number in the file. */
  index: number
  print: MaterialPrint
  /** Of all that it lies on. */
  areaM2: number
  /** Side of one repeat as it lies there; null where nothing says it. */
  repeatM: number | null
  lie: Lie
  /** Which way its colours run; null where nobody asks for it, or they are no picture. */
  pattern: Pick<Pattern, 'coherence' | 'directionDeg'> | null
  /** Names of the nodes that it lies on, the first few. */
  places: string[]
  /** Of its surface what is the finish of a type of parts, as an exported mock-up says. */
  types: { name: string; areaM2: number; parts: number }[]
}

export interface SceneLight {
  node: number
  name: string
  stamp: Stamp | null
  print: LightPrint
}

export interface SceneInventory {
  materials: SceneMaterialUse[]
  roots: SceneTreeNode[]
  lights: SceneLight[]
  /** Its cameras, with what was noted beside them. */
  views: ViewPrint[]
  triangles: number
  /** Parts whose geometry does not read, by the names of their meshes. */
  failures: string[]
}

export const digest: Digest = bytes => createHash('sha256').update(bytes).digest('base64').slice(0, 24)

/** Stamps of what a thing wears that is only referred to. */
export function wornStampsOf(extras: Record<string, unknown> | undefined): Stamp[] {
  const wears = (extras?.muscovite as { wears?: unknown } | undefined)?.wears
  return typeof wears === 'object' && wears !== null
    ? Object.values(wears).flatMap(worn => readStamp({ muscovite: worn }) ?? [])
    : []
}

/** Reads what is in a scene, one picture and one mesh at a time. */
export async function readScene(scene: SceneFile, onProgress: (share: number) => void = () => {}): Promise<SceneInventory> {
  const { json } = scene
  const meshes = json.meshes ?? []
  const images = json.images?.length ?? 0
  const steps = meshes.length + images || 1
  const failures: string[] = []
  const parts = new Map<number, ReadPart[]>()
  for (const [m, mesh] of meshes.entries()) {
    try {
      parts.set(m, await readMesh(scene, m))
    } catch (error) {
      if (!(error instanceof FileError)) throw error
      failures.push(mesh.name ?? `mesh ${m}`)
      parts.set(m, [])
    }
    onProgress((m + 1) / steps)
  }
  const uses = new Map<number, Use>()
  const lights: SceneLight[] = []
  const views: ViewPrint[] = []
  const visiting = new Set<number>()
  const build = (id: number, above: Matrix): SceneTreeNode => {
    const node = json.nodes?.[id]
    if (!node || visiting.has(id))
      throw new FileError('malformed', 'The glTF structure does not read: its nodes go round in a circle.')
    visiting.add(id)
    const world = multiply(above, localOf(node))
    const instances = instancesOf(scene, node)
    const light = printLight(scene, node)
    if (light) lights.push({ node: id, name: node.name ?? 'light', stamp: readStamp(node.extras), print: light })
    const view = printView(scene, node, world)
    if (view) views.push(view)
    const own = node.mesh === undefined ? [] : (parts.get(node.mesh) ?? [])
    for (const part of own) noteUse(uses, part, { world, instances, node, place: node.name ?? meshes[node.mesh!].name ?? '' })
    const built: SceneTreeNode = {
      id,
      name: node.name ?? '',
      stamp: readStamp(node.extras),
      world,
      parts: own.map(p => p.print),
      children: (node.children ?? []).map(child => build(child, world)),
      instances,
    }
    visiting.delete(id)
    return built
  }
  const shown = json.scenes?.[json.scene ?? 0]?.nodes ?? []
  const roots = shown.map(id => build(id, IDENTITY_MATRIX))
  const materials = await printMaterials(scene, uses, done => onProgress((meshes.length + done * images) / steps))
  const triangles = [...parts.values()].flat().reduce((sum, p) => sum + p.print.triangles, 0)
  return { materials, roots, lights, views, triangles, failures }
}

function printLight({ json }: SceneFile, { extensions }: SceneNode): LightPrint | null {
  const number = extensions?.KHR_lights_punctual?.light
  const light = number === undefined ? undefined : listPunctualLights(json)[number]
  if (!light) return null
  const { type, color = [1, 1, 1], intensity = 1, spot } = light
  // As the extension has it where nothing is said.
  return { kind: type, color, intensity, coneRad: type === 'spot' ? (spot?.outerConeAngle ?? Math.PI / 4) : null }
}

function printView({ json }: SceneFile, { camera, name, extras }: SceneNode, world: Matrix): ViewPrint | null {
  const lens = camera === undefined ? undefined : json.cameras?.[camera]?.perspective
  if (!lens) return null
  // It looks along -z.
  const length = Math.hypot(world[8], world[9], world[10]) || 1
  return {
    name: name ?? 'camera',
    focalMm: focalOf(lens.yfov),
    position: [world[12], world[13], world[14]],
    direction: [-world[8] / length, -world[9] / length, -world[10] / length],
    note: readViewNote((extras?.muscovite as { view?: unknown } | undefined)?.view),
  }
}

interface ReadPart {
  print: PartPrint
  /** Metres to one unit of the texture coordinates; null without them. */
  metresAUnit: number | null
  facing: Facing
}

interface Use {
  areaM2: number
  /** Sums of area times how it lies there. */
  level: number
  climb: number
  /** Area of what has coordinates. */
  drawn: number
  /** Sum of area times metres to a unit. */
  weighed: number
  weight: number
  places: Set<string>
  types: Map<string, { areaM2: number; parts: number }>
}

async function readMesh(scene: SceneFile, index: number): Promise<ReadPart[]> {
  const mesh = scene.json.meshes![index]
  const read: ReadPart[] = []
  for (const primitive of mesh.primitives) {
    const part = await readScenePart(scene, primitive)
    if (!part) continue
    const material = primitive.material ?? null
    const name =
      mesh.primitives.length > 1 ? (scene.json.materials?.[material ?? -1]?.name ?? mesh.name ?? '') : (mesh.name ?? '')
    read.push({
      ...{ print: printPart(name, part.mesh, material, digest), metresAUnit: metresAUnit(part) },
      facing: faceOf(part.mesh, part.uvs),
    })
  }
  return read
}

function metresAUnit({
  mesh: { positions: p, indices },
  uvs,
}: NonNullable<Awaited<ReturnType<typeof readScenePart>>>): number | null {
  if (!uvs) return null
  let [surface, plane] = [0, 0]
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [indices[i], indices[i + 1], indices[i + 2]]
    const u = [p[b * 3] - p[a * 3], p[b * 3 + 1] - p[a * 3 + 1], p[b * 3 + 2] - p[a * 3 + 2]]
    const v = [p[c * 3] - p[a * 3], p[c * 3 + 1] - p[a * 3 + 1], p[c * 3 + 2] - p[a * 3 + 2]]
    surface += Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0])
    plane += Math.abs(
      (uvs[b * 2] - uvs[a * 2]) * (uvs[c * 2 + 1] - uvs[a * 2 + 1]) -
        (uvs[c * 2] - uvs[a * 2]) * (uvs[b * 2 + 1] - uvs[a * 2 + 1]),
    )
  }
  return plane > 1e-12 ? Math.sqrt(surface / plane) : null
}

function noteUse(
  uses: Map<number, Use>,
  { print, metresAUnit: unit, facing }: ReadPart,
  { world, instances, node, place }: { world: Matrix; instances: number; node: SceneNode; place: string },
) {
  const { material } = print
  if (material === null) return
  const scale = scaleOf(world)
  const use = uses.get(material) ?? {
    ...{ areaM2: 0, level: 0, climb: 0, drawn: 0, weighed: 0, weight: 0 },
    ...{ places: new Set<string>(), types: new Map() },
  }
  uses.set(material, use)
  const area = print.moments.areaM2 * scale ** 2 * instances
  use.areaM2 += area
  const { level, climb } = lieOf(facing, world)
  use.level += area * level
  if (climb !== null) {
    use.climb += area * climb
    use.drawn += area
  }
  if (unit !== null) {
    use.weighed += area * unit * scale
    use.weight += area
  }
  if (use.places.size < MOST_PLACES) use.places.add(place)
  const type = (node.extras?.muscovite as { type?: unknown } | undefined)?.type
  if (typeof type !== 'string') return
  const ofType = use.types.get(type) ?? { areaM2: 0, parts: 0 }
  use.types.set(type, { areaM2: ofType.areaM2 + area, parts: ofType.parts + instances })
}

const MOST_PLACES = 12

/** Materials that lie on something, their pictures decoded one after the other, each once. */
async function printMaterials(scene: SceneFile, uses: ReadonlyMap<number, Use>, onProgress: (share: number) => void) {
  const { json } = scene
  const materials = await readSceneMaterials(scene)
  const lost = json.extras?.[MISSING_FILES]
  const used = [...uses].sort(([a], [b]) => a - b)
  const held = createImageHolder(
    scene,
    used.map(([index]) => materials[index]),
  )
  const printed: SceneMaterialUse[] = []
  for (const [index, use] of used) {
    const material = materials[index]
    if (!material) continue
    const missing: string[] = []
    const print = await printMaterial(
      material,
      async image => (await held.get(image)) ?? noteMissing(missing, json.images?.[image]),
      digest,
      {
        stamp: readStamp(json.materials?.[index].extras),
      },
    )
    const colors = material.textures.baseColor
    const picture = colors && saysDirection(material.name) ? await held.get(colors.image) : null
    held.release(material)
    printed.push({
      index,
      print: { ...print, missing },
      areaM2: use.areaM2,
      lie: { level: use.areaM2 > 0 ? use.level / use.areaM2 : 0, climb: use.drawn > 0 ? use.climb / use.drawn : null },
      pattern: picture && measurePattern(picture),
      repeatM: use.weight > 0 ? use.weighed / use.weight / transformScale(json.materials![index]) : null,
      places: [...use.places],
      types: [...use.types].map(([name, type]) => ({ name, ...type })),
    })
    onProgress(printed.length / used.length)
  }
  // Put together from files of which some were not there: which material asked for them is no longer known.
  if (Array.isArray(lost) && printed.length > 0)
    for (const { print } of printed)
      if (Object.keys(print.maps).length === 0 && lost.some(address => nameIn(String(address), print.name)))
        print.missing.push(...lost.map(String))
  return printed
}

const nameIn = (address: string, name: string): boolean => name.length > 3 && address.toLowerCase().includes(name.toLowerCase())

function noteMissing(missing: string[], image: { uri?: string; name?: string } | undefined): null {
  const address = image?.uri?.startsWith('data:') ? image.name : (image?.uri ?? image?.name)
  if (!missing.includes(address ?? 'a picture')) missing.push(address ?? 'a picture')
  return null
}

/** Keeps a decoded picture for as long as a material still wants it. */
export function createImageHolder(scene: Pick<SceneFile, 'readImage'>, materials: readonly OpenPbrMaterial[]) {
  const wanted = new Map<number, number>()
  const imagesOf = (m: OpenPbrMaterial | undefined) => new Set(Object.values(m?.textures ?? {}).map(b => b.image))
  for (const m of materials) for (const image of imagesOf(m)) wanted.set(image, (wanted.get(image) ?? 0) + 1)
  const held = new Map<number, Promise<ByteImage | null>>()
  const decode = async (image: number): Promise<ByteImage | null> => {
    const bytes = await scene.readImage(image)
    if (!bytes) return null
    try {
      return await decodeByteImage(bytes, MAX_SIDE)
    } catch (error) {
      if (error instanceof FileError) return null
      throw error
    }
  }
  return {
    get: (image: number): Promise<ByteImage | null> => {
      const known = held.get(image) ?? decode(image)
      held.set(image, known)
      return known
    },
    release: (material: OpenPbrMaterial): void => {
      for (const image of imagesOf(material)) {
        const left = (wanted.get(image) ?? 1) - 1
        wanted.set(image, left)
        if (left <= 0) held.delete(image)
      }
    },
  }
}

function transformScale({ pbrMetallicRoughness, normalTexture }: SceneMaterial): number {
  const infos = [pbrMetallicRoughness?.baseColorTexture, pbrMetallicRoughness?.metallicRoughnessTexture, normalTexture]
  for (const info of infos) {
    const transform = (info as { extensions?: Record<string, { scale?: number[] }> } | undefined)?.extensions
      ?.KHR_texture_transform
    if (transform?.scale) return Math.sqrt(Math.abs(transform.scale[0] * transform.scale[1])) || 1
  }
  return 1
}

function instancesOf({ json }: SceneFile, { extensions }: SceneNode): number {
  const attributes = extensions?.EXT_mesh_gpu_instancing?.attributes
  const [first] = Object.values(attributes ?? {})
  return first === undefined ? 1 : (json.accessors?.[first]?.count ?? 1)
}

function localOf({ matrix, translation: t = [0, 0, 0], rotation = [0, 0, 0, 1], scale: s = [1, 1, 1] }: SceneNode): Matrix {
  if (matrix) return matrix
  const [x, y, z, w] = rotation
  return [
    (1 - 2 * (y * y + z * z)) * s[0],
    2 * (x * y + z * w) * s[0],
    2 * (x * z - y * w) * s[0],
    0,
    2 * (x * y - z * w) * s[1],
    (1 - 2 * (x * x + z * z)) * s[1],
    2 * (y * z + x * w) * s[1],
    0,
    2 * (x * z + y * w) * s[2],
    2 * (y * z - x * w) * s[2],
    (1 - 2 * (x * x + y * y)) * s[2],
    0,
    t[0],
    t[1],
    t[2],
    1,
  ]
}

function multiply(a: Matrix, b: Matrix): Matrix {
  const out = new Array<number>(16).fill(0)
  for (let c = 0; c < 4; c++)
    for (let r = 0; r < 4; r++) for (let k = 0; k < 4; k++) out[c * 4 + r] += a[k * 4 + r] * b[c * 4 + k]
  return out
}
