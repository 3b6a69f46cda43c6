import type { Document, Primitive } from '@gltf-transform/core'
import { unweld, weld } from '@gltf-transform/functions'
import { toRadians } from '../../math/angles'
import { TripleTable } from '../../math/triple-table'
import { accessorFloats } from '../accessor-floats'
import { computeBounds } from '../mesh'
import { listPartPrimitives } from '../part-primitives'

/** Faces that meet at a flatter angle are one smooth surface; at a sharper one there is an edge. */
export const CREASE_DEG = 40
/** Two corners nearer than this share of the extent are in one place. */
const SAME = 1e-6

/**
 * Vertex normals of the named parts anew from their triangles: smooth over flat joints, an edge where it is sharper than CREASE_DEG.
 * Each face counts by its angle at the corner (Thürmer & Wüthrich 1998), so that how a surface is cut into triangles does not show.
 */
export async function recomputeNormals(document: Document, partNames: ReadonlySet<string>): Promise<void> {
  const primitives = new Set(listPartPrimitives(document).flatMap(p => (partNames.has(p.name) ? [p.primitive] : [])))
  if (primitives.size === 0) return
  await document.transform(unweld())
  for (const primitive of primitives) setNormals(document, primitive)
  await document.transform(weld())
}

/** The primitive has no indices: each corner is a vertex of its own. */
function setNormals(document: Document, primitive: Primitive): void {
  const position = primitive.getAttribute('POSITION')
  if (!position) return
  const count = position.getCount() - (position.getCount() % 3)
  const p = accessorFloats(position, 3)
  const { faces, weights } = measureCorners(p, count)
  const normals = new Float32Array(position.getCount() * 3)
  const sharpest = Math.cos(toRadians(CREASE_DEG))
  for (const corners of groupCorners(p, count))
    for (const i of corners) {
      const mine = Math.floor(i / 3) * 3
      // A triangle without an area faces nowhere; it takes what is around it.
      const isFlat = weights[i] === 0
      const sum = [0, 0, 0]
      for (const k of corners) {
        const other = Math.floor(k / 3) * 3
        const cos = faces[mine] * faces[other] + faces[mine + 1] * faces[other + 1] + faces[mine + 2] * faces[other + 2]
        if (isFlat || cos >= sharpest) for (let c = 0; c < 3; c++) sum[c] += faces[other + c] * weights[k]
      }
      const length = Math.hypot(sum[0], sum[1], sum[2])
      if (length > 0) normals.set([sum[0] / length, sum[1] / length, sum[2] / length], i * 3)
      else normals[i * 3 + 1] = 1
    }
  const [buffer] = document.getRoot().listBuffers()
  primitive.setAttribute('NORMAL', document.createAccessor().setType('VEC3').setArray(normals).setBuffer(buffer))
}

/** Unit normal of each triangle, and the angle at each of its corners in radians; zero for a triangle without area. */
function measureCorners(p: Float32Array, count: number): { faces: Float32Array; weights: Float32Array } {
  const faces = new Float32Array(count)
  const weights = new Float32Array(count)
  for (let i = 0; i < count; i += 3) {
    const at = (k: number, c: number) => p[(i + (k % 3)) * 3 + c]
    const edge = (k: number) => [0, 1, 2].map(c => at(k + 1, c) - at(k, c))
    const [u, v, w] = [edge(0), edge(1), edge(2)]
    const normal = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]]
    const length = Math.hypot(normal[0], normal[1], normal[2])
    if (!(length > 0)) continue
    for (let c = 0; c < 3; c++) faces[i + c] = normal[c] / length
    const edges = [u, v, w]
    for (let k = 0; k < 3; k++) {
      const [out, back] = [edges[k], edges[(k + 2) % 3]]
      const dot = -(out[0] * back[0] + out[1] * back[1] + out[2] * back[2])
      weights[i + k] = Math.atan2(length, dot)
    }
  }
  return { faces, weights }
}

/** Corners in one place, as lists. */
function groupCorners(p: Float32Array, count: number): number[][] {
  const { min, max } = computeBounds(p)
  const grid = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2], 1e-9) * SAME
  const places = new TripleTable(count)
  const groups: number[][] = []
  for (let i = 0; i < count; i++) {
    const id = places.idOf(...([0, 1, 2].map(c => Math.round((p[i * 3 + c] - min[c]) / grid)) as [number, number, number]))
    const group = groups[id]
    if (group) group.push(i)
    else groups[id] = [i]
  }
  return groups
}
