/**
 * Energy-preserving Oren–Nayar diffuse: Portsmouth, Kutz & Hill 2024, "EON: A practical energy-preserving rough diffuse BRDF",
 * equations 14 to 23, which OpenPBR names for base_diffuse_roughness. Reciprocal; albedo 1 reflects everything.
 */

const C1 = 0.5 - 2 / (3 * Math.PI)
const C2 = 2 / 3 - 28 / (15 * Math.PI)

/** Directional albedo of the single-scattering part at a white surface, by the paper's polynomial (its error is below 0.1 %). */
export function roughDiffuseAlbedo(cos: number, roughness: number): number {
  const m = 1 - Math.min(1, Math.max(0, cos))
  const g = m * (0.0571085289 + m * (0.491881867 + m * (-0.332181442 + m * 0.0714429953)))
  return (1 + roughness * g) / (1 + C1 * roughness)
}

/** Parts of the value that do not depend on the albedo. */
export interface RoughDiffuse {
  /** BRDF is ρ · single + ρms(ρ) · multiple. */
  single: number
  multiple: number
  /** Mean albedo of the single part, for ρms. */
  mean: number
}

/** @param dot of the two directions */
export function evaluateRoughDiffuse(cosO: number, cosI: number, dot: number, roughness: number, dst: RoughDiffuse): void {
  const a = 1 / (1 + C1 * roughness)
  const s = dot - cosO * cosI
  const t = s > 0 ? s / Math.max(cosO, cosI) : s
  const mean = a * (1 + C2 * roughness)
  dst.single = (a * (1 + roughness * t)) / Math.PI
  dst.multiple =
    (Math.max(1e-9, 1 - roughDiffuseAlbedo(cosO, roughness)) * Math.max(1e-9, 1 - roughDiffuseAlbedo(cosI, roughness))) /
    (Math.max(1e-9, 1 - mean) * Math.PI)
  dst.mean = mean
}

/** Albedo of light that scatters more than once. */
export const multipleDiffuseAlbedo = (albedo: number, mean: number): number =>
  (albedo * albedo * mean) / (1 - albedo * Math.max(0, 1 - mean))
