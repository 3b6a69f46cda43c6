import { type Document, Logger, type Material, type Primitive, WebIO } from '@gltf-transform/core'
import { ALL_EXTENSIONS } from '@gltf-transform/extensions'
import { dedup, prune, weld } from '@gltf-transform/functions'
import { MeshoptSimplifier } from 'meshoptimizer'
import { FileError } from '../../findings/failure'
import type { Vec3 } from '../../math/vec3'
import { boundsOfMeshes, largestExtent } from '../mesh'
import { modelFromDocument } from '../read-gltf'

/** Share of the triangles that each level keeps of the whole. */
const LEVEL_RATIOS = [0.5, 0.2, 0.06]
/** A level that saves less than this over the one before it is not worth its file. */
const LEAST_SAVING = 0.2
/** Largest deviation that a level may cost, as a share of the extent: at a hundred pixels tall, five. */
const MOST_ERROR = 0.05

export const STAND_IN_TRIANGLES = 2000

export interface Level {
  bytes: Uint8Array
  triangles: number
  /** Largest deviation from the whole as a share of its extent (meshoptimizer's quadric error). */
  error: number
  /** Height on screen up to which it is less than a pixel off. */
  goodUpToPx: number
}

/**
 * Coarser levels of a binary glTF, best first; fewer where the shape does not bear reduction.
 * @throws FileError when it does not read
 */
export async function makeLevels(bytes: Uint8Array): Promise<Level[]> {
  const levels: Level[] = []
  let last = countTriangles(await open(bytes))
  for (const ratio of LEVEL_RATIOS) {
    const document = await open(bytes)
    const error = await reduce(document, ratio, MOST_ERROR)
    const triangles = countTriangles(document)
    if (triangles > last * (1 - LEAST_SAVING)) continue
    last = triangles
    document.getRoot().setExtras({ ...document.getRoot().getExtras(), lodError: error })
    levels.push({ bytes: await io().writeBinary(document), triangles, error, goodUpToPx: goodUpTo(error) })
  }
  return levels
}

/** A deviation of one pixel at that height. */
const goodUpTo = (error: number): number => Math.round(1 / Math.max(error, 1e-4))

/**
 * A light stand-in for heavy scenes: below 2,000 triangles, its bounds those of the whole, each material one colour without textures.
 * @param meanColorOf linear mean colour of an encoded texture; null when it does not decode
 */
export async function makeStandIn(
  bytes: Uint8Array,
  meanColorOf: (picture: Uint8Array) => Promise<Vec3 | null>,
): Promise<{ bytes: Uint8Array; triangles: number }> {
  const document = await open(bytes)
  for (const material of document.getRoot().listMaterials()) await flatten(material, meanColorOf)
  const before = boundsOf(document)
  const ratio = STAND_IN_TRIANGLES / Math.max(1, countTriangles(document))
  if (ratio < 1) {
    await reduce(document, ratio * 0.9, 1)
    if (countTriangles(document) >= STAND_IN_TRIANGLES) reduceSloppily(document)
    keepBounds(document, before)
  }
  await document.transform(prune({ keepAttributes: false }), dedup())
  return { bytes: await io().writeBinary(document), triangles: countTriangles(document) }
}

const io = () => new WebIO().registerExtensions(ALL_EXTENSIONS)

async function open(bytes: Uint8Array): Promise<Document> {
  try {
    const document = await io().readBinary(bytes)
    document.setLogger(new Logger(Logger.Verbosity.SILENT))
    return document
  } catch {
    throw new FileError('malformed', 'The glTF structure does not read: its JSON or its buffers are damaged.')
  }
}

const TRIANGLES = 4

const primitivesOf = (document: Document): Primitive[] => [
  ...new Set(
    document
      .getRoot()
      .listMeshes()
      .flatMap(m => m.listPrimitives())
      .filter(p => p.getMode() === TRIANGLES && p.getAttribute('POSITION') !== null),
  ),
]

const trianglesOf = (primitive: Primitive): number =>
  Math.floor((primitive.getIndices()?.getCount() ?? primitive.getAttribute('POSITION')?.getCount() ?? 0) / 3)

/** As often as a part is placed, so often its triangles count. */
export const countTriangles = (document: Document): number =>
  document
    .getRoot()
    .listNodes()
    .reduce(
      (sum, node) =>
        sum +
        (node
          .getMesh()
          ?.listPrimitives()
          .reduce((n, p) => n + trianglesOf(p), 0) ?? 0),
      0,
    )

/** Reduces every primitive by the same share. Returns the largest deviation as a share of the model's extent. */
async function reduce(document: Document, ratio: number, mostError: number): Promise<number> {
  await MeshoptSimplifier.ready
  await document.transform(weld())
  const extent = largestExtent(boundsOf(document))
  let worst = 0
  for (const primitive of primitivesOf(document)) {
    const { positions, indices } = arraysOf(primitive)
    const target = Math.max(3, Math.floor((indices.length * ratio) / 3) * 3)
    if (target >= indices.length) continue
    const [kept, error] = MeshoptSimplifier.simplify(indices, positions, 3, target, mostError, ['Prune'])
    if (kept.length === 0) continue
    setIndices(document, primitive, kept)
    worst = Math.max(worst, extent > 0 ? (error * MeshoptSimplifier.getScale(positions, 3)) / extent : 0)
  }
  await document.transform(prune({ keepAttributes: true, keepLeaves: true, keepSolidTextures: true }))
  return worst
}

/** Where keeping the topology leaves too much: by a grid, which merges whatever is near. */
function reduceSloppily(document: Document): void {
  const ratio = (STAND_IN_TRIANGLES * 0.8) / countTriangles(document)
  for (const primitive of primitivesOf(document)) {
    const { positions, indices } = arraysOf(primitive)
    const target = Math.max(3, Math.floor((indices.length * ratio) / 3) * 3)
    const [kept] = MeshoptSimplifier.simplifySloppy(indices, positions, 3, null, target, 1)
    if (kept.length > 0) setIndices(document, primitive, kept)
    else setIndices(document, primitive, indices.slice(0, 3))
  }
}

function arraysOf(primitive: Primitive): { positions: Float32Array; indices: Uint32Array } {
  const position = primitive.getAttribute('POSITION')!
  const array = position.getArray()!
  const positions = array instanceof Float32Array ? array : Float32Array.from(array as ArrayLike<number>)
  const given = primitive.getIndices()?.getArray()
  return { positions, indices: given ? Uint32Array.from(given) : Uint32Array.from({ length: position.getCount() }, (_, i) => i) }
}

function setIndices(document: Document, primitive: Primitive, indices: Uint32Array): void {
  const [buffer] = document.getRoot().listBuffers()
  primitive.setIndices(document.createAccessor().setType('SCALAR').setArray(Uint32Array.from(indices)).setBuffer(buffer))
}

const boundsOf = (document: Document) => boundsOfMeshes(modelFromDocument(document).parts.map(p => p.mesh))

/** Stretches the whole by the few hundredths that the reduction took off its ends. */
function keepBounds(document: Document, wanted: ReturnType<typeof boundsOf>): void {
  const now = boundsOf(document)
  const scale = [0, 1, 2].map(c => {
    const size = now.max[c] - now.min[c]
    return size > 1e-9 ? (wanted.max[c] - wanted.min[c]) / size : 1
  })
  const shift = [0, 1, 2].map(c => wanted.min[c] - now.min[c] * scale[c])
  for (const scene of document.getRoot().listScenes()) {
    const holder = document
      .createNode('stand-in')
      .setScale(scale as Vec3)
      .setTranslation(shift as Vec3)
    for (const child of scene.listChildren()) holder.addChild(child)
    scene.addChild(holder)
  }
}

async function flatten(material: Material, meanColorOf: (picture: Uint8Array) => Promise<Vec3 | null>): Promise<void> {
  const picture = material.getBaseColorTexture()?.getImage()
  const mean = picture ? await meanColorOf(picture) : null
  const [r, g, b, a] = material.getBaseColorFactor()
  if (mean) material.setBaseColorFactor([r * mean[0], g * mean[1], b * mean[2], a])
  material
    .setBaseColorTexture(null)
    .setMetallicRoughnessTexture(null)
    .setNormalTexture(null)
    .setOcclusionTexture(null)
    .setEmissiveTexture(null)
}
