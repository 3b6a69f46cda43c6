import { describe, expect, it } from 'vitest'
import { dielectricTables, perfectMirrorTable } from './albedo-tables'
import { fresnelDielectric } from './fresnel'
import { roughnessToAlpha, sampleVisibleNormal, smithLambda } from './microfacet'

/** What a rough boundary reflects of light that leaves at a cosine, by quadrature over ten times as many normals. */
function reflectedBy(ior: number, cos: number, roughness: number): number {
  const cells = 80
  const alpha = roughnessToAlpha(roughness)
  const sin = Math.sqrt(1 - cos * cos)
  const lambdaO = smithLambda(sin, 0, cos, alpha, alpha)
  const normal = new Float64Array(3)
  let sum = 0
  for (let i = 0; i < cells; i++)
    for (let j = 0; j < cells; j++) {
      sampleVisibleNormal(sin, 0, cos, alpha, alpha, (i + 0.5) / cells, (j + 0.5) / cells, normal)
      const oh = sin * normal[0] + cos * normal[2]
      const cosI = 2 * oh * normal[2] - cos
      if (cosI <= 0) continue
      const lambdaI = smithLambda(Math.sqrt(Math.max(0, 1 - cosI * cosI)), 0, cosI, alpha, alpha)
      sum += (fresnelDielectric(oh, ior) * (1 + lambdaO)) / (1 + lambdaO + lambdaI)
    }
  return sum / (cells * cells)
}

describe('albedo tables', () => {
  it('of what is reflected are those of a quadrature at their corners, at every index', () => {
    for (const ior of [1.05, 1.33, 1.5, 2.4, 4])
      for (const column of [3, 12, 27, 31])
        for (const row of [0, 6, 15, 31]) {
          const [cos, roughness] = [column / 31, row / 31]
          const table = dielectricTables(ior, false).reflected
          expect(Math.abs(table.read(cos, roughness) - reflectedBy(ior, cos, roughness))).toBeLessThan(3e-3)
        }
  })

  it('reflect nothing where the index is the same on both sides, and never more than a perfect mirror', () => {
    for (const [cos, roughness] of [
      [0, 0.5],
      [0.3, 0.1],
      [1, 1],
    ]) {
      expect(dielectricTables(1, false).reflected.read(cos, roughness)).toBeCloseTo(0, 6)
      expect(dielectricTables(3, false).reflected.read(cos, roughness)).toBeLessThanOrEqual(
        perfectMirrorTable().read(cos, roughness) + 1e-6,
      )
    }
  })

  it('are kept, and know what goes through only where somebody asked for that', () => {
    const tables = dielectricTables(1.77, false)
    expect(tables.outside).toBeNull()
    expect(dielectricTables(1.7702, true)).toBe(tables)
    for (const table of [tables.outside!, tables.inside!])
      for (const v of [table.read(0.9, 0.3), table.readMean(0.3)]) {
        expect(v).toBeGreaterThan(tables.reflected.read(0.9, 0.3))
        expect(v).toBeLessThanOrEqual(1)
      }
  })
})
