import type { Vec3 } from '../math/vec3'

/**
 * Khronos PBR Neutral tone mapper (Khronos Group, 2024): base colours up to 0.8 pass unchanged under unit
 * illumination, brighter values are compressed and desaturated towards white.
 * Input: linear Rec.709, scene-referred, exposure applied. Output: linear display light in 0..1.
 */
export function toneMapNeutral(r: number, g: number, b: number, out: Vec3 | Float32Array): void {
  const START = 0.8 - 0.04
  const DESATURATION = 0.15
  const x = Math.min(r, g, b)
  const offset = x < 0.08 ? x - 6.25 * x * x : 0.04
  let cr = r - offset
  let cg = g - offset
  let cb = b - offset
  const peak = Math.max(cr, cg, cb)
  if (peak >= START) {
    const d = 1 - START
    const newPeak = 1 - (d * d) / (peak + d - START)
    const s = newPeak / peak
    const f = 1 - 1 / (DESATURATION * (peak - newPeak) + 1)
    cr = cr * s * (1 - f) + newPeak * f
    cg = cg * s * (1 - f) + newPeak * f
    cb = cb * s * (1 - f) + newPeak * f
  }
  out[0] = cr
  out[1] = cg
  out[2] = cb
}
