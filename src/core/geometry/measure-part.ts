import type { Mesh } from './mesh'

export interface PartMeasures {
  areaM2: number
  /** Area of its texture coordinates; one full texture is 1. */
  chartArea: number
  degenerateTriangles: number
  /** Share of the area whose vertex normals look away from the face. */
  againstShare: number
}

const LEAST_AREA_M2 = 1e-12

export function measurePart({ positions: p, normals: n, uvs, indices }: Mesh): PartMeasures {
  let [areaM2, chartArea, degenerateTriangles, against] = [0, 0, 0, 0]
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [indices[i] * 3, indices[i + 1] * 3, indices[i + 2] * 3]
    const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]]
    const [vx, vy, vz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]]
    const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
    const area = Math.hypot(nx, ny, nz) / 2
    areaM2 += area
    if (!(area > LEAST_AREA_M2)) {
      degenerateTriangles++
      continue
    }
    const [s, t, w] = [indices[i] * 2, indices[i + 1] * 2, indices[i + 2] * 2]
    chartArea += Math.abs((uvs[t] - uvs[s]) * (uvs[w + 1] - uvs[s + 1]) - (uvs[w] - uvs[s]) * (uvs[t + 1] - uvs[s + 1])) / 2
    const shaded = nx * (n[a] + n[b] + n[c]) + ny * (n[a + 1] + n[b + 1] + n[c + 1]) + nz * (n[a + 2] + n[b + 2] + n[c + 2])
    if (shaded < 0) against += area
  }
  return { areaM2, chartArea, degenerateTriangles, againstShare: areaM2 > 0 ? against / areaM2 : 0 }
}
