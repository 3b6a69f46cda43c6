import { fresnelDielectric, iorOfWeight } from './lobes'
import { ABSORBED, CROSSINGS, P, TINT_THROUGH } from './memory'
import { clampIor } from './surface/parameters'
import { MATERIAL_BYTES, materialOf, materials, normals, positions } from './scene'
import { crossTinted } from './traverse'

/** Light that goes straight through what is clear, as core/render/integrator/clear-light.ts has it. */

/**
 * Leaves what gets through by colour at TINT_THROUGH. In whatever order surfaces are met, what they let pass is multiplied; and what lies
 * between coming in and going out is the sum of the distances where a ray leaves, less those where it enters.
 */
export function tintThrough(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, far: f64): void {
  for (let k: usize = 0; k < 24; k += 8) {
    store<f64>(TINT_THROUGH + k, 1)
    store<f64>(ABSORBED + k, 0)
  }
  const count = crossTinted(ox, oy, oz, dx, dy, dz, far)
  let passed: f64 = 1
  for (let i = 0; i < count; i++) {
    const at = CROSSINGS + ((<usize>i) << 4)
    const triangle = <usize>load<u32>(at, 8)
    const cos = cosineAt(triangle, <usize>load<u32>(at, 12), dx, dy, dz)
    const material = materials + <usize>load<u16>(materialOf + (triangle << 1)) * MATERIAL_BYTES
    const f = fresnelDielectric(cos, iorOfWeight(clampIor(load<f64>(material, P.IOR)), Math.min(1, load<f64>(material, P.SPECULAR_WEIGHT))))
    const isThin = load<f64>(material, P.THIN_WALLED) != 0
    const depth = load<f64>(material, P.TRANSMISSION_DEPTH)
    passed *= (isThin ? 1 - (2 * f) / (1 + f) : 1 - f) * Math.min(1, load<f64>(material, P.TRANSMISSION_WEIGHT))
    const isTinted = isThin || !(depth > 0)
    const signed = isTinted ? 0 : (cos > 0 ? load<f64>(at) : -load<f64>(at)) / depth
    for (let k: usize = 0; k < 24; k += 8) {
      const color = load<f64>(material + k, P.TRANSMISSION_COLOR)
      if (isTinted) store<f64>(TINT_THROUGH + k, load<f64>(TINT_THROUGH + k) * color)
      else store<f64>(ABSORBED + k, load<f64>(ABSORBED + k) - signed * Math.log(Math.max(color, 1e-4)))
    }
  }
  if (count == 0) return
  for (let k: usize = 0; k < 24; k += 8)
    store<f64>(TINT_THROUGH + k, load<f64>(TINT_THROUGH + k) * passed * Math.exp(-Math.max(0, load<f64>(ABSORBED + k))))
}

/** Cosine between a direction and a triangle's outward side, which its normals tell. */
function cosineAt(triangle: usize, placement: usize, dx: f64, dy: f64, dz: f64): f64 {
  // The direction in the triangle's own space: sides and normals of a placement agree there as well.
  let x = dx
  let y = dy
  let z = dz
  let length: f64 = 1
  if (placement) {
    x = load<f64>(placement) * dx + load<f64>(placement, 8) * dy + load<f64>(placement, 16) * dz
    y = load<f64>(placement, 32) * dx + load<f64>(placement, 40) * dy + load<f64>(placement, 48) * dz
    z = load<f64>(placement, 64) * dx + load<f64>(placement, 72) * dy + load<f64>(placement, 80) * dz
    length = Math.sqrt(x * x + y * y + z * z)
  }
  const p = positions + triangle * 36
  const ax = <f64>load<f32>(p, 12) - <f64>load<f32>(p)
  const ay = <f64>load<f32>(p, 16) - <f64>load<f32>(p, 4)
  const az = <f64>load<f32>(p, 20) - <f64>load<f32>(p, 8)
  const bx = <f64>load<f32>(p, 24) - <f64>load<f32>(p)
  const by = <f64>load<f32>(p, 28) - <f64>load<f32>(p, 4)
  const bz = <f64>load<f32>(p, 32) - <f64>load<f32>(p, 8)
  const gx = ay * bz - az * by
  const gy = az * bx - ax * bz
  const gz = ax * by - ay * bx
  const area = Math.sqrt(gx * gx + gy * gy + gz * gz)
  if (!(area > 0)) return 1
  const q = normals + triangle * 36
  const mx = <f64>load<f32>(q) + <f64>load<f32>(q, 12) + <f64>load<f32>(q, 24)
  const my = <f64>load<f32>(q, 4) + <f64>load<f32>(q, 16) + <f64>load<f32>(q, 28)
  const mz = <f64>load<f32>(q, 8) + <f64>load<f32>(q, 20) + <f64>load<f32>(q, 32)
  const sign: f64 = gx * mx + gy * my + gz * mz < 0 ? -1 : 1
  return (sign * (x * gx + y * gy + z * gz)) / (area * length)
}
