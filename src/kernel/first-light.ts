import { tintThrough } from './clear'
import { bounceDensity, fourX, fourY, fourZ, radianceAt, sampleFour } from './environment'
import { bx, by, bz, nx, ny, nz, tx, ty, tz } from './frame'
import { FOUR, LIGHT, RAYS, TINT_THROUGH, VALUE } from './memory'
import { sobolFour } from './sampling'
import { evaluate, pdf } from './surface/evaluate'
import { filmWeight, translucency } from './surface/parameters'
import { glass, side } from './surface/prepared'
import { density, reflectFour, valueB, valueG, valueR } from './surface/four'
import { isOccluded } from './traverse'

/** Light from all around at the first surface: four directions drawn, answered and traced together. */

// From FOUR on: points u32 x ×4 · y ×4 · f64 ×4 each: density, place in the map across · f32 ×4 each: place in the map down, then scratch.
const POINTS: usize = FOUR
const DENSITY: usize = FOUR + 32
const MAP_U: usize = FOUR + 64
const MAP_V: usize = FOUR + 96
const SCRATCH: usize = FOUR + 112
// f32 ×4 each: direction, then value by colour and density of the surface's answer.
const LANES: usize = FOUR + 144
const ANSWER: usize = FOUR + 192

/** What came, by colour; written by `gatherFour`. */
export let gatheredR: f64 = 0
export let gatheredG: f64 = 0
export let gatheredB: f64 = 0

/**
 * Light sent on towards the viewer at o (in the surface's frame) from a place with the geometric normal g, which rays leave by `eps`. The
 * surface is prepared; `led` of its next directions, as a share, are drawn by the guide.
 */
export function gatherFour(
  index: u32,
  seed: u32,
  x: f64,
  y: f64,
  z: f64,
  gx: f64,
  gy: f64,
  gz: f64,
  eps: f64,
  ox: f64,
  oy: f64,
  oz: f64,
  led: f64,
): void {
  gatheredR = 0
  gatheredG = 0
  gatheredB = 0
  sobolFour(index, seed, POINTS)
  sampleFour(POINTS, DENSITY, MAP_U, MAP_V, SCRATCH)
  const lx = fourX
  const ly = fourY
  const lz = fourZ
  v128.store(LANES, lx)
  v128.store(LANES, ly, 16)
  v128.store(LANES, lz, 32)
  const iz = along(lx, ly, lz, nx, ny, nz)
  const geometric = along(lx, ly, lz, gx, gy, gz)
  const agrees = f32x4.gt(f32x4.mul(iz, geometric), f32x4.splat(0))
  const ci = side < 0 ? f32x4.neg(iz) : iz
  const isReflected = v128.and(agrees, f32x4.gt(ci, f32x4.splat(1e-6)))
  let lanes = i32x4.bitmask(isReflected)
  if (filmWeight > 0) lanes = 0
  if (lanes) {
    reflectFour(ox, oy, oz * side, along(lx, ly, lz, tx, ty, tz), along(lx, ly, lz, bx, by, bz), ci)
    v128.store(ANSWER, valueR)
    v128.store(ANSWER, valueG, 16)
    v128.store(ANSWER, valueB, 32)
    v128.store(ANSWER, density, 48)
  }
  // What a film colours or what goes through is answered one by one.
  let others = i32x4.bitmask(agrees) & ~lanes
  if (!(filmWeight > 0 || glass > 0 || translucency > 0)) others = 0
  while (others) {
    const k = <usize>ctz(others)
    others &= others - 1
    const lane = LANES + (k << 2)
    const x = <f64>load<f32>(lane)
    const y = <f64>load<f32>(lane, 16)
    const z = <f64>load<f32>(lane, 32)
    evaluate(ox, oy, oz, x * tx + y * ty + z * tz, x * bx + y * by + z * bz, x * nx + y * ny + z * nz)
    const answer = ANSWER + (k << 2)
    store<f32>(answer, <f32>load<f64>(VALUE))
    store<f32>(answer, <f32>load<f64>(VALUE, 8), 16)
    store<f32>(answer, <f32>load<f64>(VALUE, 16), 32)
    store<f32>(answer, <f32>pdf, 48)
    lanes |= 1 << (<i32>k)
  }
  const away = i32x4.bitmask(f32x4.gt(geometric, f32x4.splat(0)))
  let rays = 0
  while (lanes) {
    const k = <usize>ctz(lanes)
    lanes &= lanes - 1
    const answer = ANSWER + (k << 2)
    const vr = <f64>load<f32>(answer)
    const vg = <f64>load<f32>(answer, 16)
    const vb = <f64>load<f32>(answer, 32)
    const at = k << 3
    const drawn = load<f64>(DENSITY + at)
    if (!(vr + vg + vb > 0 && drawn > 0)) continue
    const step = away & (1 << (<i32>k)) ? eps : -eps
    rays++
    const lane = LANES + (k << 2)
    const dx = <f64>load<f32>(lane)
    const dy = <f64>load<f32>(lane, 16)
    const dz = <f64>load<f32>(lane, 32)
    if (isOccluded(x + gx * step, y + gy * step, z + gz * step, dx, dy, dz, 1e30)) continue
    tintThrough(x + gx * step, y + gy * step, z + gz * step, dx, dy, dz, 1e30)
    radianceAt(load<f64>(MAP_U + at), <f64>load<f32>(MAP_V + (k << 2)))
    let own = <f64>load<f32>(answer, 48)
    if (led > 0) own = (1 - led) * own + led * bounceDensity(dx, dy, dz)
    const weight = 1 / (4 * drawn + own)
    gatheredR += vr * load<f64>(LIGHT) * weight * load<f64>(TINT_THROUGH)
    gatheredG += vg * load<f64>(LIGHT, 8) * weight * load<f64>(TINT_THROUGH, 8)
    gatheredB += vb * load<f64>(LIGHT, 16) * weight * load<f64>(TINT_THROUGH, 16)
  }
  store<f64>(RAYS, load<f64>(RAYS) + <f64>rays)
}

/** Four directions' shares along an axis. */
// @ts-ignore: decorator
@inline
function along(lx: v128, ly: v128, lz: v128, x: f64, y: f64, z: f64): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(lx, f32x4.splat(<f32>x)), f32x4.mul(ly, f32x4.splat(<f32>y))),
    f32x4.mul(lz, f32x4.splat(<f32>z)),
  )
}
