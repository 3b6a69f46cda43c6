import { createRandom } from '../math/random'
import type { Mesh } from './mesh'

/** However few are left, none is drawn larger than so many times its size. */
const LARGEST = 3.5

/**
 * Foliage with fewer leaves that are larger: of neighbouring pairs of triangles a random share is kept, and each enlarged about its middle so that
 * what is covered stays the same on average (Cook, Halstead, Planck & Ryu 2007, "Stochastic Simplification of Aggregate Detail").
 * @param triangles how many are left at most; a mesh of fewer is returned as it is
 * @throws RangeError for a number that is not positive
 */
export function thinOut(mesh: Mesh, triangles: number, seed = 1): Mesh {
  if (!(triangles > 0)) throw new RangeError(`${triangles} triangles are no mesh`)
  const total = mesh.indices.length / 3
  if (total <= triangles) return mesh
  const pairs = Math.floor(total / 2)
  const wanted = Math.max(1, Math.floor(triangles / 2))
  const growth = Math.min(LARGEST, Math.sqrt(pairs / wanted))
  const random = createRandom(seed)
  const out: Mesh = {
    positions: new Float32Array(wanted * 18),
    normals: new Float32Array(wanted * 18),
    uvs: new Float32Array(wanted * 12),
    indices: Uint32Array.from({ length: wanted * 6 }, (_, i) => i),
  }
  for (let k = 0; k < wanted; k++) {
    // One of each run of pairs, so that no branch is bare by chance.
    const from = Math.floor((k * pairs) / wanted)
    const to = Math.floor(((k + 1) * pairs) / wanted)
    const pair = Math.min(pairs - 1, from + Math.floor(random.next() * Math.max(1, to - from)))
    const corners = mesh.indices.subarray(pair * 6, pair * 6 + 6)
    const middle = [0, 1, 2].map(axis => corners.reduce((sum, v) => sum + mesh.positions[v * 3 + axis], 0) / 6)
    corners.forEach((v, c) => {
      for (let axis = 0; axis < 3; axis++) {
        const at = mesh.positions[v * 3 + axis]
        out.positions[(k * 6 + c) * 3 + axis] = middle[axis] + (at - middle[axis]) * growth
        out.normals[(k * 6 + c) * 3 + axis] = mesh.normals[v * 3 + axis]
      }
      out.uvs.set(mesh.uvs.subarray(v * 2, v * 2 + 2), (k * 6 + c) * 2)
    })
  }
  return out
}
