import { HUE } from './memory'

/** Glass that bends colours apart, as core/render/surface/dispersion.ts has it. */

const SHORTEST_UM: f64 = 0.4
const SPAN_UM: f64 = 0.3
const HALF_WIDTH_UM: f64 = 0.07
const D_SQUARED: f64 = 1.0 / (0.5876 * 0.5876)
const F_TO_C: f64 = 1.0 / (0.4861 * 0.4861) - 1.0 / (0.6563 * 0.6563)

export function wavelengthOf(u: f64): f64 {
  return SHORTEST_UM + SPAN_UM * u
}

function weightOf(wavelength: f64, middle: f64): f64 {
  return (SPAN_UM / HALF_WIDTH_UM) * Math.max(0, 1 - Math.abs(wavelength - middle) / HALF_WIDTH_UM)
}

/** What a path of that wavelength counts for each primary, to HUE. */
export function weighPrimaries(wavelength: f64): void {
  store<f64>(HUE, weightOf(wavelength, 0.63))
  store<f64>(HUE, weightOf(wavelength, 0.55), 8)
  store<f64>(HUE, weightOf(wavelength, 0.47), 16)
}

export function iorAt(wavelength: f64, ior: f64, scale: f64, abbe: f64): f64 {
  const slope = ((ior - 1) * scale) / (Math.max(abbe, 1) * F_TO_C)
  return ior + slope * (1 / (wavelength * wavelength) - D_SQUARED)
}
