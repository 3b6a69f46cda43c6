import { FileError } from '#core/findings/failure'
import { openGlbBytes, type SceneFile, type SceneJson, type SceneMaterial, type SceneTextureInfo } from './scene-file'

type Numbers = Record<string, unknown>

type ListName = 'images' | 'samplers' | 'textures' | 'materials' | 'bufferViews' | 'accessors' | 'meshes' | 'nodes'

/** A list of a scene's structure; an empty one where it has none yet. */
function listOf<K extends ListName>(json: SceneJson, name: K): NonNullable<SceneJson[K]> {
  json[name] ??= []
  return json[name]!
}

/** Where what was appended came to stand. */
export interface Appended {
  /** Numbers of the materials, by their places in the appended file. */
  materials: number[]
  meshes: number[]
  nodes: number[]
  /** Nodes that the appended scene begins with. */
  roots: number[]
}

/** A scene's structure that grows; its own numbers stay what they are. */
export class GrowingScene {
  readonly chunks: Uint8Array<ArrayBuffer>[] = []
  private length = 0

  constructor(
    readonly json: SceneJson,
    /** Number of the buffer that takes what is new. */
    private readonly buffer: number,
    /** Bytes that it begins after. */
    private readonly start: number,
  ) {}

  get added(): number {
    return this.length
  }

  /** Appends bytes and gives the number of their view. */
  putBytes(bytes: Uint8Array<ArrayBuffer>): number {
    const views = listOf(this.json, 'bufferViews')
    views.push({ buffer: this.buffer, byteOffset: this.start + this.length, byteLength: bytes.length })
    const padding = new Uint8Array((4 - (bytes.length % 4)) % 4)
    this.chunks.push(bytes, padding)
    this.length += bytes.length + padding.length
    return views.length - 1
  }

  /** Appends a binary glTF, all of it. */
  async append(glb: Uint8Array): Promise<Appended> {
    const other = openGlbBytes(glb)
    const materials = await this.putMaterials(other, other.json.materials ?? [], [])
    return { materials, ...(await this.putGeometry(other, materials)) }
  }

  /**
   * One material of a binary glTF with its pictures, for a place that it is given.
   * @param name where there are several; the first where none is called so
   * @param freeImages numbers of pictures that nothing shows any more; new ones take their places
   * @throws FileError where there is no material
   */
  async takeMaterial(glb: Uint8Array, name: string | null, freeImages: number[]): Promise<SceneMaterial> {
    const other = openGlbBytes(glb)
    const list = other.json.materials ?? []
    const wanted = list.find(m => m.name === name) ?? list[0]
    if (!wanted) throw new FileError('malformed', 'The item has no material.')
    await this.putMaterials(other, [wanted], freeImages)
    return this.json.materials!.pop()!
  }

  private async putMaterials(other: SceneFile, wanted: readonly SceneMaterial[], freeImages: number[]): Promise<number[]> {
    const { json } = this
    const from = other.json
    const usedTextures = new Set(wanted.flatMap(textureInfosOf).map(info => info.index))
    const usedImages = new Set([...usedTextures].map(t => from.textures?.[t]?.source))
    for (const key of ['extensionsUsed', 'extensionsRequired'] as const)
      if (from[key]) json[key] = [...new Set([...(json[key] ?? []), ...from[key]])]
    const images: number[] = []
    for (const [i, image] of (from.images ?? []).entries()) {
      if (!usedImages.has(i)) {
        images.push(-1)
        continue
      }
      const bytes = await other.readImage(i)
      const { uri: _, bufferView: __, ...rest } = image
      const put = { ...rest, ...(bytes ? { bufferView: this.putBytes(bytes) } : {}) }
      const list = listOf(json, 'images')
      const free = freeImages.shift()
      if (free === undefined) images.push(list.push(put) - 1)
      else {
        list[free] = put
        images.push(free)
      }
    }
    const samplers = (from.samplers ?? []).map(s => listOf(json, 'samplers').push(s) - 1)
    const textures = (from.textures ?? []).map(({ source, sampler, ...rest }, t) =>
      usedTextures.has(t)
        ? listOf(json, 'textures').push({
            ...rest,
            ...(source === undefined ? {} : { source: images[source] }),
            ...(sampler === undefined ? {} : { sampler: samplers[sampler] }),
          }) - 1
        : -1,
    )
    return wanted.map(m => {
      const moved = structuredClone(m)
      for (const info of textureInfosOf(moved)) info.index = textures[info.index]
      return listOf(json, 'materials').push(moved) - 1
    })
  }

  private async putGeometry(other: SceneFile, materials: readonly number[]): Promise<Omit<Appended, 'materials'>> {
    const { json } = this
    const from = other.json
    const views: number[] = []
    for (const [i, { buffer: _, byteOffset: __, ...rest }] of (from.bufferViews ?? []).entries()) {
      const isImage = (from.images ?? []).some(image => image.bufferView === i)
      if (isImage) views.push(-1)
      else {
        const view = this.putBytes(await other.readView(i))
        Object.assign(json.bufferViews![view], { ...rest, byteLength: rest.byteLength })
        views.push(view)
      }
    }
    const accessors = (from.accessors ?? []).map(
      ({ bufferView, ...rest }) =>
        listOf(json, 'accessors').push({ ...rest, ...(bufferView === undefined ? {} : { bufferView: views[bufferView] }) }) - 1,
    )
    const shift = (numbers: Numbers) => Object.fromEntries(Object.entries(numbers).map(([k, v]) => [k, accessors[v as number]]))
    const meshes = (from.meshes ?? []).map(mesh => {
      const primitives = mesh.primitives.map(p => ({
        ...p,
        attributes: shift(p.attributes),
        ...(p.indices === undefined ? {} : { indices: accessors[p.indices] }),
        ...(p.material === undefined ? {} : { material: materials[p.material] }),
      }))
      return listOf(json, 'meshes').push({ ...mesh, primitives }) - 1
    })
    const first = json.nodes?.length ?? 0
    const nodes = (from.nodes ?? []).map(({ mesh, children, camera: _, skin: __, extensions: ___, ...rest }) => {
      return (
        listOf(json, 'nodes').push({
          ...rest,
          ...(mesh === undefined ? {} : { mesh: meshes[mesh] }),
          ...(children ? { children: children.map(c => first + c) } : {}),
        }) - 1
      )
    })
    const roots = (from.scenes?.[from.scene ?? 0]?.nodes ?? []).map(n => first + n)
    return { meshes, nodes, roots }
  }
}

/** Every place of a material's JSON where it names a texture, in its extensions too. */
export function textureInfosOf(material: unknown): SceneTextureInfo[] {
  const found: SceneTextureInfo[] = []
  const visit = (value: unknown, key: string) => {
    if (typeof value !== 'object' || value === null || key === 'extras') return
    if (/texture$/i.test(key) && typeof (value as SceneTextureInfo).index === 'number') found.push(value as SceneTextureInfo)
    for (const [k, v] of Object.entries(value)) visit(v, k)
  }
  visit(material, '')
  return found
}
