/**
 * Glass that bends colours apart: a path takes one wavelength from the first such glass that it goes through on, drawn evenly from what is
 * seen, and is weighed by how much of it each primary sees.
 */

const SHORTEST_UM = 0.4
const SPAN_UM = 0.3
/** Middle of what red, green and blue see, and half its width: even shares of the span, so that white stays white. */
const MIDDLES_UM = [0.63, 0.55, 0.47] as const
const HALF_WIDTH_UM = 0.07
const PEAK = SPAN_UM / HALF_WIDTH_UM
/** Lines of the solar spectrum by which glass is measured: blue F, yellow d, red C. */
const [LINE_F_UM, LINE_D_UM, LINE_C_UM] = [0.4861, 0.5876, 0.6563]
const D_SQUARED = 1 / LINE_D_UM ** 2
const F_TO_C = 1 / LINE_F_UM ** 2 - 1 / LINE_C_UM ** 2

/** Wavelength in micrometres for a number from 0 to 1. */
export const wavelengthOf = (u: number): number => SHORTEST_UM + SPAN_UM * u

/** What a path of that wavelength counts for red, green or blue (0, 1, 2); 1 on average over all. */
export const weightOfPrimary = (wavelengthUm: number, primary: number): number =>
  PEAK * Math.max(0, 1 - Math.abs(wavelengthUm - MIDDLES_UM[primary]) / HALF_WIDTH_UM)

/**
 * Index of refraction at a wavelength, by Cauchy's law.
 * @param ior at the yellow line
 * @param scale and `abbe`: transmission_dispersion_scale and _abbe_number of OpenPBR 1.1; their quotient is the glass's Abbe number
 */
export function iorAt(wavelengthUm: number, ior: number, scale: number, abbe: number): number {
  const slope = ((ior - 1) * scale) / (Math.max(abbe, 1) * F_TO_C)
  return ior + slope * (1 / wavelengthUm ** 2 - D_SQUARED)
}
