/** Reflectance of smooth boundaries. Cosines are of the angle to the (micro-)normal, in 0..1. */

/** Unpolarised Fresnel reflectance of a smooth dielectric. `eta` = ior of the far side over the near side. */
export function fresnelDielectric(cosI: number, eta: number): number {
  const c = Math.min(1, Math.abs(cosI))
  const g2 = eta * eta - 1 + c * c
  if (g2 <= 0) return 1
  const g = Math.sqrt(g2)
  const a = (g - c) / (g + c)
  const b = (c * (g + c) - 1) / (c * (g - c) + 1)
  return 0.5 * a * a * (1 + b * b)
}

/** (1 − cos)^5 of Schlick's approximation (1994). */
export const schlickWeight = (cos: number): number => {
  const m = 1 - Math.min(1, Math.max(0, cos))
  const m2 = m * m
  return m2 * m2 * m
}

/** Index of refraction whose reflectance at normal incidence is `weight` times that of `ior`: specular_weight in OpenPBR 1.1, 3.7. */
export function iorOfWeight(ior: number, weight: number): number {
  const epsilon = Math.min(0.999, Math.sqrt(weight) * ((ior - 1) / (ior + 1)))
  return (1 + epsilon) / (1 - epsilon)
}

const COS_82 = 1 / 7
const SCHLICK_82 = (1 - COS_82) ** 5
const LAZANYI_82 = COS_82 * (1 - COS_82) ** 6

/**
 * Metals with a tinted edge after Kutz, Hašan & Edmondson 2021, in the form that OpenPBR takes:
 * F = F0 + (1 − F0)(1 − c)^5 − b c (1 − c)^6, where b makes the reflectance at about 82° `tint` times Schlick's.
 */
export const edgeTintFactor = (f0: number, tint: number): number =>
  tint >= 1 ? 0 : ((f0 + (1 - f0) * SCHLICK_82) * (1 - tint)) / LAZANYI_82

export function fresnelMetal(cos: number, f0: number, b: number): number {
  const m = 1 - Math.min(1, Math.max(0, cos))
  const m2 = m * m
  const m5 = m2 * m2 * m
  return Math.max(0, f0 + (1 - f0) * m5 - b * (1 - m) * m5 * m)
}

/** Mean of `fresnelMetal` over the hemisphere, cosine-weighted: ∫ 2 c F dc. */
export const meanFresnelMetal = (f0: number, b: number): number => Math.max(0, f0 + (1 - f0) / 21 - b / 126)
