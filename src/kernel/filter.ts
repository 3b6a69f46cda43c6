/**
 * Regression of a picture's noise, one window at a time with 128-bit SIMD; core/render/film/filter-halves.ts tells what it is and lays out
 * the memory.
 *
 * Planes of f32, all of one stride, whose margins are wide enough that no window or patch leaves them. Of the half that guides: luminance,
 * its variance. Of the half that is filtered: red, green, blue, seven features. Then which pixels are inside (1 or 0), and what comes out:
 * weighted sums of red, green and blue, and of weights.
 */

// @ts-ignore: decorator
@inline
const SIDE: i32 = 12
/** A window reaches from five pixels before its own to six after it. */
// @ts-ignore: decorator
@inline
const BEFORE: i32 = 5
// @ts-ignore: decorator
@inline
const FEATURES: i32 = 7
// @ts-ignore: decorator
@inline
const TERMS: i32 = 8
/**
 * What a vector of four pixels leaves behind: its address (u32) and weights; terms, and terms by their weights; colour. A term is what it
 * differs from the middle by in a feature, the first of them 1.
 */
// @ts-ignore: decorator
@inline
const WEIGHTED: usize = 16 + 16 * TERMS
// @ts-ignore: decorator
@inline
const COLOR: usize = WEIGHTED + 16 * TERMS
// @ts-ignore: decorator
@inline
const KEPT_BYTES: usize = COLOR + 48

let stride: usize = 0
let planeBytes: usize = 0
let guide: usize = 0
let own: usize = 0
let inside: usize = 0
let out: usize = 0
let scratch: usize = 0
let sharpness: f32 = 0
let floors: usize = 0

/**
 * Header, u32: bytes of a row · bytes of a plane · first plane of the guide · of the half filtered · inside · out · scratch (14,336 bytes);
 * then f32: squared sensitivity · 8 reciprocal floors of the features (the distance's as a share of itself).
 */
export function setFilter(at: usize): void {
  stride = load<u32>(at)
  planeBytes = load<u32>(at, 4)
  guide = load<u32>(at, 8)
  own = load<u32>(at, 12)
  inside = load<u32>(at, 16)
  out = load<u32>(at, 20)
  scratch = load<u32>(at, 24)
  sharpness = load<f32>(at, 28)
  floors = at + 32
}

// In the scratch: nine splats each of the patch about the pixel, luminance and variance; sums of products, 8 rows of 8 terms and 3 colours; the
// system in f64; its solution, and that as splats; kept vectors.
const PATCH_L: usize = 0
const PATCH_V: usize = 144
const SUMS: usize = 288
const COLUMNS: usize = 11
const SYSTEM: usize = 1696
const RIGHT: usize = 1984
const SOLVED: usize = 2176
const KEPT: usize = 2560

// @ts-ignore: decorator
@inline
function lanes(v: v128): f64 {
  return (
    <f64>f32x4.extract_lane(v, 0) + <f64>f32x4.extract_lane(v, 1) + (<f64>f32x4.extract_lane(v, 2) + <f64>f32x4.extract_lane(v, 3))
  )
}

/** Weights of four pixels, whose first's guide luminance is at `q`. */
// @ts-ignore: decorator
@inline
function weigh(q: usize): v128 {
  const squared = f32x4.splat(sharpness)
  let away = f32x4.splat(0)
  let patch = scratch
  for (let row = q - stride - 4, j = 0; j < 3; j++, row += stride)
    for (let i: usize = 0; i < 12; i += 4, patch += 16) {
      const vp = v128.load(patch, PATCH_V)
      const vq = v128.load(row + i + planeBytes)
      const difference = f32x4.sub(v128.load(patch, PATCH_L), v128.load(row + i))
      const least = f32x4.add(vp, f32x4.min(vp, vq))
      const scale = f32x4.add(f32x4.splat(1e-9), f32x4.mul(squared, f32x4.add(vp, vq)))
      away = f32x4.add(away, f32x4.div(f32x4.sub(f32x4.mul(difference, difference), least), scale))
    }
  // (1 − x/8)^8 for e^−x: nothing is left past 8.
  let near = f32x4.sub(f32x4.splat(1), f32x4.mul(away, f32x4.splat(1.0 / 72)))
  near = f32x4.max(f32x4.splat(0), f32x4.min(f32x4.splat(1), near))
  near = f32x4.mul(near, near)
  near = f32x4.mul(near, near)
  return f32x4.mul(near, near)
}

/** Fits the window of pixel (x, y), both counted from the planes' corners, and adds what it says of each of its pixels. */
export function fitWindow(x: i32, y: i32): void {
  const middle = <usize>y * stride + ((<usize>x) << 2)
  let patch = scratch
  for (let row = guide + middle - stride - 4, j = 0; j < 3; j++, row += stride)
    for (let i: usize = 0; i < 12; i += 4, patch += 16) {
      v128.store(patch, f32x4.splat(load<f32>(row + i)), PATCH_L)
      v128.store(patch, f32x4.splat(load<f32>(row + i + planeBytes)), PATCH_V)
    }
  const features = own + 3 * planeBytes
  const distance = max<f32>(load<f32>(features + middle + 6 * planeBytes), 1e-6)
  let kept = scratch + KEPT
  let from = middle - <usize>BEFORE * (stride + 4)
  for (let j = 0; j < SIDE; j++, from += stride)
    for (let i: usize = 0; i < 48; i += 16) {
      const at = from + i
      let w = f32x4.mul(weigh(guide + at), v128.load(inside + at))
      w = v128.and(w, f32x4.ge(w, f32x4.splat(0.01)))
      if (!v128.any_true(w)) continue
      store<u32>(kept, <u32>at)
      v128.store(kept, f32x4.splat(1), 16)
      v128.store(kept, w, WEIGHTED)
      for (let k = 0; k < FEATURES; k++) {
        const plane = features + <usize>k * planeBytes
        const scale = k == 6 ? load<f32>(floors, 24) / distance : load<f32>(floors + ((<usize>k) << 2))
        const term = f32x4.mul(f32x4.sub(v128.load(plane + at), f32x4.splat(load<f32>(plane + middle))), f32x4.splat(scale))
        const to = kept + ((<usize>k) << 4)
        v128.store(to, term, 32)
        v128.store(to, f32x4.mul(w, term), WEIGHTED + 16)
      }
      v128.store(kept, v128.load(own + at), COLOR)
      v128.store(kept, v128.load(own + at + planeBytes), COLOR + 16)
      v128.store(kept, v128.load(own + at + 2 * planeBytes), COLOR + 32)
      kept += KEPT_BYTES
    }
  multiply(kept)
  solve()
  for (let at = scratch + KEPT; at < kept; at += KEPT_BYTES) {
    let r = v128.load(scratch, SOLVED)
    let g = v128.load(scratch, SOLVED + 16)
    let b = v128.load(scratch, SOLVED + 32)
    let solved = scratch + 48
    for (let k: usize = 0; k < <usize>FEATURES * 16; k += 16, solved += 48) {
      const term = v128.load(at + k, 32)
      r = f32x4.add(r, f32x4.mul(term, v128.load(solved, SOLVED)))
      g = f32x4.add(g, f32x4.mul(term, v128.load(solved, SOLVED + 16)))
      b = f32x4.add(b, f32x4.mul(term, v128.load(solved, SOLVED + 32)))
    }
    const w = v128.load(at, WEIGHTED)
    let to = out + <usize>load<u32>(at)
    v128.store(to, f32x4.add(v128.load(to), f32x4.mul(w, r)))
    to += planeBytes
    v128.store(to, f32x4.add(v128.load(to), f32x4.mul(w, g)))
    to += planeBytes
    v128.store(to, f32x4.add(v128.load(to), f32x4.mul(w, b)))
    to += planeBytes
    v128.store(to, f32x4.add(v128.load(to), w))
  }
}

/** Sums of products of terms with terms and with colours, two rows at a time: what is added to stays in registers. */
function multiply(end: usize): void {
  for (let k: usize = 0; k < <usize>TERMS; k += 2) {
    for (let n: usize = 0; n <= k; n += 2) pairUp(end, k, n)
    pairWithColors(end, k)
  }
}

// @ts-ignore: decorator
@inline
function addProduct(sum: v128, weighted: v128, other: v128): v128 {
  return f32x4.add(sum, f32x4.mul(weighted, other))
}

/** Rows `k`, `k` + 1 by columns `n`, `n` + 1. */
// @ts-ignore: decorator
@inline
function pairUp(end: usize, k: usize, n: usize): void {
  let aa = f32x4.splat(0)
  let ab = f32x4.splat(0)
  let ba = f32x4.splat(0)
  let bb = f32x4.splat(0)
  for (let at = scratch + KEPT; at < end; at += KEPT_BYTES) {
    const a = v128.load(at + (k << 4), WEIGHTED)
    const b = v128.load(at + (k << 4), WEIGHTED + 16)
    const c = v128.load(at + (n << 4), 16)
    const d = v128.load(at + (n << 4), 32)
    aa = addProduct(aa, a, c)
    ab = addProduct(ab, a, d)
    ba = addProduct(ba, b, c)
    bb = addProduct(bb, b, d)
  }
  const to = scratch + ((k * COLUMNS + n) << 4)
  v128.store(to, aa, SUMS)
  v128.store(to, ab, SUMS + 16)
  v128.store(to, ba, SUMS + (COLUMNS << 4))
  v128.store(to, bb, SUMS + (COLUMNS << 4) + 16)
}

/** Rows `k`, `k` + 1 by red, green and blue. */
// @ts-ignore: decorator
@inline
function pairWithColors(end: usize, k: usize): void {
  let ar = f32x4.splat(0)
  let ag = f32x4.splat(0)
  let ab = f32x4.splat(0)
  let br = f32x4.splat(0)
  let bg = f32x4.splat(0)
  let bb = f32x4.splat(0)
  for (let at = scratch + KEPT; at < end; at += KEPT_BYTES) {
    const a = v128.load(at + (k << 4), WEIGHTED)
    const b = v128.load(at + (k << 4), WEIGHTED + 16)
    const red = v128.load(at, COLOR)
    const green = v128.load(at, COLOR + 16)
    const blue = v128.load(at, COLOR + 32)
    ar = addProduct(ar, a, red)
    ag = addProduct(ag, a, green)
    ab = addProduct(ab, a, blue)
    br = addProduct(br, b, red)
    bg = addProduct(bg, b, green)
    bb = addProduct(bb, b, blue)
  }
  let to = scratch + ((k * COLUMNS + <usize>TERMS) << 4)
  v128.store(to, ar, SUMS)
  v128.store(to, ag, SUMS + 16)
  v128.store(to, ab, SUMS + 32)
  to += COLUMNS << 4
  v128.store(to, br, SUMS)
  v128.store(to, bg, SUMS + 16)
  v128.store(to, bb, SUMS + 32)
}

/** The sums as a system whose right sides become its solution (Cholesky); each term but the first is held to little by one more weight. */
function solve(): void {
  const whole = lanes(v128.load(scratch, SUMS))
  let row = scratch + SYSTEM
  for (let k = 0; k < TERMS; k++) {
    const sums = scratch + SUMS + ((<usize>k * COLUMNS) << 4)
    for (let n = 0; n <= k; n++)
      store<f64>(row + ((<usize>n) << 3), lanes(v128.load(sums + ((<usize>n) << 4))) + (n == k && k > 0 ? whole : 0))
    row += (<usize>(k + 1)) << 3
    for (let c = 0; c < 3; c++)
      store<f64>(scratch + ((<usize>(k * 3 + c)) << 3), lanes(v128.load(sums + ((<usize>(TERMS + c)) << 4))), RIGHT)
  }
  row = scratch + SYSTEM
  for (let i = 0; i < TERMS; i++) {
    let other = scratch + SYSTEM
    for (let j = 0; j <= i; j++) {
      let value = load<f64>(row + ((<usize>j) << 3))
      for (let k: usize = 0; k < (<usize>j) << 3; k += 8) value -= load<f64>(row + k) * load<f64>(other + k)
      store<f64>(row + ((<usize>j) << 3), i == j ? Math.sqrt(Math.max(value, 1e-12)) : value / load<f64>(other + ((<usize>j) << 3)))
      other += (<usize>(j + 1)) << 3
    }
    const diagonal = load<f64>(row + ((<usize>i) << 3))
    for (let c: usize = 0; c < 24; c += 8) {
      let value = load<f64>(scratch + <usize>i * 24 + c, RIGHT)
      for (let k = 0; k < i; k++) value -= load<f64>(row + ((<usize>k) << 3)) * load<f64>(scratch + <usize>k * 24 + c, RIGHT)
      store<f64>(scratch + <usize>i * 24 + c, value / diagonal, RIGHT)
    }
    row += (<usize>(i + 1)) << 3
  }
  for (let i = TERMS - 1; i >= 0; i--) {
    const diagonal = load<f64>(scratch + ((<usize>((i * (i + 1)) / 2 + i)) << 3), SYSTEM)
    for (let c: usize = 0; c < 24; c += 8) {
      let value = load<f64>(scratch + <usize>i * 24 + c, RIGHT)
      for (let k = i + 1; k < TERMS; k++)
        value -= load<f64>(scratch + ((<usize>((k * (k + 1)) / 2 + i)) << 3), SYSTEM) * load<f64>(scratch + <usize>k * 24 + c, RIGHT)
      store<f64>(scratch + <usize>i * 24 + c, value / diagonal, RIGHT)
    }
  }
  for (let k: usize = 0; k < <usize>TERMS * 3; k++)
    v128.store(scratch + (k << 4), f32x4.splat(<f32>load<f64>(scratch + (k << 3), RIGHT)), SOLVED)
}
