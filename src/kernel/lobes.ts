import { cosine as turnCosine, sine as turnSine, turnOf } from './angles'
import { FILM, HALF, SERIES } from './memory'

/** The lobes of core/render/surface: reflectance of boundaries, microfacets, fuzz, rough diffuse, thin films, and tables of their albedo. */

// @ts-ignore: decorator
@inline
export function square(x: f64): f64 {
  return x * x
}

// @ts-ignore: decorator
@inline
export function clampUnit(v: f64): f64 {
  return v > 0 ? Math.min(v, 1) : 0
}

// @ts-ignore: decorator
@inline
export function fresnelDielectric(cosI: f64, eta: f64): f64 {
  const c = Math.min(1, Math.abs(cosI))
  const g2 = eta * eta - 1 + c * c
  if (g2 <= 0) return 1
  const g = Math.sqrt(g2)
  const a = (g - c) / (g + c)
  const b = (c * (g + c) - 1) / (c * (g - c) + 1)
  return 0.5 * a * a * (1 + b * b)
}

// @ts-ignore: decorator
@inline
export function iorOfWeight(ior: f64, weight: f64): f64 {
  const epsilon = Math.min(0.999, Math.sqrt(weight) * ((ior - 1) / (ior + 1)))
  return (1 + epsilon) / (1 - epsilon)
}

const COS_82: f64 = 1.0 / 7.0
const BELOW_82: f64 = 1.0 - 1.0 / 7.0
const SCHLICK_82: f64 = BELOW_82 * BELOW_82 * BELOW_82 * BELOW_82 * BELOW_82
const LAZANYI_82: f64 = COS_82 * SCHLICK_82 * BELOW_82

// @ts-ignore: decorator
@inline
export function edgeTintFactor(f0: f64, tint: f64): f64 {
  return tint >= 1 ? 0 : ((f0 + (1 - f0) * SCHLICK_82) * (1 - tint)) / LAZANYI_82
}

// @ts-ignore: decorator
@inline
export function fresnelMetal(cos: f64, f0: f64, b: f64): f64 {
  const m = 1 - Math.min(1, Math.max(0, cos))
  const m2 = m * m
  const m5 = m2 * m2 * m
  return Math.max(0, f0 + (1 - f0) * m5 - b * (1 - m) * m5 * m)
}

// @ts-ignore: decorator
@inline
export function meanFresnelMetal(f0: f64, b: f64): f64 {
  return Math.max(0, f0 + (1 - f0) / 21 - b / 126)
}

// @ts-ignore: decorator
@inline
export function ggxD(hx: f64, hy: f64, hz: f64, alphaX: f64, alphaY: f64): f64 {
  const x = hx / alphaX
  const y = hy / alphaY
  const d = x * x + y * y + hz * hz
  return 1 / (Math.PI * alphaX * alphaY * d * d)
}

// @ts-ignore: decorator
@inline
export function smithLambda(x: f64, y: f64, z: f64, alphaX: f64, alphaY: f64): f64 {
  const ax = alphaX * x
  const ay = alphaY * y
  return (Math.sqrt(1 + (ax * ax + ay * ay) / (z * z)) - 1) / 2
}

// @ts-ignore: decorator
@inline
export function roughnessToAlpha(roughness: f64): f64 {
  const r = Math.min(Math.max(roughness, 0), 1)
  return Math.max(r * r, 1e-3)
}

/** Into HALF. */
export function sampleVisibleNormal(ox: f64, oy: f64, oz: f64, alphaX: f64, alphaY: f64, u1: f64, u2: f64): void {
  let vx = alphaX * ox
  let vy = alphaY * oy
  let vz = oz
  const inv = 1 / Math.sqrt(vx * vx + vy * vy + vz * vz)
  vx *= inv
  vy *= inv
  vz *= inv
  const l = Math.sqrt(vx * vx + vy * vy)
  const t1x = l > 0 ? -vy / l : 1
  const t1y = l > 0 ? vx / l : 0
  const t2x = -vz * t1y
  const t2y = vz * t1x
  const t2z = vx * t1y - vy * t1x
  const r = Math.sqrt(u1)
  turnOf(u2)
  const p1 = r * turnCosine
  const s = 0.5 * (1 + vz)
  const p2 = (1 - s) * Math.sqrt(Math.max(0, 1 - p1 * p1)) + s * r * turnSine
  const p3 = Math.sqrt(Math.max(0, 1 - p1 * p1 - p2 * p2))
  const nx = alphaX * (p1 * t1x + p2 * t2x + p3 * vx)
  const ny = alphaY * (p1 * t1y + p2 * t2y + p3 * vy)
  const nz = Math.max(1e-9, p2 * t2z + p3 * vz)
  const n = 1 / Math.sqrt(nx * nx + ny * ny + nz * nz)
  store<f64>(HALF, nx * n)
  store<f64>(HALF, ny * n, 8)
  store<f64>(HALF, nz * n, 16)
}

const TABLE_SIZE: i32 = 32
const MEANS: usize = 8192

/** A table of albedo over cosine and roughness, 32 × 32 f64 and 32 means. */
export function readTable(table: usize, cos: f64, roughness: f64): f64 {
  const y = roughness * <f64>(TABLE_SIZE - 1)
  const x = cos * <f64>(TABLE_SIZE - 1)
  const r = y >= <f64>(TABLE_SIZE - 2) ? TABLE_SIZE - 2 : <i32>y
  const c = x >= <f64>(TABLE_SIZE - 2) ? TABLE_SIZE - 2 : <i32>x
  const fy = y - <f64>r
  const fx = x - <f64>c
  const at = table + ((<usize>(r * TABLE_SIZE + c)) << 3)
  return (
    (load<f64>(at) * (1 - fx) + load<f64>(at, 8) * fx) * (1 - fy) + (load<f64>(at, 256) * (1 - fx) + load<f64>(at, 264) * fx) * fy
  )
}

export function readMean(table: usize, roughness: f64): f64 {
  const y = roughness * <f64>(TABLE_SIZE - 1)
  const r = y >= <f64>(TABLE_SIZE - 2) ? TABLE_SIZE - 2 : <i32>y
  const at = table + MEANS + ((<usize>r) << 3)
  const low = load<f64>(at)
  return low + (load<f64>(at, 8) - low) * (y - <f64>r)
}

// @ts-ignore: decorator
@inline
export function fitA(c: f64, r: f64): f64 {
  return ((2.58126 * c + 0.813703 * r) * r) / (1 + 0.310327 * c * c + 2.60994 * c * r)
}
// @ts-ignore: decorator
@inline
export function fitB(c: f64, r: f64): f64 {
  return (Math.sqrt(1 - c) * (r - 1) * r * r * r) / (0.0000254053 + 1.71228 * c - 1.71506 * c * r + 1.34174 * r * r)
}
// @ts-ignore: decorator
@inline
export function fitAlbedoSpread(r: f64): f64 {
  return (r * (0.0206607 + 1.58491 * r)) / (0.0379424 + r * (1.32227 + r))
}
// @ts-ignore: decorator
@inline
export function fitAlbedoCenter(r: f64): f64 {
  return (r * (-0.193854 + r * (-1.14885 + r * (1.7932 - 0.95943 * r * r)))) / (0.046391 + r)
}
// @ts-ignore: decorator
@inline
export function fitAlbedoOffset(r: f64): f64 {
  return (r * (0.000654023 + (-0.0207818 + 0.119681 * r) * r)) / (1.26264 + r * (-1.92021 + r))
}
export function fitAlbedo(c: f64, r: f64): f64 {
  const s = fitAlbedoSpread(r)
  const m = fitAlbedoCenter(r)
  const o = fitAlbedoOffset(r)
  return Math.min(1, Math.max(0, Math.exp(-0.5 * square((c - m) / s)) / (s * Math.sqrt(2 * Math.PI)) + o))
}
// @ts-ignore: decorator
@inline
function clampFuzzRoughness(r: f64): f64 {
  return Math.min(1, Math.max(0.05, r))
}
// @ts-ignore: decorator
@inline
function clampCosine(c: f64): f64 {
  return Math.min(1, Math.max(0.01, c))
}

export function fuzzDensity(ox: f64, oy: f64, oz: f64, ix: f64, iy: f64, iz: f64, roughness: f64): f64 {
  const r = clampFuzzRoughness(roughness)
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

export function evaluateFuzz(ox: f64, oy: f64, oz: f64, ix: f64, iy: f64, iz: f64, roughness: f64): f64 {
  const r = clampFuzzRoughness(roughness)
  const there = fitAlbedo(clampCosine(oz), r) * fuzzDensity(ox, oy, oz, ix, iy, iz, r)
  const back = fitAlbedo(clampCosine(iz), r) * fuzzDensity(ix, iy, iz, ox, oy, oz, r)
  return 0.5 * (there + (back * iz) / Math.max(oz, 1e-6))
}

/** Into HALF. */
export function sampleFuzz(ox: f64, oy: f64, oz: f64, roughness: f64, u1: f64, u2: f64): void {
  const r = clampFuzzRoughness(roughness)
  const c = clampCosine(oz)
  const a = fitA(c, r)
  const b = fitB(c, r)
  const radius = Math.sqrt(u1)
  turnOf(u2)
  const z = Math.sqrt(Math.max(1e-12, 1 - u1))
  const along = (radius * turnCosine - b * z) / a
  const across = (radius * turnSine) / a
  const inv = 1 / Math.sqrt(along * along + across * across + z * z)
  const sin = Math.sqrt(ox * ox + oy * oy)
  const cx = sin > 1e-9 ? ox / sin : 1
  const cy = sin > 1e-9 ? oy / sin : 0
  store<f64>(HALF, (cx * along - cy * across) * inv)
  store<f64>(HALF, (cy * along + cx * across) * inv, 8)
  store<f64>(HALF, z * inv, 16)
}

const C1: f64 = 0.5 - 2 / (3 * Math.PI)
const C2: f64 = 2.0 / 3.0 - 28 / (15 * Math.PI)

function roughDiffuseAlbedo(cos: f64, roughness: f64): f64 {
  const m = 1 - Math.min(1, Math.max(0, cos))
  const g = m * (0.0571085289 + m * (0.491881867 + m * (-0.332181442 + m * 0.0714429953)))
  return (1 + roughness * g) / (1 + C1 * roughness)
}

export let roughSingle: f64 = 0
export let roughMultiple: f64 = 0
export let roughMean: f64 = 1

export function evaluateRoughDiffuse(cosO: f64, cosI: f64, dot: f64, roughness: f64): void {
  const a = 1 / (1 + C1 * roughness)
  const s = dot - cosO * cosI
  const t = s > 0 ? s / Math.max(cosO, cosI) : s
  roughMean = a * (1 + C2 * roughness)
  roughSingle = (a * (1 + roughness * t)) / Math.PI
  roughMultiple =
    (Math.max(1e-9, 1 - roughDiffuseAlbedo(cosO, roughness)) * Math.max(1e-9, 1 - roughDiffuseAlbedo(cosI, roughness))) /
    (Math.max(1e-9, 1 - roughMean) * Math.PI)
}

// @ts-ignore: decorator
@inline
export function multipleDiffuseAlbedo(albedo: f64, mean: f64): f64 {
  return (albedo * albedo * mean) / (1 - albedo * Math.max(0, 1 - mean))
}

const FILM_SCALE: f64 = 1.0685e-7

// @ts-ignore: decorator
@inline
function response(value: f64, position: f64, variance: f64, phase: f64, shift: f64): f64 {
  return value * Math.sqrt(2 * Math.PI * variance) * Math.cos(position * phase + shift) * Math.exp(-variance * phase * phase)
}

/** XYZ sensitivity k to a phase of 2π · opd / λ + shift. */
function sensitivity(opdM: f64, shift: f64, k: i32): f64 {
  const phase = 2 * Math.PI * opdM
  if (k == 0)
    return (response(5.4856e-13, 1.681e6, 4.3278e9, phase, shift) + response(9.747e-14, 2.2399e6, 4.5282e9, phase, shift)) / FILM_SCALE
  return k == 1
    ? response(4.4201e-13, 1.7953e6, 9.3046e9, phase, shift) / FILM_SCALE
    : response(5.2481e-13, 2.2084e6, 6.6121e9, phase, shift) / FILM_SCALE
}

/** Reflectance into FILM, from that of the base at `f0`. */
export function thinFilmReflectance(cos: f64, filmIor: f64, thicknessUm: f64, f0: usize): void {
  const fade = Math.min(1, thicknessUm / 0.03)
  const eta = 1 + (Math.max(filmIor, 1) - 1) * fade * fade * (3 - 2 * fade)
  const c = Math.min(1, Math.max(0, cos))
  const cos2 = Math.sqrt(Math.max(0, 1 - (1 - c * c) / (eta * eta)))
  const r12 = fresnelDielectric(c, eta)
  const through = 1 - r12
  const opdM = 2 * eta * thicknessUm * 1e-6 * cos2
  const m1 = 1 - Math.min(1, Math.max(0, cos2))
  const schlick = m1 * m1 * m1 * m1 * m1
  for (let k = 0; k < 3; k++) {
    const root = Math.sqrt(Math.min(Math.max(load<f64>(f0 + ((<usize>k) << 3)), 0), 0.9999))
    const baseIor = (1 + root) / (1 - root)
    const at = square((baseIor - eta) / (baseIor + eta))
    const r23 = at + (1 - at) * schlick
    const shift = Math.PI + (baseIor < eta ? Math.PI : 0)
    const both = Math.min(Math.max(r12 * r23, 1e-5), 0.9999)
    const root123 = Math.sqrt(both)
    const settled = (through * through * r23) / (1 - both)
    let factor = settled - through
    store<f64>(FILM + ((<usize>k) << 3), r12 + settled)
    const series = SERIES + (<usize>k) * 24
    for (let j: usize = 0; j < 3; j++) store<f64>(series + (j << 3), 0)
    for (let m = 1; m <= 2; m++) {
      factor *= root123
      for (let j = 0; j < 3; j++) {
        const to = series + ((<usize>j) << 3)
        store<f64>(to, load<f64>(to) + factor * 2 * sensitivity(<f64>m * opdM, <f64>m * shift, j))
      }
    }
  }
  addSeries(0, 3.2404542, -1.5371385, -0.4985314)
  addSeries(1, -0.969266, 1.8760108, 0.041556)
  addSeries(2, 0.0556434, -0.2040259, 1.0572252)
}

// @ts-ignore: decorator
@inline
function addSeries(k: usize, x: f64, y: f64, z: f64): void {
  const series = SERIES + k * 24
  const v = x * load<f64>(series) + y * load<f64>(series, 8) + z * load<f64>(series, 16)
  const at = FILM + (k << 3)
  store<f64>(at, Math.min(1, Math.max(0, load<f64>(at) + v)))
}
