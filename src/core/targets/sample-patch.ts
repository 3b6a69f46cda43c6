import type { Mesh } from '../geometry/mesh'

/** One repeat of a material on an upright square of its real size, its base at the origin, facing +z; one metre where nobody gave a size. */
export function samplePatch(tileSizeM: readonly [number, number] | null): Mesh {
  const [width, height] = tileSizeM ?? [1, 1]
  const x = width / 2
  return {
    positions: Float32Array.of(-x, 0, 0, x, 0, 0, x, height, 0, -x, height, 0),
    normals: Float32Array.of(0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1),
    uvs: Float32Array.of(0, 1, 1, 1, 1, 0, 0, 0),
    indices: Uint32Array.of(0, 1, 2, 0, 2, 3),
  }
}
