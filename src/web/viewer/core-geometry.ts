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
