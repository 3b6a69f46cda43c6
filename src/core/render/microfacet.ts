/**
 * GGX microfacets in a local frame with the normal along +z, isotropic. Directions point away from the surface.
 * D: Trowbridge & Reitz 1975; height-correlated Smith G2: Heitz 2014; visible normals: Heitz 2018.
 */

export const ggxD = (cosH: number, alpha: number): number => {
  const a2 = alpha * alpha
  const d = cosH * cosH * (a2 - 1) + 1
  return a2 / (Math.PI * d * d)
}

const lambda = (cos: number, a2: number): number => {
  const c2 = cos * cos
  return (Math.sqrt(1 + (a2 * (1 - c2)) / c2) - 1) / 2
}

export const smithG1 = (cos: number, alpha: number): number => 1 / (1 + lambda(Math.abs(cos), alpha * alpha))

export const smithG2 = (cosO: number, cosI: number, alpha: number): number => {
  const a2 = alpha * alpha
  return 1 / (1 + lambda(Math.abs(cosO), a2) + lambda(Math.abs(cosI), a2))
}

/** Draws a visible normal for outgoing (ox, oy, oz), oz > 0, into dst 0..2 (Heitz 2018, "Sampling the GGX Distribution of Visible Normals"). */
export function sampleVisibleNormal(
  ox: number,
  oy: number,
  oz: number,
  alpha: number,
  u1: number,
  u2: number,
  dst: Float64Array,
): void {
  let vx = alpha * ox
  let vy = alpha * oy
  let vz = oz
  const inv = 1 / Math.sqrt(vx * vx + vy * vy + vz * vz)
  vx *= inv
  vy *= inv
  vz *= inv
  const l2 = vx * vx + vy * vy
  const t1x = l2 > 0 ? -vy / Math.sqrt(l2) : 1
  const t1y = l2 > 0 ? vx / Math.sqrt(l2) : 0
  const t2x = -vz * t1y
  const t2y = vz * t1x
  const t2z = vx * t1y - vy * t1x
  const r = Math.sqrt(u1)
  const phi = 2 * Math.PI * u2
  const p1 = r * Math.cos(phi)
  const s = 0.5 * (1 + vz)
  const p2 = (1 - s) * Math.sqrt(Math.max(0, 1 - p1 * p1)) + s * r * Math.sin(phi)
  const p3 = Math.sqrt(Math.max(0, 1 - p1 * p1 - p2 * p2))
  const nx = alpha * (p1 * t1x + p2 * t2x + p3 * vx)
  const ny = alpha * (p1 * t1y + p2 * t2y + p3 * vy)
  const nz = Math.max(1e-9, p2 * t2z + p3 * vz)
  const n = 1 / Math.sqrt(nx * nx + ny * ny + nz * nz)
  dst[0] = nx * n
  dst[1] = ny * n
  dst[2] = nz * n
}

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

const TABLE = 32
const TABLE_SAMPLES = 32

/**
 * Directional albedo of the GGX lobe split as F0 · A + B under Schlick's Fresnel (Karis 2013), by quadrature over
 * visible normals on a stratified grid, and the cosine-weighted means needed for energy-conserving layering.
 * Rows: alpha from 0 to 1 in sqrt steps (perceptual roughness); columns: cosine from 0 to 1.
 */
function buildTables() {
  const a = new Float64Array(TABLE * TABLE)
  const b = new Float64Array(TABLE * TABLE)
  const means = new Float64Array(TABLE * 4)
  const normal = new Float64Array(3)
  for (let row = 0; row < TABLE; row++) {
    const alpha = roughnessToAlpha(row / (TABLE - 1))
    for (let column = 0; column < TABLE; column++) {
      const cosO = Math.max(column / (TABLE - 1), 1e-3)
      const sinO = Math.sqrt(1 - cosO * cosO)
      let sumA = 0
      let sumB = 0
      for (let i = 0; i < TABLE_SAMPLES; i++) {
        for (let j = 0; j < TABLE_SAMPLES; j++) {
          sampleVisibleNormal(sinO, 0, cosO, alpha, (i + 0.5) / TABLE_SAMPLES, (j + 0.5) / TABLE_SAMPLES, normal)
          const oh = sinO * normal[0] + cosO * normal[2]
          const cosI = 2 * oh * normal[2] - cosO
          if (cosI <= 0) continue
          const weight = smithG2(cosO, cosI, alpha) / smithG1(cosO, alpha)
          const f = schlickWeight(oh)
          sumA += weight * (1 - f)
          sumB += weight * f
        }
      }
      a[row * TABLE + column] = sumA / TABLE_SAMPLES ** 2
      b[row * TABLE + column] = sumB / TABLE_SAMPLES ** 2
    }
    // Means over the hemisphere of A, B and of both times the multiple-scattering factor k: 2 ∫ f(μ) μ dμ.
    const steps = 256
    for (let s = 0; s < steps; s++) {
      const mu = (s + 0.5) / steps
      const x = mu * (TABLE - 1)
      const c = Math.min(TABLE - 2, Math.floor(x))
      const va = a[row * TABLE + c] + (a[row * TABLE + c + 1] - a[row * TABLE + c]) * (x - c)
      const vb = b[row * TABLE + c] + (b[row * TABLE + c + 1] - b[row * TABLE + c]) * (x - c)
      const k = 1 / (va + vb) - 1
      const w = (2 * mu) / steps
      means[row * 4] += va * w
      means[row * 4 + 1] += vb * w
      means[row * 4 + 2] += va * k * w
      means[row * 4 + 3] += vb * k * w
    }
  }
  return { a, b, means }
}

/** GGX alpha of a perceptual roughness; held above a mirror's so that densities stay finite. */
export const roughnessToAlpha = (roughness: number): number => Math.max(Math.min(Math.max(roughness, 0), 1) ** 2, 1e-3)

const tables = buildTables()

/** Writes A and B of the directional albedo F0 · A + B into dst 0 and 1, and the means of A, B, A k, B k into 2..5. */
export function readAlbedoTable(cosO: number, roughness: number, dst: Float64Array): void {
  const y = Math.min(Math.max(roughness, 0), 1) * (TABLE - 1)
  const x = Math.min(Math.max(Math.abs(cosO), 0), 1) * (TABLE - 1)
  const r = Math.min(TABLE - 2, Math.floor(y))
  const c = Math.min(TABLE - 2, Math.floor(x))
  const fy = y - r
  const fx = x - c
  const at = r * TABLE + c
  const { a, b, means } = tables
  dst[0] = (a[at] * (1 - fx) + a[at + 1] * fx) * (1 - fy) + (a[at + TABLE] * (1 - fx) + a[at + TABLE + 1] * fx) * fy
  dst[1] = (b[at] * (1 - fx) + b[at + 1] * fx) * (1 - fy) + (b[at + TABLE] * (1 - fx) + b[at + TABLE + 1] * fx) * fy
  for (let k = 0; k < 4; k++) dst[2 + k] = means[r * 4 + k] * (1 - fy) + means[(r + 1) * 4 + k] * fy
}
