import { BufferAttribute, BufferGeometry } from 'three'
import type { Mesh } from '#core/geometry/mesh'

/** A mesh of the core as three shows it; texture coordinates in metres become repeats of a tile. */
export function toBufferGeometry(mesh: Mesh, tileSizeM: readonly [number, number] = [1, 1]): BufferGeometry {
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
  geometry.setAttribute('normal', new BufferAttribute(mesh.normals, 3))
  const uvs = mesh.uvs.map((v, i) => v / tileSizeM[i % 2])
  geometry.setAttribute('uv', new BufferAttribute(uvs, 2))
  geometry.setIndex(new BufferAttribute(mesh.indices, 1))
  return geometry
}

/** The triangles of meshes, 9 floats each. */
export function toTriangles(meshes: readonly Mesh[]): Float32Array<ArrayBuffer> {
  const out = new Float32Array(meshes.reduce((sum, m) => sum + m.indices.length * 3, 0))
  let at = 0
  for (const { positions, indices } of meshes)
    for (const v of indices) {
      out.set(positions.subarray(v * 3, v * 3 + 3), at)
      at += 3
    }
  return out
}
