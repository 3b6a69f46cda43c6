import { createWriteStream } from 'node:fs'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { LightPrint } from '#core/audit/compare-lights'
import type { Stamp } from '#core/stamp'
import { type Appended, GrowingScene, textureInfosOf } from './merge-glb'
import {
  listPunctualLights,
  type SceneFile,
  type SceneJson,
  type SceneMaterial,
  type SceneNode,
  type ScenePunctualLight,
} from './scene-file'

/** A thing of a scene that becomes what the library has. */
export type Correction = {
  /** Number of the material or the node in the file. */
  index: number
  stamp: Stamp
} & (MaterialCorrection | ModelCorrection | LightCorrection)

interface MaterialCorrection {
  kind: 'material'
  /** The item as it is handed over, as binary glTF. */
  glb: Uint8Array
  /** Of a model's own material: its name there. */
  materialName: string | null
}
interface ModelCorrection {
  kind: 'model'
  glb: Uint8Array
  /** Whether the thing stands in its node's frame, so that another can take its place. */
  standsInFrame: boolean
}
interface LightCorrection {
  kind: 'light'
  /** The luminaire's light as it comes. */
  print: LightPrint
  /** How far the scene has it dimmed: a share of what it gave before. */
  share: number
}

type Of<K extends Correction['kind']> = Extract<Correction, { kind: K }>

export interface Corrected {
  /** How many were put back. */
  done: number
  /** What was left as it is, and why. */
  refused: { kind: Correction['kind']; index: number; why: string }[]
}

/**
 * Puts library versions in the places of what a scene has, and writes it as binary glTF to `outPath`. What is not corrected stays as it is,
 * byte by byte: nodes keep their numbers, names and matrices, materials their numbers and names, and the way that textures lie.
 * @throws FileError where the scene is no glTF
 */
export async function correctScene(scene: SceneFile, corrections: readonly Correction[], outPath: string): Promise<Corrected> {
  const json = structuredClone(scene.json)
  const lengths = (json.buffers ?? []).map(b => b.byteLength)
  // All buffers become one, one behind the other; only where they begin changes for their views.
  const starts = lengths.map((_, i) => lengths.slice(0, i).reduce((sum, n) => sum + padded(n), 0))
  const before = lengths.reduce((sum, n) => sum + padded(n), 0)
  for (const view of json.bufferViews ?? []) {
    view.byteOffset = (view.byteOffset ?? 0) + starts[view.buffer]
    view.buffer = 0
    for (const e of Object.values(view.extensions ?? {}))
      if (e.buffer !== undefined) {
        e.byteOffset = (e.byteOffset ?? 0) + starts[e.buffer]
        e.buffer = 0
      }
  }
  const pictureViews = (json.images ?? []).map(i => i.bufferView).filter(v => v !== undefined)
  const growing = new GrowingScene(json, 0, before)
  await takeOutsidePicturesIn(scene, growing)
  const refused: Corrected['refused'] = []
  const appended = new Map<Uint8Array, Appended>()
  let done = 0
  for (const correction of corrections) {
    const why = correction.kind === 'model' ? whyNotReplaced(json, correction) : null
    if (why) {
      refused.push({ kind: correction.kind, index: correction.index, why })
      continue
    }
    switch (correction.kind) {
      case 'material':
        await replaceMaterial(growing, correction)
        break
      case 'model':
        await replaceModel(growing, correction, appended)
        break
      case 'light':
        replaceLight(json, correction)
        break
      default:
        correction satisfies never
    }
    done++
  }
  const dropped = dropPictures(json, pictureViews, before)
  json.buffers = [{ byteLength: before - lengthOf(dropped) + growing.added }]
  await writeGlb(scene, json, lengths, dropped, growing.chunks, outPath)
  return { done, refused }
}

const padded = (n: number): number => n + ((4 - (n % 4)) % 4)

/** Pictures that lie in files beside the scene go into it: it is one file afterwards. */
async function takeOutsidePicturesIn(scene: SceneFile, growing: GrowingScene): Promise<void> {
  for (const [i, image] of (growing.json.images ?? []).entries()) {
    if (image.uri === undefined) continue
    const bytes = await scene.readImage(i)
    if (!bytes) continue
    const { uri, ...rest } = image
    const name = rest.name ?? (uri.startsWith('data:') ? undefined : uri)
    growing.json.images![i] = {
      ...rest,
      ...(name === undefined ? {} : { name }),
      mimeType: bytes[0] === 0xff ? 'image/jpeg' : bytes[0] === 0x52 ? 'image/webp' : 'image/png',
      bufferView: growing.putBytes(bytes),
    }
  }
}

const shownImages = (json: SceneJson): Set<number> =>
  new Set(
    (json.materials ?? []).flatMap(textureInfosOf).flatMap(({ index }) => {
      const { source, extensions = {} } = json.textures?.[index] ?? {}
      const others = Object.values(extensions).map(e => (e as { source?: number }).source)
      return [source, ...others].filter(s => s !== undefined)
    }),
  )

async function replaceMaterial(growing: GrowingScene, { index, stamp, glb, materialName }: Of<'material'>): Promise<void> {
  const { json } = growing
  const list = json.materials!
  const old = list[index]
  const shownBefore = shownImages(json)
  list[index] = { name: old.name }
  const freeImages = [...shownBefore]
    .filter(i => !shownImages(json).has(i))
    .filter(i => json.images?.[i]?.bufferView !== undefined)
  const delivered = await growing.takeMaterial(glb, materialName, freeImages)
  list[index] = layAs({ ...delivered, name: old.name, extras: { ...old.extras, muscovite: stamp } }, old)
}

/** Textures lie as those before them did: on the same coordinates, moved, turned and scaled alike. */
function layAs(material: SceneMaterial, old: SceneMaterial): SceneMaterial {
  const [laid] = textureInfosOf(old)
  if (!laid) return material
  const transform = laid.extensions?.KHR_texture_transform
  for (const info of textureInfosOf(material)) {
    if (laid.texCoord !== undefined) info.texCoord = laid.texCoord
    if (transform) info.extensions = { ...info.extensions, KHR_texture_transform: transform }
  }
  return material
}

/** The luminaire's own light in its place; one that was dimmed stays as dim. */
function replaceLight(json: SceneJson, { index, stamp, print, share }: Of<'light'>): void {
  const node = json.nodes![index]
  const lights = listPunctualLights(json)
  const number = node.extensions!.KHR_lights_punctual.light!
  const { spot: _, ...kept } = lights[number]
  const light: ScenePunctualLight = {
    ...kept,
    type: print.kind,
    color: print.color,
    intensity: print.intensity * share,
    ...(print.coneRad === null ? {} : { spot: { innerConeAngle: 0, outerConeAngle: print.coneRad } }),
  }
  const isShared = json.nodes!.some(n => n !== node && n.extensions?.KHR_lights_punctual?.light === number)
  if (!isShared) lights[number] = light
  json.nodes![index] = {
    ...node,
    extensions: { ...node.extensions, KHR_lights_punctual: { light: isShared ? lights.push(light) - 1 : number } },
    extras: { ...node.extras, muscovite: stamp },
  }
}

const INSTANCING = 'EXT_mesh_gpu_instancing'

/** Null where a model can be replaced. */
function whyNotReplaced(json: SceneJson, { index, standsInFrame }: Of<'model'>): string | null {
  const below = subtreeOf(json, index)
  if (!standsInFrame) return 'Its place was worked into its vertices, so nobody can say where the library’s would have to stand.'
  if (below.some(n => json.nodes![n].skin !== undefined)) return 'It has bones, which the library’s has not.'
  const moving = new Set((json.animations ?? []).flatMap(a => (a.channels ?? []).map(c => c.target?.node)))
  if (below.some(n => n !== index && moving.has(n))) return 'Parts of it move.'
  return null
}

function subtreeOf(json: SceneJson, node: number): number[] {
  return [node, ...(json.nodes![node].children ?? []).flatMap(child => subtreeOf(json, child))]
}

async function replaceModel(growing: GrowingScene, { index, stamp, glb }: Of<'model'>, known: Map<Uint8Array, Appended>) {
  const { json } = growing
  const appended = known.get(glb) ?? unwrap(json, await growing.append(glb))
  // Nodes stand in one place only: the next that is alike gets nodes of its own over the same meshes.
  const roots = known.has(glb) ? appended.roots.map(r => copyNodes(json, r)) : appended.roots
  known.set(glb, appended)
  const node = json.nodes![index]
  const batch = [index, ...(node.children ?? [])].map(n => json.nodes![n].extensions?.[INSTANCING]).find(e => e !== undefined)
  if (batch)
    for (const n of roots.flatMap(r => subtreeOf(json, r)))
      if (json.nodes![n].mesh !== undefined) json.nodes![n].extensions = { [INSTANCING]: batch }
  const { mesh: _, ...rest } = node
  const kept = (node.children ?? []).filter(child => subtreeOf(json, child).some(n => isOfItsOwn(json.nodes![n], stamp)))
  json.nodes![index] = { ...rest, children: [...kept, ...roots], extras: { ...node.extras, muscovite: stamp } }
}

/** Without nodes that are there to hold what is below them together: the place that it is put in does the same. */
function unwrap(json: SceneJson, appended: Appended): Appended {
  const roots = appended.roots.flatMap(r => {
    const { children = [], ...node } = json.nodes![r]
    if (!onlyHolds(node) || children.length === 0) return [r]
    json.nodes![r] = node
    return children
  })
  return { ...appended, roots }
}

const onlyHolds = ({ mesh, matrix, translation, rotation, scale }: SceneNode): boolean =>
  [mesh, matrix, translation, rotation, scale].every(v => v === undefined)

function copyNodes(json: SceneJson, node: number): number {
  const { children, ...rest } = json.nodes![node]
  return json.nodes!.push({ ...rest, ...(children ? { children: children.map(c => copyNodes(json, c)) } : {}) }) - 1
}

/** What hangs below a model without being of it: a camera, a light, another item. */
function isOfItsOwn({ camera, extensions, extras }: SceneNode, stamp: Stamp): boolean {
  const other = (extras?.muscovite as Partial<Stamp> | undefined)?.code
  return camera !== undefined || extensions?.KHR_lights_punctual !== undefined || (other !== undefined && other !== stamp.code)
}

type Span = readonly [start: number, end: number]
const lengthOf = (spans: readonly Span[]): number => spans.reduce((sum, [start, end]) => sum + end - start, 0)

/**
 * Spans of bytes of pictures that nothing names any more and that nothing else lies in, in order; what lies behind them moves up. Lengths
 * are whole words, so that everything stays where computers like to read it.
 */
function dropPictures(json: SceneJson, pictureViews: readonly number[], before: number): Span[] {
  const views = json.bufferViews ?? []
  const named = new Set((json.images ?? []).map(i => i.bufferView))
  const dead = new Set(pictureViews.filter(v => !named.has(v) && (views[v].byteOffset ?? 0) < before))
  const live: Span[] = []
  for (const [v, view] of views.entries()) {
    if (dead.has(v)) continue
    const own = view.byteOffset ?? 0
    live.push([own, own + view.byteLength])
    for (const e of Object.values(view.extensions ?? {}))
      if (e.byteOffset !== undefined) live.push([e.byteOffset, e.byteOffset + (e.byteLength ?? 0)])
  }
  const spans = [...dead]
    .map(
      (v): Span => [
        Math.ceil((views[v].byteOffset ?? 0) / 8) * 8,
        Math.floor(((views[v].byteOffset ?? 0) + views[v].byteLength) / 8) * 8,
      ],
    )
    .filter(([start, end]) => end > start && !live.some(l => l[0] < end && l[1] > start))
    .sort((a, b) => a[0] - b[0])
    .filter(([start], k, all) => k === 0 || start >= all[k - 1][1])
  const moved = (offset: number) => offset - spans.reduce((sum, [start, end]) => (end <= offset ? sum + end - start : sum), 0)
  for (const [v, view] of views.entries()) {
    if (dead.has(v)) {
      // Nobody reads it; its number stays taken, so that no other changes.
      views[v] = { buffer: 0, byteOffset: 0, byteLength: 4 }
      continue
    }
    view.byteOffset = moved(view.byteOffset ?? 0)
    for (const e of Object.values(view.extensions ?? {})) if (e.byteOffset !== undefined) e.byteOffset = moved(e.byteOffset)
  }
  return spans
}

const PIECE = 32 * 1024 ** 2

async function writeGlb(
  scene: SceneFile,
  json: SceneJson,
  lengths: readonly number[],
  dropped: readonly Span[],
  chunks: readonly Uint8Array[],
  outPath: string,
): Promise<void> {
  const text = new TextEncoder().encode(JSON.stringify(json))
  const head = new Uint8Array(20 + padded(text.length) + 8)
  head.fill(0x20, 20, 20 + padded(text.length))
  head.set(text, 20)
  const view = new DataView(head.buffer)
  const binary = json.buffers![0].byteLength
  view.setUint32(0, 0x46546c67, true)
  view.setUint32(4, 2, true)
  view.setUint32(8, head.length + binary, true)
  view.setUint32(12, padded(text.length), true)
  view.setUint32(16, 0x4e4f534a, true)
  view.setUint32(20 + padded(text.length), binary, true)
  view.setUint32(24 + padded(text.length), 0x004e4942, true)
  async function* pieces() {
    yield head
    let start = 0
    for (const [buffer, length] of lengths.entries()) {
      const inside = dropped.map(([a, b]) => [a - start, b - start]).filter(([a, b]) => b > 0 && a < length)
      let at = 0
      for (const [from, to] of [...inside, [length, length]]) {
        for (; at < from; at = Math.min(from, at + PIECE)) yield await scene.readBuffer(buffer, at, Math.min(PIECE, from - at))
        at = to
      }
      yield new Uint8Array(padded(length) - length)
      start += padded(length)
    }
    yield* chunks
  }
  await pipeline(Readable.from(pieces()), createWriteStream(outPath))
}
