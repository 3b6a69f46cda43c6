/**
 * Ray traversal of a 4-wide bounding volume hierarchy with 128-bit SIMD, compiled by AssemblyScript to WebAssembly.
 * core/render/simd-caster.ts packs the tree into this memory and calls in; core/render/bvh.ts is the slow reference it must equal.
 *
 * Boxes and triangles are tested four at a time in 32-bit floats, with bounds on the rounding error so that the test may let a
 * wrong one pass but never loses a right one. What passes is then decided one by one in doubles, by the very formula of the
 * reference: both give the same distance and the same barycentric weights, to the bit.
 *
 * Memory, in bytes (addresses below 2^31, all of it multiples of 16):
 *   0   distance f64 · 8 u f64 · 16 v f64             the last hit
 *   32  four f32                                      scratch
 *   64  stack: (child u32, near f32), to 4096: two trees deep it takes less than half of that
 *   node, 128 bytes:   min x ×4 · min y ×4 · min z ×4 · max x ×4 · max y ×4 · max z ×4 · child u32 ×4 · 16 unused
 *     child: address of a node, address of a packet + 1, or of a placement + 2. Unused children have empty boxes.
 *   packet, 176 bytes: first corner x ×4 · y · z · first edge x ×4 · y · z · second edge x ×4 · y · z · size f32 ×4 · id u32 ×4
 *     size: sum of the absolute edge components; NaN for an unused lane, which then passes no comparison
 *     id: triangle index, with MASKED in the top bit
 *   placement, 224 bytes: world to shape f64, 3 rows of 4 · shape to world f64, 3 rows of 4 · roots of the shape's trees
 *     of everything, of what is solid, of what is tinted u32 · whether it stands as it is, untransformed, u32 · factor of the density of
 *     texture coordinates f64 · its number u32
 */

import { CROSSINGS } from './memory'
import { hasScene, passesAlpha } from './scene'

export const RESULT: usize = 0
const SCRATCH: usize = 32
const STACK: usize = 64
const MASKED: u32 = 0x80000000
const INDEX: u32 = 0x3fffffff
const PLACED: u32 = 2
/** Bound on the relative rounding error of the few f32 operations behind one comparison. */
const SLACK: f32 = 1e-6

/** Asks the host whether a hit on a surface with holes counts. */
// @ts-ignore: decorator
@external('env', 'accept')
declare function accept(triangle: i32, u: f64, v: f64): i32

let root: u32 = 0
let solidRoot: u32 = 0
export let tintedRoot: u32 = 0

/** Sets the roots of everything, of what is solid and of what is tinted: a child as a node has it, or 0 where there is nothing. */
export function setRoots(all: u32, solid: u32, tinted: u32): void {
  root = all
  solidRoot = solid
  tintedRoot = tinted
}

/** What a ray may meet. */
// @ts-ignore: decorator
@inline
export const EVERYTHING: u32 = 0
// @ts-ignore: decorator
@inline
export const SOLID: u32 = 1

/** Shapes stand in the memory at these offsets of a placement. */
export namespace Placement {
  // @ts-ignore: decorator
  @inline export const TO_WORLD: usize = 96
  // @ts-ignore: decorator
  @inline export const ROOT: usize = 192
  // @ts-ignore: decorator
  @inline export const SOLID_ROOT: usize = 196
  // @ts-ignore: decorator
  @inline export const TINTED_ROOT: usize = 200
  // @ts-ignore: decorator
  @inline export const AS_IT_IS: usize = 204
  // @ts-ignore: decorator
  @inline export const DENSITY: usize = 208
  // @ts-ignore: decorator
  @inline export const NUMBER: usize = 216
}

/** The placement that the last hit belongs to; 0 when what was hit stands in the world as it is. */
export let hitPlacement: usize = 0
/** Its number, −1 for none. */
export function hitPlacementNumber(): i32 {
  return hitPlacement ? <i32>load<u32>(hitPlacement, Placement.NUMBER) : -1
}

// @ts-ignore: decorator
@inline
function row(at: usize, x: f64, y: f64, z: f64): f64 {
  return load<f64>(at) * x + load<f64>(at, 8) * y + load<f64>(at, 16) * z
}

// @ts-ignore: decorator
@inline
function inverse(d: f64): f64 {
  return 1.0 / (Math.abs(d) < 1e-20 ? 1e-20 : d)
}

/** The same triangle test as the reference, on one lane of a packet: distance into memory, true when it lies in (0, far). */
// @ts-ignore: decorator
@inline
function hitsLane(lane: usize, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, far: f64): bool {
  const e1x = <f64>load<f32>(lane, 48)
  const e1y = <f64>load<f32>(lane, 64)
  const e1z = <f64>load<f32>(lane, 80)
  const e2x = <f64>load<f32>(lane, 96)
  const e2y = <f64>load<f32>(lane, 112)
  const e2z = <f64>load<f32>(lane, 128)
  const px = dy * e2z - dz * e2y
  const py = dz * e2x - dx * e2z
  const pz = dx * e2y - dy * e2x
  const det = e1x * px + e1y * py + e1z * pz
  if (det == 0) return false
  const inv = 1.0 / det
  const tx = ox - <f64>load<f32>(lane, 0)
  const ty = oy - <f64>load<f32>(lane, 16)
  const tz = oz - <f64>load<f32>(lane, 32)
  const u = (tx * px + ty * py + tz * pz) * inv
  if (u < 0 || u > 1) return false
  const qx = ty * e1z - tz * e1y
  const qy = tz * e1x - tx * e1z
  const qz = tx * e1y - ty * e1x
  const v = (dx * qx + dy * qy + dz * qz) * inv
  if (v < 0 || u + v > 1) return false
  const t = (e2x * qx + e2y * qy + e2z * qz) * inv
  if (t <= 0 || t >= far) return false
  const id = load<u32>(lane, 160)
  if (id & MASKED && !(hasScene ? passesAlpha(id & INDEX, u, v) : accept(id & INDEX, u, v) != 0)) return false
  store<f64>(RESULT, t)
  store<f64>(RESULT, u, 8)
  store<f64>(RESULT, v, 16)
  return true
}

/** Lanes of a packet that may be hit nearer than `far4`, as bits. */
// @ts-ignore: decorator
@inline
function candidates(
  packet: usize,
  ox: v128,
  oy: v128,
  oz: v128,
  dx: v128,
  dy: v128,
  dz: v128,
  far4: v128,
  /** 0.1 of the origin's components, for its own rounding. */
  originSize: v128,
  /** SLACK times the direction's components. */
  slack: v128,
): i32 {
  const e1x = v128.load(packet, 48)
  const e1y = v128.load(packet, 64)
  const e1z = v128.load(packet, 80)
  const e2x = v128.load(packet, 96)
  const e2y = v128.load(packet, 112)
  const e2z = v128.load(packet, 128)
  const size = v128.load(packet, 144)
  const px = f32x4.sub(f32x4.mul(dy, e2z), f32x4.mul(dz, e2y))
  const py = f32x4.sub(f32x4.mul(dz, e2x), f32x4.mul(dx, e2z))
  const pz = f32x4.sub(f32x4.mul(dx, e2y), f32x4.mul(dy, e2x))
  const det = f32x4.add(f32x4.add(f32x4.mul(e1x, px), f32x4.mul(e1y, py)), f32x4.mul(e1z, pz))
  const tx = f32x4.sub(ox, v128.load(packet, 0))
  const ty = f32x4.sub(oy, v128.load(packet, 16))
  const tz = f32x4.sub(oz, v128.load(packet, 32))
  const sign = v128.and(det, i32x4.splat(0x80000000))
  const area = v128.xor(det, sign)
  const u = v128.xor(f32x4.add(f32x4.add(f32x4.mul(tx, px), f32x4.mul(ty, py)), f32x4.mul(tz, pz)), sign)
  const away = f32x4.add(f32x4.add(f32x4.abs(tx), f32x4.abs(ty)), f32x4.add(f32x4.abs(tz), originSize))
  // Errors of u, v and the determinant; and of t, which is one edge longer.
  const error = f32x4.mul(f32x4.mul(f32x4.add(away, size), size), slack)
  const least = f32x4.neg(error)
  const most = f32x4.add(area, error)
  let inside = v128.and(f32x4.ge(u, least), f32x4.le(u, most))
  // Most packets end here.
  if (!v128.any_true(inside)) return 0
  const qx = f32x4.sub(f32x4.mul(ty, e1z), f32x4.mul(tz, e1y))
  const qy = f32x4.sub(f32x4.mul(tz, e1x), f32x4.mul(tx, e1z))
  const qz = f32x4.sub(f32x4.mul(tx, e1y), f32x4.mul(ty, e1x))
  const v = v128.xor(f32x4.add(f32x4.add(f32x4.mul(dx, qx), f32x4.mul(dy, qy)), f32x4.mul(dz, qz)), sign)
  inside = v128.and(inside, v128.and(f32x4.ge(v, least), f32x4.le(f32x4.add(u, v), most)))
  if (!v128.any_true(inside)) return 0
  const t = v128.xor(f32x4.add(f32x4.add(f32x4.mul(e2x, qx), f32x4.mul(e2y, qy)), f32x4.mul(e2z, qz)), sign)
  const farError = f32x4.mul(f32x4.mul(size, size), f32x4.splat(SLACK))
  inside = v128.and(inside, f32x4.ge(t, f32x4.neg(f32x4.mul(farError, away))))
  inside = v128.and(inside, f32x4.le(t, f32x4.add(f32x4.mul(far4, area), f32x4.mul(farError, f32x4.add(away, far4)))))
  return i32x4.bitmask(inside)
}

/**
 * Nearest hit with 0 < distance < far: its triangle, or −1. Distance and barycentric weights are left at RESULT.
 */
export function closestHit(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, far: f64, among: u32): i32 {
  const from = among == EVERYTHING ? root : among == SOLID ? solidRoot : tintedRoot
  hitPlacement = 0
  return from == 0 ? -1 : findClosest(from, STACK, ox, oy, oz, dx, dy, dz, far, among)
}

/** @param bottom where on the stack the walk begins; what lies below belongs to the walk that called this one */
function findClosest(
  from: u32,
  bottom: usize,
  ox: f64,
  oy: f64,
  oz: f64,
  dx: f64,
  dy: f64,
  dz: f64,
  far: f64,
  among: u32,
): i32 {
  const ix = inverse(dx)
  const iy = inverse(dy)
  const iz = inverse(dz)
  const ix4 = f32x4.splat(<f32>ix)
  const iy4 = f32x4.splat(<f32>iy)
  const iz4 = f32x4.splat(<f32>iz)
  const nearX: usize = ix < 0 ? 48 : 0
  const nearY: usize = iy < 0 ? 64 : 16
  const nearZ: usize = iz < 0 ? 80 : 32
  const farX: usize = 48 - nearX
  const farY: usize = 80 - nearY
  const farZ: usize = 112 - nearZ
  // The origin rounded outwards: boxes seem a little nearer and a little farther than they are.
  const pad = <f32>((Math.abs(ox) + Math.abs(oy) + Math.abs(oz)) * 1.2e-7)
  const padX: f32 = ix < 0 ? -pad : pad
  const padY: f32 = iy < 0 ? -pad : pad
  const padZ: f32 = iz < 0 ? -pad : pad
  const nearOx = f32x4.splat(<f32>ox + padX)
  const nearOy = f32x4.splat(<f32>oy + padY)
  const nearOz = f32x4.splat(<f32>oz + padZ)
  const farOx = f32x4.splat(<f32>ox - padX)
  const farOy = f32x4.splat(<f32>oy - padY)
  const farOz = f32x4.splat(<f32>oz - padZ)
  const ox4 = f32x4.splat(<f32>ox)
  const oy4 = f32x4.splat(<f32>oy)
  const oz4 = f32x4.splat(<f32>oz)
  const dx4 = f32x4.splat(<f32>dx)
  const dy4 = f32x4.splat(<f32>dy)
  const dz4 = f32x4.splat(<f32>dz)
  const originSize = f32x4.splat(<f32>((Math.abs(ox) + Math.abs(oy) + Math.abs(oz)) * 0.1))
  const slack = f32x4.splat(<f32>(Math.abs(dx) + Math.abs(dy) + Math.abs(dz)) * SLACK)
  const zero = f32x4.splat(0)
  const outwards = f32x4.splat(1.000001)
  let nearest = far
  let nearestUp = <f32>far * <f32>1.000001
  let nearest4 = f32x4.splat(nearestUp)
  let found: i32 = -1
  let top = bottom
  let node = from
  while (true) {
    if (node & 1) {
      const packet: usize = node - 1
      let lanes = candidates(packet, ox4, oy4, oz4, dx4, dy4, dz4, nearest4, originSize, slack)
      while (lanes) {
        const lane = packet + ((<usize>ctz(lanes)) << 2)
        lanes &= lanes - 1
        if (!hitsLane(lane, ox, oy, oz, dx, dy, dz, nearest)) continue
        nearest = load<f64>(RESULT)
        nearestUp = <f32>nearest * <f32>1.000001
        nearest4 = f32x4.splat(nearestUp)
        found = load<u32>(lane, 160) & INDEX
        hitPlacement = 0
      }
    } else if (node & PLACED) {
      const placement: usize = node - PLACED
      const inner = load<u32>(placement + (<usize>among << 2), Placement.ROOT)
      if (inner != 0) {
        if (load<u32>(placement, Placement.AS_IT_IS)) {
          node = inner
          continue
        }
        const triangle = findClosest(
          inner,
          top,
          row(placement, ox, oy, oz) + load<f64>(placement, 24),
          row(placement + 32, ox, oy, oz) + load<f64>(placement, 56),
          row(placement + 64, ox, oy, oz) + load<f64>(placement, 88),
          row(placement, dx, dy, dz),
          row(placement + 32, dx, dy, dz),
          row(placement + 64, dx, dy, dz),
          nearest,
          among,
        )
        if (triangle >= 0) {
          nearest = load<f64>(RESULT)
          nearestUp = <f32>nearest * <f32>1.000001
          nearest4 = f32x4.splat(nearestUp)
          found = triangle
          hitPlacement = placement
        }
      }
    } else {
      const x0 = f32x4.mul(f32x4.sub(v128.load(node + nearX), nearOx), ix4)
      const y0 = f32x4.mul(f32x4.sub(v128.load(node + nearY), nearOy), iy4)
      const z0 = f32x4.mul(f32x4.sub(v128.load(node + nearZ), nearOz), iz4)
      const x1 = f32x4.mul(f32x4.sub(v128.load(node + farX), farOx), ix4)
      const y1 = f32x4.mul(f32x4.sub(v128.load(node + farY), farOy), iy4)
      const z1 = f32x4.mul(f32x4.sub(v128.load(node + farZ), farOz), iz4)
      const near = f32x4.pmax(f32x4.pmax(x0, y0), f32x4.pmax(z0, zero))
      const end = f32x4.pmin(f32x4.pmin(x1, y1), f32x4.pmin(z1, nearest4))
      let lanes = i32x4.bitmask(f32x4.le(near, f32x4.mul(end, outwards)))
      if (lanes) {
        const first = ctz(lanes)
        lanes &= lanes - 1
        let child = load<u32>(node + (first << 2), 96)
        if (!lanes) {
          node = child
          continue
        }
        v128.store(SCRATCH, near)
        let distance = load<f32>(SCRATCH + (first << 2))
        const base = top
        do {
          const next = ctz(lanes)
          lanes &= lanes - 1
          let otherChild = load<u32>(node + (next << 2), 96)
          let otherDistance = load<f32>(SCRATCH + (next << 2))
          if (otherDistance < distance) {
            const c = child
            child = otherChild
            otherChild = c
            const d = distance
            distance = otherDistance
            otherDistance = d
          }
          // The farthest lies deepest.
          let at = top
          while (at > base && load<f32>(at - 8, 4) < otherDistance) {
            store<u64>(at, load<u64>(at - 8))
            at -= 8
          }
          store<u32>(at, otherChild)
          store<f32>(at, otherDistance, 4)
          top += 8
        } while (lanes)
        node = child
        continue
      }
    }
    do {
      if (top == bottom) return found
      top -= 8
    } while (load<f32>(top, 4) > nearestUp)
    node = load<u32>(top)
  }
}

/** Whether anything that casts a shadow lies within 0 < distance < far. */
export function isOccluded(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, far: f64): i32 {
  return solidRoot == 0 ? 0 : findAny(solidRoot, STACK, ox, oy, oz, dx, dy, dz, far, false, 0)
}

/** Ends at the first hit there is; of what is tinted, it notes each and goes on. `inside` is the placement that it is in. */
function findAny(
  from: u32,
  bottom: usize,
  ox: f64,
  oy: f64,
  oz: f64,
  dx: f64,
  dy: f64,
  dz: f64,
  far: f64,
  isTinted: bool,
  inside: usize,
): i32 {
  const ix = inverse(dx)
  const iy = inverse(dy)
  const iz = inverse(dz)
  const ix4 = f32x4.splat(<f32>ix)
  const iy4 = f32x4.splat(<f32>iy)
  const iz4 = f32x4.splat(<f32>iz)
  const nearX: usize = ix < 0 ? 48 : 0
  const nearY: usize = iy < 0 ? 64 : 16
  const nearZ: usize = iz < 0 ? 80 : 32
  const farX: usize = 48 - nearX
  const farY: usize = 80 - nearY
  const farZ: usize = 112 - nearZ
  const pad = <f32>((Math.abs(ox) + Math.abs(oy) + Math.abs(oz)) * 1.2e-7)
  const padX: f32 = ix < 0 ? -pad : pad
  const padY: f32 = iy < 0 ? -pad : pad
  const padZ: f32 = iz < 0 ? -pad : pad
  const nearOx = f32x4.splat(<f32>ox + padX)
  const nearOy = f32x4.splat(<f32>oy + padY)
  const nearOz = f32x4.splat(<f32>oz + padZ)
  const farOx = f32x4.splat(<f32>ox - padX)
  const farOy = f32x4.splat(<f32>oy - padY)
  const farOz = f32x4.splat(<f32>oz - padZ)
  const ox4 = f32x4.splat(<f32>ox)
  const oy4 = f32x4.splat(<f32>oy)
  const oz4 = f32x4.splat(<f32>oz)
  const dx4 = f32x4.splat(<f32>dx)
  const dy4 = f32x4.splat(<f32>dy)
  const dz4 = f32x4.splat(<f32>dz)
  const originSize = f32x4.splat(<f32>((Math.abs(ox) + Math.abs(oy) + Math.abs(oz)) * 0.1))
  const slack = f32x4.splat(<f32>(Math.abs(dx) + Math.abs(dy) + Math.abs(dz)) * SLACK)
  const zero = f32x4.splat(0)
  const outwards = f32x4.splat(1.000001)
  const far4 = f32x4.splat(<f32>far * <f32>1.000001)
  let top = bottom
  let node = from
  while (true) {
    if (node & 1) {
      const packet: usize = node - 1
      let lanes = candidates(packet, ox4, oy4, oz4, dx4, dy4, dz4, far4, originSize, slack)
      while (lanes) {
        const lane = packet + ((<usize>ctz(lanes)) << 2)
        lanes &= lanes - 1
        if (!hitsLane(lane, ox, oy, oz, dx, dy, dz, far)) continue
        if (!isTinted) return 1
        note(load<u32>(lane, 160) & INDEX, inside)
      }
    } else if (node & PLACED) {
      const placement: usize = node - PLACED
      const inner = load<u32>(placement + (isTinted ? Placement.TINTED_ROOT : Placement.SOLID_ROOT))
      if (inner != 0) {
        if (load<u32>(placement, Placement.AS_IT_IS)) {
          node = inner
          continue
        }
        const isHit = findAny(
          inner,
          top,
          row(placement, ox, oy, oz) + load<f64>(placement, 24),
          row(placement + 32, ox, oy, oz) + load<f64>(placement, 56),
          row(placement + 64, ox, oy, oz) + load<f64>(placement, 88),
          row(placement, dx, dy, dz),
          row(placement + 32, dx, dy, dz),
          row(placement + 64, dx, dy, dz),
          far,
          isTinted,
          placement,
        )
        if (isHit) return 1
      }
    } else {
      const x0 = f32x4.mul(f32x4.sub(v128.load(node + nearX), nearOx), ix4)
      const y0 = f32x4.mul(f32x4.sub(v128.load(node + nearY), nearOy), iy4)
      const z0 = f32x4.mul(f32x4.sub(v128.load(node + nearZ), nearOz), iz4)
      const x1 = f32x4.mul(f32x4.sub(v128.load(node + farX), farOx), ix4)
      const y1 = f32x4.mul(f32x4.sub(v128.load(node + farY), farOy), iy4)
      const z1 = f32x4.mul(f32x4.sub(v128.load(node + farZ), farOz), iz4)
      const near = f32x4.pmax(f32x4.pmax(x0, y0), f32x4.pmax(z0, zero))
      const end = f32x4.pmin(f32x4.pmin(x1, y1), f32x4.pmin(z1, far4))
      let lanes = i32x4.bitmask(f32x4.le(near, f32x4.mul(end, outwards)))
      while (lanes) {
        store<u32>(top, load<u32>(node + (ctz(lanes) << 2), 96))
        lanes &= lanes - 1
        top += 4
      }
    }
    if (top == bottom) return 0
    top -= 4
    node = load<u32>(top)
  }
}

/** Surfaces that a ray crosses, at CROSSINGS: distance f64 · triangle u32 · placement u32, 0 for none. */
const MOST_CROSSINGS: i32 = 32
let crossings: i32 = 0

/** Every surface of what is tinted within 0 < distance < far, in no order; how many there are. */
export function crossTinted(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, far: f64): i32 {
  crossings = 0
  if (tintedRoot) findAny(tintedRoot, STACK, ox, oy, oz, dx, dy, dz, far, true, 0)
  return crossings
}

function note(triangle: u32, placement: usize): void {
  if (crossings == MOST_CROSSINGS) return
  const at = CROSSINGS + ((<usize>crossings) << 4)
  store<f64>(at, load<f64>(RESULT))
  store<u32>(at, triangle, 8)
  store<u32>(at, <u32>placement, 12)
  crossings++
}
