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

/** Above this the inverse of the tone mapper runs off; what is whiter is taken as this bright. */
const NEARLY_WHITE = 0.998

/** The scene-referred colour that the tone mapper shows as this one (the inverse that its authors give), white cut off at 0.998. */
export function invertToneMapNeutral(r: number, g: number, b: number, out: Vec3 | Float32Array): void {
  const START = 0.8 - 0.04
  const DESATURATION = 0.15
  const peak = Math.min(Math.max(r, g, b), NEARLY_WHITE)
  let [cr, cg, cb] = [Math.min(r, NEARLY_WHITE), Math.min(g, NEARLY_WHITE), Math.min(b, NEARLY_WHITE)]
  if (peak > START) {
    const d = 1 - START
    const before = (d * d) / (1 - peak) - d + START
    const spread = DESATURATION * (before - peak) + 1
    const lift = (1 / spread - 1) * peak
    const s = (spread * before) / peak
    cr = (cr + lift) * s
    cg = (cg + lift) * s
    cb = (cb + lift) * s
  }
  const least = Math.max(0, Math.min(cr, cg, cb))
  const x = Math.sqrt(least / 6.25)
  const offset = least < 0.04 ? x - least : 0.04
  out[0] = cr + offset
  out[1] = cg + offset
  out[2] = cb + offset
}
