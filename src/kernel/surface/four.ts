import { fitA, fitAlbedo, fitAlbedoCenter, fitAlbedoOffset, fitAlbedoSpread, fitB, readTable } from '../lobes'
import { ALBEDO, COAT, COAT_TONE, EDGE, F0, FUZZ, KEPT_MEAN, KEPT_OUT, METAL_MULTIPLE, SHINE, SPECULAR } from '../memory'
import {
  alphaX,
  alphaY,
  baseTable,
  coat,
  coatAlpha,
  coatLambdaO,
  coatMean,
  coatOut,
  coatTable,
  dielectricReflectsAll,
  diffuse,
  etaFresnel,
  fuzz,
  fuzzMean,
  fuzzOut,
  glass,
  glassMultipleBack,
  glassSame,
  lambdaO,
  mirrorMean,
  mirrorOut,
  probabilityCoat,
  probabilityDiffuse,
  probabilityFuzz,
  probabilitySpecular,
  roughnessTowards,
} from './prepared'
import {
  coatIor,
  coatRoughness,
  diffuseRoughness,
  fuzzRoughness,
  metalness,
  specularWeight,
  thinWalled,
  translucency,
  transmission,
} from './parameters'
import { fuzzTable, mirrorTable } from './albedo-tables'

/** What evaluate.ts says of reflected light, for four directions at once in 32-bit floats. */

/** Written by `reflectFour`: value times cosine by colour, and density. */
export let valueR: v128 = f32x4.splat(0)
export let valueG: v128 = f32x4.splat(0)
export let valueB: v128 = f32x4.splat(0)
export let density: v128 = f32x4.splat(0)

// @ts-ignore: decorator
@inline
const PI: f32 = 3.1415927

// @ts-ignore: decorator
@inline
function all(v: f64): v128 {
  return f32x4.splat(<f32>v)
}
// @ts-ignore: decorator
@inline
function plus(a: v128, b: v128): v128 {
  return f32x4.add(a, b)
}
// @ts-ignore: decorator
@inline
function minus(a: v128, b: v128): v128 {
  return f32x4.sub(a, b)
}
// @ts-ignore: decorator
@inline
function times(a: v128, b: v128): v128 {
  return f32x4.mul(a, b)
}
// @ts-ignore: decorator
@inline
function over(a: v128, b: v128): v128 {
  return f32x4.div(a, b)
}
// @ts-ignore: decorator
@inline
function squared(a: v128): v128 {
  return f32x4.mul(a, a)
}
// @ts-ignore: decorator
@inline
function atLeast(a: v128, least: v128): v128 {
  return f32x4.pmax(least, a)
}
// @ts-ignore: decorator
@inline
function atMost(a: v128, most: v128): v128 {
  return f32x4.pmin(most, a)
}
/** `a` where the mask is set, else `b`. */
// @ts-ignore: decorator
@inline
function where(mask: v128, a: v128, b: v128): v128 {
  return v128.bitselect(a, b, mask)
}

/** e to the power of x, to about two parts in ten million; x is held to −80..80. */
// @ts-ignore: decorator
@inline
function exponential(x: v128): v128 {
  const t = times(f32x4.min(f32x4.max(x, f32x4.splat(-80)), f32x4.splat(80)), f32x4.splat(1.44269504))
  const n = f32x4.nearest(t)
  const f = times(minus(t, n), f32x4.splat(0.693147181))
  let p = plus(f32x4.splat(1.0 / 120), times(f, f32x4.splat(1.0 / 720)))
  p = plus(f32x4.splat(1.0 / 24), times(f, p))
  p = plus(f32x4.splat(1.0 / 6), times(f, p))
  p = plus(f32x4.splat(0.5), times(f, p))
  p = plus(f32x4.splat(1), times(f, p))
  p = plus(f32x4.splat(1), times(f, p))
  const power = i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(n), i32x4.splat(127)), 23)
  return times(p, power)
}

// @ts-ignore: decorator
@inline
function fresnel(cos: v128, eta: f64): v128 {
  const one = f32x4.splat(1)
  const c = atMost(f32x4.abs(cos), one)
  const g2 = plus(all(eta * eta - 1), squared(c))
  const g = f32x4.sqrt(atLeast(g2, f32x4.splat(0)))
  const a = over(minus(g, c), plus(g, c))
  const b = over(minus(times(c, plus(g, c)), one), plus(times(c, minus(g, c)), one))
  const r = times(times(f32x4.splat(0.5), squared(a)), plus(one, squared(b)))
  return where(f32x4.gt(g2, f32x4.splat(0)), r, one)
}

// @ts-ignore: decorator
@inline
function ggx(hx: v128, hy: v128, hz: v128, ax: f64, ay: f64): v128 {
  const d = plus(plus(squared(times(hx, all(1 / ax))), squared(times(hy, all(1 / ay)))), squared(hz))
  return over(all(1 / (Math.PI * ax * ay)), squared(d))
}

// @ts-ignore: decorator
@inline
function lambda(x: v128, y: v128, z: v128, ax: f64, ay: f64): v128 {
  const a = plus(squared(times(x, all(ax))), squared(times(y, all(ay))))
  const root = f32x4.sqrt(plus(f32x4.splat(1), over(a, squared(z))))
  return times(minus(root, f32x4.splat(1)), f32x4.splat(0.5))
}

const TABLE_STEPS: f32 = 31

/** A table of albedo at four cosines and one roughness. */
function readFour(table: usize, cos: v128, roughness: f64): v128 {
  const y = roughness * 31
  const r = y >= 30 ? 30 : <i32>y
  const fy = f64x2.splat(y - <f64>r)
  const rows = table + ((<usize>(r * 32)) << 3)
  const x = times(cos, f32x4.splat(TABLE_STEPS))
  const c = i32x4.min_s(i32x4.trunc_sat_f32x4_s(x), i32x4.splat(30))
  const fx = minus(x, f32x4.convert_i32x4_s(c))
  const a = mixRows(rows + ((<usize>i32x4.extract_lane(c, 0)) << 3), fy)
  const b = mixRows(rows + ((<usize>i32x4.extract_lane(c, 1)) << 3), fy)
  const d = mixRows(rows + ((<usize>i32x4.extract_lane(c, 2)) << 3), fy)
  const e = mixRows(rows + ((<usize>i32x4.extract_lane(c, 3)) << 3), fy)
  // (low, high) of a and b, then of d and e.
  const ab = v128.shuffle<f32>(f32x4.demote_f64x2_zero(a), f32x4.demote_f64x2_zero(b), 0, 4, 1, 5)
  const de = v128.shuffle<f32>(f32x4.demote_f64x2_zero(d), f32x4.demote_f64x2_zero(e), 0, 4, 1, 5)
  const low = v128.shuffle<f32>(ab, de, 0, 1, 4, 5)
  const high = v128.shuffle<f32>(ab, de, 2, 3, 6, 7)
  return plus(low, times(minus(high, low), fx))
}

// @ts-ignore: decorator
@inline
function mixRows(at: usize, fy: v128): v128 {
  const first = v128.load(at)
  return f64x2.add(first, f64x2.mul(f64x2.sub(v128.load(at, 256), first), fy))
}

/** A table at four directions, whose roughness differs where the surface is brushed. */
function readTowards(table: usize, ix: v128, iy: v128, ci: v128): v128 {
  if (alphaX == alphaY) return readFour(table, ci, Math.sqrt(alphaX))
  const a = readTowardsOne(table, f32x4.extract_lane(ix, 0), f32x4.extract_lane(iy, 0), f32x4.extract_lane(ci, 0))
  const b = readTowardsOne(table, f32x4.extract_lane(ix, 1), f32x4.extract_lane(iy, 1), f32x4.extract_lane(ci, 1))
  const c = readTowardsOne(table, f32x4.extract_lane(ix, 2), f32x4.extract_lane(iy, 2), f32x4.extract_lane(ci, 2))
  const d = readTowardsOne(table, f32x4.extract_lane(ix, 3), f32x4.extract_lane(iy, 3), f32x4.extract_lane(ci, 3))
  return f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(a), 1, b), 2, c), 3, d)
}

function readTowardsOne(table: usize, x: f32, y: f32, cos: f32): f32 {
  return <f32>readTable(table, Math.max(0, <f64>cos), roughnessTowards(<f64>x, <f64>y))
}

/** What the lobe of fuzz sends from `o` to four directions, times the cosine, without its weight; its density into `fuzzPdf`. */
let fuzzPdf: v128 = f32x4.splat(0)
function fuzzFour(ox: f64, oy: f64, co: f64, ix: v128, iy: v128, ci: v128): v128 {
  const r = Math.min(1, Math.max(0.05, fuzzRoughness))
  const c = Math.min(1, Math.max(0.01, co))
  const a = fitA(c, r)
  const b = fitB(c, r)
  const sin = Math.sqrt(ox * ox + oy * oy)
  const cx = all(sin > 1e-9 ? ox / sin : 1)
  const cy = all(sin > 1e-9 ? oy / sin : 0)
  const along = plus(times(all(a), plus(times(cx, ix), times(cy, iy))), times(all(b), ci))
  const across = times(all(a), minus(times(cx, iy), times(cy, ix)))
  const l2 = plus(plus(squared(along), squared(across)), squared(ci))
  fuzzPdf = over(times(ci, all((a * a) / Math.PI)), squared(l2))
  const there = times(all(fitAlbedo(c, r)), fuzzPdf)

  // The other way: from each of the four to `o`.
  const cosine = f32x4.min(f32x4.max(ci, f32x4.splat(0.01)), f32x4.splat(1))
  const r4 = all(r)
  const fa = over(
    times(plus(times(f32x4.splat(2.58126), cosine), all(0.813703 * r)), r4),
    plus(plus(f32x4.splat(1), times(f32x4.splat(0.310327), squared(cosine))), times(all(2.60994 * r), cosine)),
  )
  const fb = over(
    times(f32x4.sqrt(minus(f32x4.splat(1), cosine)), all((r - 1) * r * r * r)),
    plus(times(cosine, all(1.71228 - 1.71506 * r)), all(0.0000254053 + 1.34174 * r * r)),
  )
  const s = fitAlbedoSpread(r)
  const m = fitAlbedoCenter(r)
  const bell = exponential(times(f32x4.splat(-0.5), squared(times(minus(cosine, all(m)), all(1 / s)))))
  const albedo = f32x4.min(
    f32x4.max(plus(times(bell, all(1 / (s * Math.sqrt(2 * Math.PI)))), all(fitAlbedoOffset(r))), f32x4.splat(0)),
    f32x4.splat(1),
  )
  const sinI = f32x4.sqrt(plus(squared(ix), squared(iy)))
  const isTilted = f32x4.gt(sinI, f32x4.splat(1e-6))
  const dx = where(isTilted, over(ix, sinI), f32x4.splat(1))
  const dy = where(isTilted, over(iy, sinI), f32x4.splat(0))
  const alongBack = plus(times(fa, plus(times(dx, all(ox)), times(dy, all(oy)))), times(fb, all(co)))
  const acrossBack = times(fa, minus(times(dx, all(oy)), times(dy, all(ox))))
  const l2Back = plus(plus(squared(alongBack), squared(acrossBack)), all(co * co))
  const back = times(albedo, over(times(all(co), times(squared(fa), f32x4.splat(<f32>1 / PI))), squared(l2Back)))
  return times(f32x4.splat(0.5), plus(there, times(times(back, ci), all(1 / Math.max(co, 1e-6)))))
}

// @ts-ignore: decorator
@inline
function roughAlbedo(cos: v128, r: f64): v128 {
  const m = minus(f32x4.splat(1), atMost(cos, f32x4.splat(1)))
  let g = plus(f32x4.splat(-0.332181442), times(m, f32x4.splat(0.0714429953)))
  g = plus(f32x4.splat(0.491881867), times(m, g))
  g = plus(f32x4.splat(0.0571085289), times(m, g))
  return times(plus(f32x4.splat(1), times(all(r), times(m, g))), all(1 / (1 + C1 * r)))
}
const C1: f64 = 0.5 - 2 / (3 * Math.PI)
const C2: f64 = 2.0 / 3.0 - 28 / (15 * Math.PI)

// @ts-ignore: decorator
@inline
function underLayer(out: f64, into: v128, mean: f64): v128 {
  return times(minus(f32x4.splat(1), into), all((1 - out) / Math.max(1e-4, 1 - mean)))
}

/** 1 + (tint · tone − 1) · coat of one colour, of light that takes so long a path through the coat. */
// @ts-ignore: decorator
@inline
function tintOf(k: usize, path: v128): v128 {
  const color = load<f64>(COAT + k)
  const tone = load<f64>(COAT_TONE + k)
  if (color >= 1) return all(1 + (tone - 1) * coat)
  const tint = exponential(times(path, all(Math.log(Math.max(color, 1e-30)))))
  return plus(f32x4.splat(1), times(minus(times(tint, all(tone)), f32x4.splat(1)), all(coat)))
}

/**
 * The surface as `prepare` has left it, without a thin film, for four directions on the side of the viewer.
 * @param co cosine of the viewer, above 0
 * @param ci cosines of the directions; what is brought back of one at or below 0 means nothing
 */
export function reflectFour(ox: f64, oy: f64, co: f64, ix: v128, iy: v128, ci: v128): void {
  const one = f32x4.splat(1)
  let hx = plus(all(ox), ix)
  let hy = plus(all(oy), iy)
  let hz = plus(all(co), ci)
  const inv = over(one, f32x4.sqrt(plus(plus(squared(hx), squared(hy)), squared(hz))))
  hx = times(hx, inv)
  hy = times(hy, inv)
  hz = times(hz, inv)
  const oh = atMost(plus(plus(times(all(ox), hx), times(all(oy), hy)), times(all(co), hz)), one)
  const m = metalness
  let underDiffuse = one
  let underMirror = one
  let overR = one
  let overG = one
  let overB = one
  let r = f32x4.splat(0)
  let g = r
  let b = r
  let p = r
  if (fuzz > 0 || coat > 0) {
    const fuzzIn = fuzz > 0 ? times(all(fuzz), readFour(fuzzTable, ci, fuzzRoughness)) : f32x4.splat(0)
    const coatIn = coat > 0 ? times(all(coat), readFour(coatTable, ci, coatRoughness)) : f32x4.splat(0)
    underDiffuse = underLayer(fuzzOut, fuzzIn, fuzzMean)
    underMirror = minus(one, times(f32x4.splat(0.5), plus(all(fuzzOut), fuzzIn)))
    if (fuzz > 0) {
      const v = times(fuzzFour(ox, oy, co, ix, iy, ci), all(fuzz))
      r = times(v, all(load<f64>(FUZZ)))
      g = times(v, all(load<f64>(FUZZ, 8)))
      b = times(v, all(load<f64>(FUZZ, 16)))
      p = times(fuzzPdf, all(probabilityFuzz))
    }
    if (coat > 0) {
      const common = times(ggx(hx, hy, hz, coatAlpha, coatAlpha), all(1 / (4 * co)))
      const coatUnder = plus(underMirror, times(minus(underDiffuse, underMirror), all(coatAlpha)))
      const shadowed = plus(all(1 + coatLambdaO), lambda(ix, iy, ci, coatAlpha, coatAlpha))
      const v = over(times(times(times(all(coat), coatUnder), fresnel(oh, coatIor)), common), shadowed)
      r = plus(r, v)
      g = plus(g, v)
      b = plus(b, v)
      p = plus(p, times(common, all(probabilityCoat / (1 + coatLambdaO))))
      underDiffuse = times(underDiffuse, underLayer(coatOut, coatIn, coatMean))
      underMirror = times(underMirror, minus(one, times(f32x4.splat(0.5), plus(all(coatOut), coatIn))))
      const n2 = coatIor * coatIor
      const slant = f32x4.sqrt(minus(one, times(minus(one, squared(ci)), all(1 / n2))))
      const path = plus(all(0.5 / Math.sqrt(1 - (1 - co * co) / n2)), over(f32x4.splat(0.5), slant))
      overR = tintOf(0, path)
      overG = tintOf(8, path)
      overB = tintOf(16, path)
    }
    const mix = all(Math.min(1, 1.8 * alphaX))
    underMirror = plus(underMirror, times(minus(underDiffuse, underMirror), mix))
  }
  if (probabilitySpecular > 0) {
    const common = times(ggx(hx, hy, hz, alphaX, alphaY), all(1 / (4 * co)))
    const v = over(times(underMirror, common), plus(all(1 + lambdaO), lambda(ix, iy, ci, alphaX, alphaY)))
    p = plus(p, times(common, all(probabilitySpecular / (1 + lambdaO))))
    let dielectric = fresnel(oh, etaFresnel)
    if (glass > 0) {
      if (thinWalled) {
        const both = over(plus(dielectric, dielectric), plus(one, dielectric))
        dielectric = plus(times(both, all(transmission)), times(dielectric, all(1 - transmission)))
      } else dielectric = where(dielectricReflectsAll(oh), one, dielectric)
    }
    const plain = times(v, times(dielectric, all(1 - m)))
    const metal = m * specularWeight
    if (metal > 0) {
      const slope = minus(one, f32x4.min(f32x4.max(oh, f32x4.splat(0)), one))
      const s2 = squared(slope)
      const s5 = times(squared(s2), slope)
      const edge = times(minus(one, slope), times(s5, slope))
      const bright = times(v, all(metal))
      r = plus(r, times(overR, plus(times(bright, metalOf(0, s5, edge)), times(plain, all(load<f64>(SPECULAR))))))
      g = plus(g, times(overG, plus(times(bright, metalOf(8, s5, edge)), times(plain, all(load<f64>(SPECULAR, 8))))))
      b = plus(b, times(overB, plus(times(bright, metalOf(16, s5, edge)), times(plain, all(load<f64>(SPECULAR, 16))))))
    } else {
      r = plus(r, times(overR, times(plain, all(load<f64>(SPECULAR)))))
      g = plus(g, times(overG, times(plain, all(load<f64>(SPECULAR, 8)))))
      b = plus(b, times(overB, times(plain, all(load<f64>(SPECULAR, 16)))))
    }
  }
  p = plus(p, times(ci, all(probabilityDiffuse / Math.PI)))
  if (m > 0) {
    const lost = minus(one, readTowards(mirrorTable, ix, iy, ci))
    const scale = (m * specularWeight * (1 - mirrorOut)) / (Math.PI * Math.max(1e-4, 1 - mirrorMean))
    const v = times(times(underDiffuse, times(lost, ci)), all(scale))
    r = plus(r, times(overR, times(v, all(load<f64>(METAL_MULTIPLE)))))
    g = plus(g, times(overG, times(v, all(load<f64>(METAL_MULTIPLE, 8)))))
    b = plus(b, times(overB, times(v, all(load<f64>(METAL_MULTIPLE, 16)))))
  }
  if (glass > 0) {
    const lost = minus(one, readTowards(glassSame, ix, iy, ci))
    const v = times(times(underDiffuse, times(lost, ci)), all(glass * glassMultipleBack))
    r = plus(r, times(overR, v))
    g = plus(g, times(overG, v))
    b = plus(b, times(overB, v))
  }
  const share = diffuse * (1 - translucency)
  if (share > 0) {
    const reflectedIn = readTowards(baseTable, ix, iy, ci)
    const v = times(times(underDiffuse, ci), all(share))
    let single = f32x4.splat(1 / PI)
    let multiple = f32x4.splat(0)
    let mean: f64 = 1
    if (diffuseRoughness > 0) {
      const a = 1 / (1 + C1 * diffuseRoughness)
      const dot = plus(plus(times(all(ox), ix), times(all(oy), iy)), times(all(co), ci))
      const s = minus(dot, times(all(co), ci))
      const t = where(f32x4.gt(s, f32x4.splat(0)), over(s, f32x4.max(all(co), ci)), s)
      mean = a * (1 + C2 * diffuseRoughness)
      single = times(plus(one, times(all(diffuseRoughness), t)), all(a / Math.PI))
      const out = atLeast(minus(one, roughAlbedo(all(co), diffuseRoughness)), f32x4.splat(1e-9))
      const into = atLeast(minus(one, roughAlbedo(ci, diffuseRoughness)), f32x4.splat(1e-9))
      multiple = times(times(out, into), all(1 / (Math.max(1e-9, 1 - mean) * Math.PI)))
    }
    r = plus(r, times(times(overR, v), diffuseOf(0, reflectedIn, single, multiple, mean)))
    g = plus(g, times(times(overG, v), diffuseOf(8, reflectedIn, single, multiple, mean)))
    b = plus(b, times(times(overB, v), diffuseOf(16, reflectedIn, single, multiple, mean)))
  }
  valueR = r
  valueG = g
  valueB = b
  density = p
}

// @ts-ignore: decorator
@inline
function metalOf(k: usize, s5: v128, edge: v128): v128 {
  const f0 = load<f64>(F0 + k)
  const f = minus(plus(all(f0), times(all(1 - f0), s5)), times(all(load<f64>(EDGE + k)), edge))
  return f32x4.max(f, f32x4.splat(0))
}

// @ts-ignore: decorator
@inline
function diffuseOf(k: usize, reflectedIn: v128, single: v128, multiple: v128, mean: f64): v128 {
  const albedo = load<f64>(ALBEDO + k)
  const passed = f32x4.max(minus(f32x4.splat(1), times(reflectedIn, all(load<f64>(SHINE + k)))), f32x4.splat(0))
  const kept = times(passed, all(load<f64>(KEPT_OUT + k) / load<f64>(KEPT_MEAN + k)))
  const again = (albedo * albedo * mean) / (1 - albedo * Math.max(0, 1 - mean))
  return times(kept, plus(times(all(albedo), single), times(all(again), multiple)))
}
