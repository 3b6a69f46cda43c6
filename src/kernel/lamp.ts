import { angleOf } from './angles'

/** Lamps, as core/render/scene/lamp.ts has them. */

/** A lamp: position 3 · radius · nearest · intensity 3 · profile u32 · 4 unused. */
export const LAMP_BYTES: usize = 72
/** A lamp's profile, f32: 181 × 2 angles from straight down for each of 73 about the vertical, the last the first once more. */
const PROFILE_GAMMAS: i32 = 361

export function readProfile(profile: usize, x: f64, y: f64, z: f64): f64 {
  const gamma = (angleOf(Math.sqrt(x * x + z * z), -y) * 360) / Math.PI
  const plane = ((angleOf(x, -z) * 180) / Math.PI + 360) / 5
  const g = min<i32>(PROFILE_GAMMAS - 2, <i32>gamma)
  const c = <i32>plane
  const fg = gamma - <f64>g
  const fc = plane - <f64>c
  const near = profile + ((<usize>((c % 72) * PROFILE_GAMMAS + g)) << 2)
  const far = profile + ((<usize>(((c + 1) % 72) * PROFILE_GAMMAS + g)) << 2)
  return (
    (<f64>load<f32>(near) * (1 - fg) + <f64>load<f32>(near, 4) * fg) * (1 - fc) +
    (<f64>load<f32>(far) * (1 - fg) + <f64>load<f32>(far, 4) * fg) * fc
  )
}
