import { corner, halfArea, positions, scratch, TAG } from './room'

/** Triangles as records: the box of each, or the boxes of its parts. */

export let triangleLow: v128 = f32x4.splat(0)
export let triangleHigh: v128 = f32x4.splat(0)

/** The box of a triangle; and what of its surface the triangle does not fill. */
export function measureTriangle(t: i32): f64 {
  const p = positions + <usize>t * 36
  const a = corner(p)
  const b = corner(p + 12)
  const c = corner(p + 24)
  triangleLow = f32x4.pmin(f32x4.pmin(a, b), c)
  triangleHigh = f32x4.pmax(f32x4.pmax(a, b), c)
  const u = f32x4.sub(b, a)
  const v = f32x4.sub(c, a)
  const uy = v128.shuffle<f32>(u, u, 1, 2, 0, 3)
  const vy = v128.shuffle<f32>(v, v, 1, 2, 0, 3)
  const n = f32x4.sub(f32x4.mul(u, vy), f32x4.mul(v, uy))
  const n2 = f32x4.mul(n, n)
  const area = f32x4.extract_lane(f32x4.sqrt(f32x4.add(f32x4.add(n2, v128.shuffle<f32>(n2, n2, 1, 1, 1, 1)), v128.shuffle<f32>(n2, n2, 2, 2, 2, 2))), 0)
  const empty = halfArea(triangleLow, triangleHigh) - area
  return empty > 0 ? <f64>empty : 0
}

// @ts-ignore: decorator
@inline
export function putRecord(record: usize, t: i32, low: v128, high: v128): void {
  v128.store(record, i32x4.replace_lane(low, 3, t | <i32>TAG))
  v128.store(record, i32x4.replace_lane(high, 3, 0), 16)
}

export const MOST_PIECES: i32 = 64
// In the scratch while records are made: a stack of boxes with their shares of the pieces, 32 bytes each; two polygons of f64.
const CUTS: usize = 2048
const POLYGON: usize = 8192
const CLIPPED: usize = 8704

/** Records of a triangle's parts, cut across the longest side of their boxes; how many there are. */
export function cutTriangle(t: i32, pieces: i32, to: usize): i32 {
  const stack = scratch + CUTS
  let top = stack + 32
  v128.store(stack, triangleLow)
  v128.store(stack, triangleHigh, 16)
  store<i32>(stack, pieces, 12)
  let count = 0
  while (top > stack) {
    top -= 32
    const share = load<i32>(top, 12)
    let axis: usize = 0
    let longest: f32 = -1
    for (let c: usize = 0; c < 12; c += 4) {
      const side = load<f32>(top + c, 16) - load<f32>(top + c)
      if (side > longest) {
        longest = side
        axis = c
      }
    }
    const low = v128.load(top)
    const high = v128.load(top, 16)
    if (share == 1 || !(longest > 0)) {
      putRecord(to + ((<usize>count) << 5), t, low, high)
      count++
      continue
    }
    const middle = load<f32>(top + axis) + longest / 2
    const half = share >> 1
    // The lower part's limit, and then the upper part's.
    v128.store(top, low)
    v128.store(top, high, 16)
    store<f32>(top + axis, middle, 16)
    store<i32>(top, half, 12)
    if (fitsPart(t, top)) top += 32
    v128.store(top, low)
    v128.store(top, high, 16)
    store<f32>(top + axis, middle)
    store<i32>(top, share - half, 12)
    if (fitsPart(t, top)) top += 32
  }
  return count
}

/** Draws a box in to the part of a triangle that lies in it; false when none does. */
function fitsPart(t: i32, box: usize): bool {
  const p = positions + <usize>t * 36
  let from = scratch + POLYGON
  let to = scratch + CLIPPED
  let corners = 3
  for (let k: usize = 0; k < 9; k++) store<f64>(from + (k << 3), <f64>load<f32>(p + (k << 2)))
  for (let c: usize = 0; c < 3; c++)
    for (let end = 0; end < 2; end++) {
      const sign: f64 = end ? -1 : 1
      const limit = sign * <f64>load<f32>(box + (c << 2) + (end ? 16 : 0))
      let kept = 0
      for (let k = 0; k < corners; k++) {
        const a = from + <usize>k * 24
        const b = from + <usize>(k + 1 < corners ? k + 1 : 0) * 24
        const da = sign * load<f64>(a + (c << 3)) - limit
        const db = sign * load<f64>(b + (c << 3)) - limit
        if (da >= 0) {
          for (let i: usize = 0; i < 24; i += 8) store<f64>(to + <usize>kept * 24 + i, load<f64>(a + i))
          kept++
        }
        if (da >= 0 != db >= 0) {
          const share = da / (da - db)
          for (let i: usize = 0; i < 24; i += 8) {
            const at = load<f64>(a + i)
            store<f64>(to + <usize>kept * 24 + i, at + (load<f64>(b + i) - at) * share)
          }
          kept++
        }
      }
      const other = from
      from = to
      to = other
      corners = kept
    }
  if (corners == 0) return false
  for (let c: usize = 0; c < 3; c++) {
    let least = Infinity
    let most = -Infinity
    for (let k = 0; k < corners; k++) {
      const v = load<f64>(from + <usize>k * 24 + (c << 3))
      least = Math.min(least, v)
      most = Math.max(most, v)
    }
    // What rounding may have taken off.
    const slack = 1e-6 * Math.max(Math.abs(least), Math.abs(most))
    store<f32>(box + (c << 2), <f32>Math.max(<f64>load<f32>(box + (c << 2)), least - slack))
    store<f32>(box + (c << 2), <f32>Math.min(<f64>load<f32>(box + (c << 2), 16), most + slack), 16)
  }
  return true
}
