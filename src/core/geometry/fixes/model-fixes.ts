import type { Document, Node, Primitive } from '@gltf-transform/core'
import { prune, simplify, weld } from '@gltf-transform/functions'
import { MeshoptSimplifier } from 'meshoptimizer'
import type { Vec3 } from '../../math/vec3'
import { accessorFloats } from '../accessor-floats'
import { measurePart } from '../measure-part'
import type { Mesh } from '../mesh'
import { isTellingName } from '../part-names'
import { listPartPrimitives } from '../part-primitives'

/** Fixes of a model work on its glTF document, so that whatever else the file holds stays as it is. */

const topNodes = (document: Document): Node[] => [
  ...new Set(
    document
      .getRoot()
      .listScenes()
      .flatMap(s => s.listChildren()),
  ),
]

/**
 * The whole model larger or smaller about its origin.
 * @throws RangeError when the factor is not a positive, finite number
 */
export function rescale(document: Document, factor: number): void {
  if (!(factor > 0) || !Number.isFinite(factor)) throw new RangeError(`factor: ${factor} is no scale`)
  for (const node of topNodes(document)) {
    const [x, y, z] = node.getTranslation()
    const [sx, sy, sz] = node.getScale()
    node.setTranslation([x * factor, y * factor, z * factor]).setScale([sx * factor, sy * factor, sz * factor])
  }
}

/** The whole model moved, in metres. */
export function move(document: Document, [dx, dy, dz]: Vec3): void {
  for (const node of topNodes(document)) {
    const [x, y, z] = node.getTranslation()
    node.setTranslation([x + dx, y + dy, z + dz])
  }
}

/** Cameras, lights, animations and nodes that hold nothing are taken out. */
export async function dropStrays(document: Document): Promise<void> {
  const root = document.getRoot()
  for (const animation of root.listAnimations()) animation.dispose()
  for (const camera of root.listCameras()) camera.dispose()
  for (const node of root.listNodes()) node.setExtension('KHR_lights_punctual', null)
  for (const extension of root.listExtensionsUsed()) if (extension.extensionName === 'KHR_lights_punctual') extension.dispose()
  await document.transform(prune({ keepLeaves: false, keepAttributes: true, keepIndices: true, keepSolidTextures: true }))
}

/** Vertices that are the same become one; triangles without an area, and the second of two equal ones, go. */
export async function weldAndClean(document: Document): Promise<void> {
  await document.transform(weld())
  const seen = new Set<Primitive>()
  for (const mesh of document.getRoot().listMeshes())
    for (const primitive of mesh.listPrimitives())
      if (!seen.has(primitive)) cleanTriangles(document, seen.add(primitive) && primitive)
}

function cleanTriangles(document: Document, primitive: Primitive): void {
  const TRIANGLES = 4
  const position = primitive.getAttribute('POSITION')
  const indices = primitive.getIndices()
  if (!position || !indices || primitive.getMode() !== TRIANGLES) return
  const old = indices.getArray()!
  const kept: number[] = []
  const known = new Set<string>()
  const at = (i: number): Vec3 => position.getElement(i, [0, 0, 0]) as Vec3
  for (let i = 0; i + 2 < old.length; i += 3) {
    const [a, b, c] = [at(old[i]), at(old[i + 1]), at(old[i + 2])]
    const [ux, uy, uz] = [b[0] - a[0], b[1] - a[1], b[2] - a[2]]
    const [vx, vy, vz] = [c[0] - a[0], c[1] - a[1], c[2] - a[2]]
    if (!(Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) > 2e-12)) continue
    const key = [old[i], old[i + 1], old[i + 2]].sort((p, q) => p - q).join()
    if (known.has(key)) continue
    known.add(key)
    kept.push(old[i], old[i + 1], old[i + 2])
  }
  if (kept.length === old.length) return
  const array = position.getCount() > 65535 ? Uint32Array.from(kept) : Uint16Array.from(kept)
  primitive.setIndices(document.createAccessor().setType('SCALAR').setArray(array).setBuffer(indices.getBuffer()))
  if (indices.listParents().length <= 1) indices.dispose()
}

/** Triangles of the named parts the other way round, and vertex normals with them where they looked inwards as well. */
export function turnOutwards(document: Document, partNames: ReadonlySet<string>): void {
  const found = listPartPrimitives(document).filter(p => partNames.has(p.name))
  for (const primitive of new Set(found.map(f => f.primitive))) {
    const indices = primitive.getIndices()
    const array = indices?.getArray()?.slice()
    const agreed = normalsAgree(primitive)
    if (indices && array) {
      for (let i = 0; i + 2 < array.length; i += 3) [array[i + 1], array[i + 2]] = [array[i + 2], array[i + 1]]
      indices.setArray(array)
    }
    const normal = primitive.getAttribute('NORMAL')
    const normals = normal?.getArray()?.slice()
    if (normal && normals && agreed) {
      for (let i = 0; i < normals.length; i++) normals[i] = -normals[i]
      normal.setArray(normals)
    }
  }
}

/** Whether most of the surface is shaded from the side that its triangles face. */
function normalsAgree(primitive: Primitive): boolean {
  const position = primitive.getAttribute('POSITION')
  const normal = primitive.getAttribute('NORMAL')
  const indices = primitive.getIndices()
  if (!position || !normal || !indices) return true
  const mesh: Mesh = {
    positions: accessorFloats(position, 3),
    normals: accessorFloats(normal, 3),
    uvs: new Float32Array(position.getCount() * 2),
    indices: Uint32Array.from(indices.getArray()!),
  }
  return measurePart(mesh).againstShare <= 0.5
}

/** Parts whose names say nothing are called by what they are made of, and numbered. */
export function nameParts(document: Document): void {
  const counts = new Map<string, number>()
  for (const node of document.getRoot().listNodes()) {
    const mesh = node.getMesh()
    if (!mesh || isTellingName(node.getName() || mesh.getName())) continue
    const material = mesh.listPrimitives()[0]?.getMaterial()?.getName() ?? ''
    const base = isTellingName(material) ? material : 'Part'
    const number = (counts.get(base) ?? 0) + 1
    counts.set(base, number)
    node.setName(number === 1 && base !== 'Part' ? base : `${base} ${number}`)
  }
}

/** Largest deviation a reduction may cost, as a share of the model's extent. */
const MOST_ERROR = 0.01

/** Fewer triangles, down to a budget or as far as the shape stays within a hundredth of the extent (meshoptimizer's quadrics). */
export async function reduceToBudget(document: Document, triangles: number, budget: number): Promise<void> {
  await MeshoptSimplifier.ready
  await document.transform(
    weld(),
    simplify({
      simplifier: MeshoptSimplifier,
      ratio: Math.min(1, (budget * 0.98) / triangles),
      error: MOST_ERROR,
      lockBorder: false,
    }),
  )
}
