import { fresnelDielectric } from './fresnel'
import { roughnessToAlpha, sampleVisibleNormal, smithLambda } from './microfacet'

/** Directional albedos of rough boundaries by quadrature, made when first asked for. */

const SIZE = 32
const CELLS = 24

/** A figure over cosine (0..1) and perceptual roughness (0..1), bilinear, with its cosine-weighted mean over the hemisphere. */
export class AlbedoTable {
  readonly values = new Float64Array(SIZE * SIZE)
  readonly means = new Float64Array(SIZE)

  /** @param compute fills one row: dst[column] for cosine column / (SIZE − 1) at a roughness */
  constructor(compute: (roughness: number, cos: number) => number) {
    for (let row = 0; row < SIZE; row++) {
      for (let column = 0; column < SIZE; column++)
        this.values[row * SIZE + column] = compute(row / (SIZE - 1), Math.max(column / (SIZE - 1), 2e-3))
      const steps = 256
      let sum = 0
      for (let s = 0; s < steps; s++) {
        const mu = (s + 0.5) / steps
        sum += (2 * mu * this.read(mu, row / (SIZE - 1))) / steps
      }
      this.means[row] = sum
    }
  }

  read(cos: number, roughness: number): number {
    const y = roughness * (SIZE - 1)
    const x = cos * (SIZE - 1)
    const r = y >= SIZE - 2 ? SIZE - 2 : y | 0
    const c = x >= SIZE - 2 ? SIZE - 2 : x | 0
    const fy = y - r
    const fx = x - c
    const at = r * SIZE + c
    const { values } = this
    return (
      (values[at] * (1 - fx) + values[at + 1] * fx) * (1 - fy) + (values[at + SIZE] * (1 - fx) + values[at + SIZE + 1] * fx) * fy
    )
  }

  readMean(roughness: number): number {
    const y = roughness * (SIZE - 1)
    const r = y >= SIZE - 2 ? SIZE - 2 : y | 0
    return this.means[r] + (this.means[r + 1] - this.means[r]) * (y - r)
  }
}

const normal = new Float64Array(3)

/**
 * Mean of `weigh` over visible normals on a stratified grid.
 * @param weigh gets cosine of the outgoing direction to the microfacet, the microfacet's own cosine, and Λ of the outgoing direction
 */
function meanOverNormals(
  roughness: number,
  cos: number,
  weigh: (oh: number, hz: number, lambdaO: number, alpha: number) => number,
): number {
  const alpha = roughnessToAlpha(roughness)
  const sin = Math.sqrt(1 - cos * cos)
  const lambda = smithLambda(sin, 0, cos, alpha, alpha)
  let sum = 0
  for (let i = 0; i < CELLS; i++)
    for (let j = 0; j < CELLS; j++) {
      sampleVisibleNormal(sin, 0, cos, alpha, alpha, (i + 0.5) / CELLS, (j + 0.5) / CELLS, normal)
      sum += weigh(sin * normal[0] + cos * normal[2], normal[2], lambda, alpha)
    }
  return sum / (CELLS * CELLS)
}

/** G2 / G1 for a scattered direction of cosine `cos`; zero where it lies below its own side. */
function shadowing(cos: number, lambdaO: number, alpha: number): number {
  const c = Math.abs(cos)
  const lambdaI = smithLambda(Math.sqrt(Math.max(0, 1 - c * c)), 0, Math.max(c, 1e-6), alpha, alpha)
  return (1 + lambdaO) / (1 + lambdaO + lambdaI)
}

let perfect: AlbedoTable | null = null

/** GGX with a reflectance of 1: what single scattering keeps. */
export function perfectMirrorTable(): AlbedoTable {
  perfect ??= new AlbedoTable((roughness, cos) =>
    meanOverNormals(roughness, cos, (oh, hz, lambdaO, alpha) => {
      const cosI = 2 * oh * hz - cos
      return cosI > 0 ? shadowing(cosI, lambdaO, alpha) : 0
    }),
  )
  return perfect
}

/** What a rough dielectric boundary does with light from outside and from inside, single scattering. */
export interface DielectricTables {
  /** Reflected from outside. */
  reflected: AlbedoTable
  /** Reflected and refracted, from outside and from inside; null until `withRefraction` asks. */
  outside: AlbedoTable | null
  inside: AlbedoTable | null
}

const IOR_STEPS = 100
const known = new Map<number, DielectricTables>()

/** Tables for an index of refraction, to a hundredth. Takes some tens of milliseconds the first time. */
export function dielectricTables(ior: number, withRefraction: boolean): DielectricTables {
  const key = Math.round(ior * IOR_STEPS)
  let tables = known.get(key)
  if (!tables) {
    tables = { reflected: scatterTable(key / IOR_STEPS, false), outside: null, inside: null }
    known.set(key, tables)
  }
  if (withRefraction && !tables.outside) {
    tables.outside = scatterTable(key / IOR_STEPS, true)
    tables.inside = scatterTable(IOR_STEPS / key, true)
  }
  return tables
}

const scatterTable = (eta: number, withRefraction: boolean): AlbedoTable =>
  new AlbedoTable((roughness, cos) =>
    meanOverNormals(roughness, cos, (oh, hz, lambdaO, alpha) => {
      const f = fresnelDielectric(oh, eta)
      const cosReflected = 2 * oh * hz - cos
      let kept = cosReflected > 0 ? f * shadowing(cosReflected, lambdaO, alpha) : 0
      if (withRefraction && f < 1) {
        const cosT = Math.sqrt(Math.max(0, 1 - (1 - oh * oh) / (eta * eta)))
        const cosRefracted = -cos / eta + (oh / eta - cosT) * hz
        if (cosRefracted < 0) kept += (1 - f) * shadowing(cosRefracted, lambdaO, alpha)
      }
      return kept
    }),
  )
