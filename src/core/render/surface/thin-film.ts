import { fresnelDielectric, schlickWeight } from './fresnel'

/**
 * Reflectance of a base under a film thinner than light is long: Belcour & Barla 2017, "A Practical Extension to Microfacet Theory
 * for the Modeling of Varying Iridescence", with the Gaussian fit of the eye's sensitivity and the two-term series that the
 * glTF extension KHR_materials_iridescence publishes.
 */

const TERMS = 2
const VALUE = [5.4856e-13, 4.4201e-13, 5.2481e-13]
const POSITION = [1.681e6, 1.7953e6, 2.2084e6]
const VARIANCE = [4.3278e9, 9.3046e9, 6.6121e9]
/** XYZ to linear Rec.709. */
const TO_RGB = [3.2404542, -1.5371385, -0.4985314, -0.969266, 1.8760108, 0.041556, 0.0556434, -0.2040259, 1.0572252]
const SCALE = 1.0685e-7

/** Sensitivity to a phase of 2π · `opdM` / λ + `shift`, as XYZ component k. */
function sensitivity(opdM: number, shift: number, k: number): number {
  const phase = 2 * Math.PI * opdM
  let xyz =
    VALUE[k] *
    Math.sqrt(2 * Math.PI * VARIANCE[k]) *
    Math.cos(POSITION[k] * phase + shift) *
    Math.exp(-VARIANCE[k] * phase * phase)
  if (k === 0)
    xyz +=
      9.747e-14 * Math.sqrt(2 * Math.PI * 4.5282e9) * Math.cos(2.2399e6 * phase + shift) * Math.exp(-4.5282e9 * phase * phase)
  return xyz / SCALE
}

const series = new Float64Array(9)

/**
 * Writes the RGB reflectance into dst 0..2.
 * @param thicknessUm micrometres, as OpenPBR's thin_film_thickness
 * @param f0 RGB reflectance of the base against air at normal incidence
 */
export function thinFilmReflectance(
  cos: number,
  filmIor: number,
  thicknessUm: number,
  f0: ArrayLike<number>,
  dst: Float64Array,
): void {
  // A film that vanishes turns into air, not into a step.
  const fade = Math.min(1, thicknessUm / 0.03)
  const eta = 1 + (Math.max(filmIor, 1) - 1) * fade * fade * (3 - 2 * fade)
  const c = Math.min(1, Math.max(0, cos))
  const cos2 = Math.sqrt(Math.max(0, 1 - (1 - c * c) / (eta * eta)))
  const r12 = fresnelDielectric(c, eta)
  const through = 1 - r12
  const opdM = 2 * eta * thicknessUm * 1e-6 * cos2
  // The XYZ response of each channel's own series, then one matrix: bases of different colour may shift phase differently.
  for (let k = 0; k < 3; k++) {
    const root = Math.sqrt(Math.min(Math.max(f0[k], 0), 0.9999))
    const baseIor = (1 + root) / (1 - root)
    const at = ((baseIor - eta) / (baseIor + eta)) ** 2
    const r23 = at + (1 - at) * schlickWeight(cos2)
    const shift = Math.PI + (baseIor < eta ? Math.PI : 0)
    const both = Math.min(Math.max(r12 * r23, 1e-5), 0.9999)
    const root123 = Math.sqrt(both)
    const settled = (through * through * r23) / (1 - both)
    let factor = settled - through
    dst[k] = r12 + settled
    for (let j = 0; j < 3; j++) series[k * 3 + j] = 0
    for (let m = 1; m <= TERMS; m++) {
      factor *= root123
      for (let j = 0; j < 3; j++) series[k * 3 + j] += factor * 2 * sensitivity(m * opdM, m * shift, j)
    }
  }
  for (let k = 0; k < 3; k++) {
    const v = TO_RGB[k * 3] * series[k * 3] + TO_RGB[k * 3 + 1] * series[k * 3 + 1] + TO_RGB[k * 3 + 2] * series[k * 3 + 2]
    dst[k] = Math.min(1, Math.max(0, dst[k] + v))
  }
}
