import { fresnelDielectric } from './fresnel'
import { roughnessToAlpha, sampleVisibleNormal, smithLambda } from './microfacet'

/** Directional albedos of rough boundaries by quadrature, made when first asked for. */

const SIZE = 32
const CELLS = 24

/** A figure over cosine (0..1) and perceptual roughness (0..1), bilinear, with its cosine-weighted mean over the hemisphere. */
export class AlbedoTable {
  readonly values = new Float64Array(SIZE * SIZE)
  readonly means = new Float64Array(SIZE)

  /** @param compute a figure, by its number among all: one row of cosines after the other for each roughness */
  constructor(compute: (roughness: number, cos: number, number: number) => number) {
    for (let row = 0; row < SIZE; row++) {
      for (let column = 0; column < SIZE; column++)
        this.values[row * SIZE + column] = compute(roughnessOf(row), cosineOf(column), row * SIZE + column)
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

const roughnessOf = (row: number): number => row / (SIZE - 1)
const cosineOf = (column: number): number => Math.max(column / (SIZE - 1), 2e-3)

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

/** Cosines to microfacets between which reflectance is taken as a straight line; closest to each other where it is steep, at grazing ones. */
const FACET_STEPS = 128
const facetCosine = (step: number): number => Math.max(1e-6, (step / FACET_STEPS) ** 2)
let facets: Float32Array | null = null

/**
 * How much of the light that leaves at each cosine and roughness of a table has come by way of microfacets of which cosine, the reflectance
 * apart: that part of a table is the same for every index of refraction, and takes nearly all of its time.
 */
function sharesOfFacets(): Float32Array {
  if (facets) return facets
  const shares = new Float32Array(SIZE * SIZE * (FACET_STEPS + 1))
  for (let number = 0; number < SIZE * SIZE; number++) {
    const cos = cosineOf(number % SIZE)
    const at = number * (FACET_STEPS + 1)
    meanOverNormals(roughnessOf(Math.floor(number / SIZE)), cos, (oh, hz, lambdaO, alpha) => {
      const cosReflected = 2 * oh * hz - cos
      if (cosReflected <= 0) return 0
      const share = shadowing(cosReflected, lambdaO, alpha) / (CELLS * CELLS)
      const facet = Math.min(1, Math.max(0, oh))
      const step = Math.min(FACET_STEPS - 1, Math.floor(Math.sqrt(facet) * FACET_STEPS))
      const [low, high] = [facetCosine(step), facetCosine(step + 1)]
      const towardsNext = Math.max(0, (facet - low) / (high - low))
      shares[at + step] += share * (1 - towardsNext)
      shares[at + step + 1] += share * towardsNext
      return 0
    })
  }
  facets = shares
  return shares
}

function reflectionTable(eta: number): AlbedoTable {
  const shares = sharesOfFacets()
  const reflectance = Float64Array.from({ length: FACET_STEPS + 1 }, (_, k) => fresnelDielectric(facetCosine(k), eta))
  return new AlbedoTable((_roughness, _cos, number) => {
    let sum = 0
    for (let k = 0, at = number * (FACET_STEPS + 1); k <= FACET_STEPS; k++, at++) sum += shares[at] * reflectance[k]
    return sum
  })
}

const IOR_STEPS = 100
const known = new Map<number, DielectricTables>()

/** Tables for an index of refraction, to a hundredth. Those of what goes through take some tens of milliseconds the first time. */
export function dielectricTables(ior: number, withRefraction: boolean): DielectricTables {
  const key = Math.round(ior * IOR_STEPS)
  let tables = known.get(key)
  if (!tables) {
    tables = { reflected: reflectionTable(key / IOR_STEPS), outside: null, inside: null }
    known.set(key, tables)
  }
  if (withRefraction && !tables.outside) {
    tables.outside = scatterTable(key / IOR_STEPS)
    tables.inside = scatterTable(IOR_STEPS / key)
  }
  return tables
}

/** Reflected and refracted. */
const scatterTable = (eta: number): AlbedoTable =>
  new AlbedoTable((roughness, cos) =>
    meanOverNormals(roughness, cos, (oh, hz, lambdaO, alpha) => {
      const f = fresnelDielectric(oh, eta)
      const cosReflected = 2 * oh * hz - cos
      let kept = cosReflected > 0 ? f * shadowing(cosReflected, lambdaO, alpha) : 0
      if (f < 1) {
        const cosT = Math.sqrt(Math.max(0, 1 - (1 - oh * oh) / (eta * eta)))
        const cosRefracted = -cos / eta + (oh / eta - cosT) * hz
        if (cosRefracted < 0) kept += (1 - f) * shadowing(cosRefracted, lambdaO, alpha)
      }
      return kept
    }),
  )
