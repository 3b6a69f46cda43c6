import type { Vec3 } from '../math/vec3'

/** An indexed triangle mesh in metres, Y up. */
export interface Mesh {
  /** 3 per vertex. */
  positions: Float32Array
  /** 3 per vertex, unit. */
  normals: Float32Array
  /** 2 per vertex; v runs down the texture. */
  uvs: Float32Array
  /** 3 per triangle, counter-clockwise seen from outside. */
  indices: Uint32Array
}

/** Throws a RangeError that names what does not fit; called at the door, then the arrays are trusted. */
export function assertMesh(mesh: Mesh): void {
  const count = mesh.positions.length / 3
  if (!Number.isInteger(count)) throw new RangeError('positions: length is not a multiple of 3')
  if (mesh.normals.length !== count * 3) throw new RangeError(`normals: ${mesh.normals.length} for ${count} vertices`)
  if (mesh.uvs.length !== count * 2) throw new RangeError(`uvs: ${mesh.uvs.length} for ${count} vertices`)
  if (mesh.indices.length % 3 !== 0) throw new RangeError('indices: length is not a multiple of 3')
  for (const i of mesh.indices) if (i >= count) throw new RangeError(`index ${i} of ${count} vertices`)
}

export function mergeMeshes(meshes: readonly Mesh[]): Mesh {
  const vertices = meshes.reduce((sum, m) => sum + m.positions.length / 3, 0)
  const indexCount = meshes.reduce((sum, m) => sum + m.indices.length, 0)
  const out: Mesh = {
    positions: new Float32Array(vertices * 3),
    normals: new Float32Array(vertices * 3),
    uvs: new Float32Array(vertices * 2),
    indices: new Uint32Array(indexCount),
  }
  let v = 0
  let i = 0
  for (const m of meshes) {
    out.positions.set(m.positions, v * 3)
    out.normals.set(m.normals, v * 3)
    out.uvs.set(m.uvs, v * 2)
    for (let k = 0; k < m.indices.length; k++) out.indices[i + k] = m.indices[k] + v
    v += m.positions.length / 3
    i += m.indices.length
  }
  return out
}

/** A copy moved by `offset` after turning by `yawRad` about Y and scaling. */
export function placeMesh(mesh: Mesh, offset: Vec3, yawRad = 0, scale: number | Vec3 = 1): Mesh {
  const [sx, sy, sz] = typeof scale === 'number' ? [scale, scale, scale] : scale
  const c = Math.cos(yawRad)
  const s = Math.sin(yawRad)
  const positions = new Float32Array(mesh.positions.length)
  const normals = new Float32Array(mesh.normals.length)
  for (let i = 0; i < positions.length; i += 3) {
    const x = mesh.positions[i] * sx
    const z = mesh.positions[i + 2] * sz
    positions[i] = c * x + s * z + offset[0]
    positions[i + 1] = mesh.positions[i + 1] * sy + offset[1]
    positions[i + 2] = -s * x + c * z + offset[2]
    const nx = mesh.normals[i] / sx
    const ny = mesh.normals[i + 1] / sy
    const nz = mesh.normals[i + 2] / sz
    const l = Math.hypot(nx, ny, nz) || 1
    normals[i] = (c * nx + s * nz) / l
    normals[i + 1] = ny / l
    normals[i + 2] = (-s * nx + c * nz) / l
  }
  return { positions, normals, uvs: mesh.uvs, indices: mesh.indices }
}

/** Vertex normals as the area-weighted mean of the faces around a vertex, written in place. */
export function computeNormalsInPlace(mesh: Mesh): void {
  const { positions: p, normals: n, indices } = mesh
  n.fill(0)
  for (let i = 0; i < indices.length; i += 3) {
    const a = indices[i] * 3
    const b = indices[i + 1] * 3
    const c = indices[i + 2] * 3
    const ux = p[b] - p[a]
    const uy = p[b + 1] - p[a + 1]
    const uz = p[b + 2] - p[a + 2]
    const vx = p[c] - p[a]
    const vy = p[c + 1] - p[a + 1]
    const vz = p[c + 2] - p[a + 2]
    const x = uy * vz - uz * vy
    const y = uz * vx - ux * vz
    const z = ux * vy - uy * vx
    for (const at of [a, b, c]) {
      n[at] += x
      n[at + 1] += y
      n[at + 2] += z
    }
  }
  for (let i = 0; i < n.length; i += 3) {
    const l = Math.hypot(n[i], n[i + 1], n[i + 2])
    if (l > 0) {
      n[i] /= l
      n[i + 1] /= l
      n[i + 2] /= l
    } else n[i + 1] = 1
  }
}

export interface Bounds {
  min: Vec3
  max: Vec3
}

/** Axis-aligned bounds; a mesh without vertices gives a point at the origin. */
export function computeBounds(positions: ArrayLike<number>): Bounds {
  if (positions.length === 0) return { min: [0, 0, 0], max: [0, 0, 0] }
  const min: Vec3 = [Infinity, Infinity, Infinity]
  const max: Vec3 = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < positions.length; i++) {
    const c = i % 3
    if (positions[i] < min[c]) min[c] = positions[i]
    if (positions[i] > max[c]) max[c] = positions[i]
  }
  return { min, max }
}

/** Of several meshes together. */
export function boundsOfMeshes(meshes: readonly Pick<Mesh, 'positions'>[]): Bounds {
  const boxes = meshes.filter(m => m.positions.length > 0).map(m => computeBounds(m.positions))
  return computeBounds(boxes.flatMap(b => [...b.min, ...b.max]))
}

/** The largest dimension. */
export const largestExtent = ({ min, max }: Bounds): number => Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2])
