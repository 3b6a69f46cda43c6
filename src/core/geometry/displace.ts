import type { Mesh } from './mesh'

/**
 * A mesh moved along its normals by heights, after its triangles have been halved across their longest edges until none is longer than
 * asked for. Every edge is halved in its middle or not at all, whichever triangle asks, and vertices that lie in one place are moved as one,
 * by the mean of what they would be moved by, so that nothing comes apart at an edge. Normals stay as they were: what is smaller than an
 * edge is for the shading.
 * @param heightAt metres, by texture coordinates
 * @param maxEdge metres; longer where the triangles would be more than `maxTriangles`
 */
export function displaceMesh(
  mesh: Mesh,
  heightAt: (u: number, v: number) => number,
  { maxEdge, maxTriangles }: { maxEdge: number; maxTriangles: number },
): Mesh {
  const positions = [...mesh.positions]
  const normals = [...mesh.normals]
  const uvs = [...mesh.uvs]
  const limit = Math.max(maxEdge, Math.sqrt(areaOf(mesh) / (TRIANGLE_SHARE * maxTriangles)))
  const middles = new Map<number, number>()
  const squared = (a: number, b: number) => {
    let sum = 0
    for (let k = 0; k < 3; k++) sum += (positions[a * 3 + k] - positions[b * 3 + k]) ** 2
    return sum
  }
  const middleOf = (a: number, b: number): number => {
    const key = Math.min(a, b) * 2 ** 26 + Math.max(a, b)
    const there = middles.get(key)
    if (there !== undefined) return there
    const at = positions.length / 3
    for (let k = 0; k < 3; k++) {
      positions.push((positions[a * 3 + k] + positions[b * 3 + k]) / 2)
      normals.push(normals[a * 3 + k] + normals[b * 3 + k])
    }
    const length = Math.hypot(normals[at * 3], normals[at * 3 + 1], normals[at * 3 + 2]) || 1
    for (let k = 0; k < 3; k++) normals[at * 3 + k] /= length
    for (let k = 0; k < 2; k++) uvs.push((uvs[a * 2 + k] + uvs[b * 2 + k]) / 2)
    middles.set(key, at)
    return at
  }
  const indices: number[] = []
  const work: number[] = []
  for (let i = 0; i < mesh.indices.length; i += 3) {
    work.push(mesh.indices[i], mesh.indices[i + 1], mesh.indices[i + 2])
    while (work.length > 0) {
      const c = work.pop()!
      const b = work.pop()!
      const a = work.pop()!
      const [ab, bc, ca] = [squared(a, b), squared(b, c), squared(c, a)]
      const longest = Math.max(ab, bc, ca)
      if (!(longest > limit * limit) || !Number.isFinite(longest)) indices.push(a, b, c)
      else if (longest === ab) {
        const m = middleOf(a, b)
        work.push(a, m, c, m, b, c)
      } else if (longest === bc) {
        const m = middleOf(b, c)
        work.push(a, b, m, a, m, c)
      } else {
        const m = middleOf(c, a)
        work.push(a, b, m, m, b, c)
      }
    }
  }
  moveInPlace(positions, normals, v => heightAt(uvs[v * 2], uvs[v * 2 + 1]), limit * SAME_PLACE)
  return {
    positions: Float32Array.from(positions),
    normals: Float32Array.from(normals),
    uvs: Float32Array.from(uvs),
    indices: Uint32Array.from(indices),
  }
}

/** Vertices within this share of an edge lie in one place. */
const SAME_PLACE = 1e-3

function moveInPlace(positions: number[], normals: readonly number[], heightOf: (vertex: number) => number, near: number): void {
  const count = positions.length / 3
  const placeOf = new Int32Array(count)
  const places = new Map<string, number>()
  const sums: number[] = []
  for (let v = 0; v < count; v++) {
    const at = v * 3
    const key = `${Math.round(positions[at] / near)} ${Math.round(positions[at + 1] / near)} ${Math.round(positions[at + 2] / near)}`
    let place = places.get(key)
    if (place === undefined) {
      place = sums.length / 4
      places.set(key, place)
      sums.push(0, 0, 0, 0)
    }
    placeOf[v] = place
    const height = heightOf(v)
    for (let k = 0; k < 3; k++) sums[place * 4 + k] += normals[at + k] * height
    sums[place * 4 + 3]++
  }
  for (let v = 0; v < count; v++) {
    const place = placeOf[v] * 4
    for (let k = 0; k < 3; k++) positions[v * 3 + k] += sums[place + k] / sums[place + 3]
  }
}

/** What a triangle halved so often fills of the square on its longest edge, at least. */
const TRIANGLE_SHARE = 0.12

function areaOf({ positions, indices }: Mesh): number {
  let sum = 0
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [indices[i] * 3, indices[i + 1] * 3, indices[i + 2] * 3]
    const edge = (to: number) => [0, 1, 2].map(k => positions[to + k] - positions[a + k])
    const [p, q] = [edge(b), edge(c)]
    sum += Math.hypot(p[1] * q[2] - p[2] * q[1], p[2] * q[0] - p[0] * q[2], p[0] * q[1] - p[1] * q[0]) / 2
  }
  return sum
}
