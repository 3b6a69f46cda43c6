import type { Mesh } from '../../geometry/mesh'
import type { Vec3 } from '../../math/vec3'
import type { Box } from '../placing/snapping'
import { boundsOf, type ResourcePart } from '../things/resources'

type ShapedPart = Pick<ResourcePart<unknown>, 'name' | 'mesh' | 'material' | 'node'>

/** Something of a model that stands somewhere: the parts of one of its nodes. */
export interface Thing {
  parts: string[]
  /** Along the axes of the model. */
  box: Box
  /** The middle of its box on the height of its foot. */
  foot: Vec3
  /** How far it is turned about the vertical against the one that was asked for, counter-clockwise from above. */
  turnDeg: number
  /** How much larger it is than that one. */
  size: number
}

/** Root mean square of what is left between two shapes laid over each other, against their size: more is another shape. */
const MOST_APART = 0.02

/**
 * The thing that a part is of, and everything of the same shape: as many vertices in the same order, which lie on each other once one is
 * turned about the vertical, moved and scaled (least squares in the plane; Umeyama 1991 for the case of one angle).
 * @returns the thing itself first; nothing for a part that is not there
 */
export function listAlikeThings(parts: readonly ShapedPart[], name: string): Thing[] {
  const asked = parts.find(p => p.name === name)
  if (!asked) return []
  const things = new Map<number | string, ShapedPart[]>()
  for (const part of parts) {
    const key = part.node ?? part.name
    things.set(key, [...(things.get(key) ?? []), part])
  }
  const own = things.get(asked.node ?? asked.name)!
  const like = shapeOf(own)
  const others = [...things.values()].filter(thing => thing !== own && shapeOf(thing) === like)
  return [
    toThing(own, { turnDeg: 0, size: 1 }),
    ...others.flatMap(thing => {
      const fit = fitShapes(
        own.map(p => p.mesh),
        thing.map(p => p.mesh),
      )
      return fit.apart <= MOST_APART ? [toThing(thing, fit)] : []
    }),
  ]
}

/** What two things have in common before they are compared vertex by vertex. */
const shapeOf = (thing: readonly ShapedPart[]): string =>
  thing.map(({ mesh, material }) => [mesh.positions.length, mesh.indices.length, material.name].join(' ')).join()

function toThing(thing: readonly ShapedPart[], { turnDeg, size }: { turnDeg: number; size: number }): Thing {
  const box = boundsOf(thing)
  const foot: Vec3 = [(box.min[0] + box.max[0]) / 2, box.min[1], (box.min[2] + box.max[2]) / 2]
  return { parts: thing.map(p => p.name), box, foot, turnDeg, size }
}

/** How one shape is turned and scaled against another, and what is left between them as a share of its size. */
function fitShapes(from: readonly Mesh[], to: readonly Mesh[]): { turnDeg: number; size: number; apart: number } {
  const [a, b] = [middleOf(from), middleOf(to)]
  // Sums over the plane: how far they turn along with each other, and across.
  let [along, across, up, spreadA, spreadB] = [0, 0, 0, 0, 0]
  eachPair(from, to, (p, q, i) => {
    const [ax, ay, az] = [p[i] - a[0], p[i + 1] - a[1], p[i + 2] - a[2]]
    const [bx, by, bz] = [q[i] - b[0], q[i + 1] - b[1], q[i + 2] - b[2]]
    along += ax * bx + az * bz
    // About y, counter-clockwise from above: x' = x cos + z sin, z' = z cos - x sin.
    across += az * bx - ax * bz
    up += ay * by
    spreadA += ax * ax + ay * ay + az * az
    spreadB += bx * bx + by * by + bz * bz
  })
  if (!(spreadA > 0) || !(spreadB > 0)) return { turnDeg: 0, size: 1, apart: 0 }
  const angle = Math.atan2(across, along)
  const fitted = Math.hypot(along, across) + up
  const size = fitted / spreadA
  const left = Math.max(0, spreadB - (fitted * fitted) / spreadA)
  return { turnDeg: (angle * 180) / Math.PI, size, apart: size > 0 ? Math.sqrt(left / spreadB) : 1 }
}

function middleOf(meshes: readonly Mesh[]): Vec3 {
  const sum: Vec3 = [0, 0, 0]
  let count = 0
  for (const { positions: p } of meshes) {
    for (let i = 0; i < p.length; i += 3) for (let k = 0; k < 3; k++) sum[k] += p[i + k]
    count += p.length / 3
  }
  return count > 0 ? [sum[0] / count, sum[1] / count, sum[2] / count] : sum
}

function eachPair(from: readonly Mesh[], to: readonly Mesh[], visit: (p: Float32Array, q: Float32Array, at: number) => void) {
  from.forEach(({ positions }, k) => {
    for (let i = 0; i < positions.length; i += 3) visit(positions, to[k].positions, i)
  })
}
