import { AlbedoTable } from './albedo-tables'

/**
 * The fuzz of cloth: a layer of fibres as a linearly transformed cosine, Zeltner, Burley & Chiang 2022, "Practical Multiple-
 * Scattering Sheen Using Linearly Transformed Cosines", with the rational fits of albedo and transform that MaterialX 1.39
 * publishes for it. The transform alone is not reciprocal; the lobe here is the mean of both ways round, which is.
 */

const fitA = (c: number, r: number): number => ((2.58126 * c + 0.813703 * r) * r) / (1 + 0.310327 * c * c + 2.60994 * c * r)
const fitB = (c: number, r: number): number =>
  (Math.sqrt(1 - c) * (r - 1) * r * r * r) / (0.0000254053 + 1.71228 * c - 1.71506 * c * r + 1.34174 * r * r)

/** Directional albedo of the one-way lobe. */
function fitAlbedo(c: number, r: number): number {
  const s = (r * (0.0206607 + 1.58491 * r)) / (0.0379424 + r * (1.32227 + r))
  const m = (r * (-0.193854 + r * (-1.14885 + r * (1.7932 - 0.95943 * r * r)))) / (0.046391 + r)
  const o = (r * (0.000654023 + (-0.0207818 + 0.119681 * r) * r)) / (1.26264 + r * (-1.92021 + r))
  return Math.min(1, Math.max(0, Math.exp(-0.5 * ((c - m) / s) ** 2) / (s * Math.sqrt(2 * Math.PI)) + o))
}

const clampRoughness = (r: number): number => Math.min(1, Math.max(0.05, r))
const clampCosine = (c: number): number => Math.min(1, Math.max(0.01, c))

/** Density of the transformed cosine about the outgoing direction, per steradian. */
export function fuzzDensity(ox: number, oy: number, oz: number, ix: number, iy: number, iz: number, roughness: number): number {
  const r = clampRoughness(roughness)
  const c = clampCosine(oz)
  const a = fitA(c, r)
  const b = fitB(c, r)
  const sin = Math.sqrt(ox * ox + oy * oy)
  const cx = sin > 1e-9 ? ox / sin : 1
  const cy = sin > 1e-9 ? oy / sin : 0
  const along = a * (cx * ix + cy * iy) + b * iz
  const across = a * (cx * iy - cy * ix)
  const l2 = along * along + across * across + iz * iz
  return (Math.max(0, iz) * a * a) / (Math.PI * l2 * l2)
}

/** Value times |cos wi| of white fuzz; both directions on the upper side. */
export function evaluateFuzz(ox: number, oy: number, oz: number, ix: number, iy: number, iz: number, roughness: number): number {
  const r = clampRoughness(roughness)
  const there = fitAlbedo(clampCosine(oz), r) * fuzzDensity(ox, oy, oz, ix, iy, iz, r)
  const back = fitAlbedo(clampCosine(iz), r) * fuzzDensity(ix, iy, iz, ox, oy, oz, r)
  return 0.5 * (there + (back * iz) / Math.max(oz, 1e-6))
}

/** Draws a direction about the outgoing one into dst 0..2, with `fuzzDensity`. */
export function sampleFuzz(
  ox: number,
  oy: number,
  oz: number,
  roughness: number,
  u1: number,
  u2: number,
  dst: Float64Array,
): void {
  const r = clampRoughness(roughness)
  const c = clampCosine(oz)
  const a = fitA(c, r)
  const b = fitB(c, r)
  const radius = Math.sqrt(u1)
  const phi = 2 * Math.PI * u2
  const z = Math.sqrt(Math.max(1e-12, 1 - u1))
  const along = (radius * Math.cos(phi) - b * z) / a
  const across = (radius * Math.sin(phi)) / a
  const inv = 1 / Math.sqrt(along * along + across * across + z * z)
  const sin = Math.sqrt(ox * ox + oy * oy)
  const cx = sin > 1e-9 ? ox / sin : 1
  const cy = sin > 1e-9 ? oy / sin : 0
  dst[0] = (cx * along - cy * across) * inv
  dst[1] = (cy * along + cx * across) * inv
  dst[2] = z * inv
}

const STEPS_COS = 40
const STEPS_PHI = 40
let table: AlbedoTable | null = null

/** Directional albedo of `evaluateFuzz` over cosine and roughness. */
export function fuzzAlbedoTable(): AlbedoTable {
  let fits: { roughness: number; incoming: Fit[] } | null = null
  table ??= new AlbedoTable((roughness, cos) => {
    const r = clampRoughness(roughness)
    if (fits?.roughness !== r)
      fits = { roughness: r, incoming: Array.from({ length: STEPS_COS }, (_, i) => fitAt((i + 0.5) / STEPS_COS, r)) }
    const out = fitAt(cos, r)
    let sum = 0
    for (const into of fits.incoming)
      for (const cosPhi of COSINES) {
        const there = out.albedo * densityBetween(out, into, cosPhi)
        const back = into.albedo * densityBetween(into, out, cosPhi)
        sum += 0.5 * (there + (back * into.cos) / Math.max(cos, 1e-6))
      }
    return Math.min(1, (sum * 2 * Math.PI) / (STEPS_COS * STEPS_PHI))
  })
  return table
}

/** Of half a turn: the lobe is the same to both sides. */
const COSINES = Float64Array.from({ length: STEPS_PHI }, (_, j) => Math.cos((Math.PI * (j + 0.5)) / STEPS_PHI))

/** What is the same for a direction wherever the other one lies round the normal. */
interface Fit {
  cos: number
  sin: number
  a: number
  b: number
  albedo: number
}

function fitAt(cos: number, r: number): Fit {
  const c = clampCosine(cos)
  return { cos, sin: Math.sqrt(1 - cos * cos), a: fitA(c, r), b: fitB(c, r), albedo: fitAlbedo(c, r) }
}

/** `fuzzDensity` about `of` towards `to`, by the cosine of the angle between them round the normal. */
function densityBetween({ a, b }: Fit, to: Fit, cosPhi: number): number {
  const along = a * to.sin * cosPhi + b * to.cos
  const across2 = a * a * to.sin * to.sin * (1 - cosPhi * cosPhi)
  const l2 = along * along + across2 + to.cos * to.cos
  return (to.cos * a * a) / (Math.PI * l2 * l2)
}
