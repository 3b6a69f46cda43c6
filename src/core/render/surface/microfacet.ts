/**
 * GGX microfacets in a local frame with the normal along +z and the tangent of least roughness change along +x. Directions point
 * away from the surface. D: Trowbridge & Reitz 1975, anisotropic after Burley 2012; height-correlated Smith G2: Heitz 2014;
 * visible normals: Heitz 2018.
 */

/** Density of microfacet normals at (hx, hy, hz), per steradian. */
export function ggxD(hx: number, hy: number, hz: number, alphaX: number, alphaY: number): number {
  const x = hx / alphaX
  const y = hy / alphaY
  const d = x * x + y * y + hz * hz
  return 1 / (Math.PI * alphaX * alphaY * d * d)
}

/** Smith's Λ of a direction on either side. */
export function smithLambda(x: number, y: number, z: number, alphaX: number, alphaY: number): number {
  const ax = alphaX * x
  const ay = alphaY * y
  return (Math.sqrt(1 + (ax * ax + ay * ay) / (z * z)) - 1) / 2
}

/** Draws a visible normal for outgoing (ox, oy, oz), oz > 0, into dst 0..2 (Heitz 2018, "Sampling the GGX Distribution of Visible Normals"). */
export function sampleVisibleNormal(
  ox: number,
  oy: number,
  oz: number,
  alphaX: number,
  alphaY: number,
  u1: number,
  u2: number,
  dst: Float64Array,
): void {
  let vx = alphaX * ox
  let vy = alphaY * oy
  let vz = oz
  const inv = 1 / Math.sqrt(vx * vx + vy * vy + vz * vz)
  vx *= inv
  vy *= inv
  vz *= inv
  const l = Math.sqrt(vx * vx + vy * vy)
  const t1x = l > 0 ? -vy / l : 1
  const t1y = l > 0 ? vx / l : 0
  const t2x = -vz * t1y
  const t2y = vz * t1x
  const t2z = vx * t1y - vy * t1x
  const r = Math.sqrt(u1)
  const phi = 2 * Math.PI * u2
  const p1 = r * Math.cos(phi)
  const s = 0.5 * (1 + vz)
  const p2 = (1 - s) * Math.sqrt(Math.max(0, 1 - p1 * p1)) + s * r * Math.sin(phi)
  const p3 = Math.sqrt(Math.max(0, 1 - p1 * p1 - p2 * p2))
  const nx = alphaX * (p1 * t1x + p2 * t2x + p3 * vx)
  const ny = alphaY * (p1 * t1y + p2 * t2y + p3 * vy)
  const nz = Math.max(1e-9, p2 * t2z + p3 * vz)
  const n = 1 / Math.sqrt(nx * nx + ny * ny + nz * nz)
  dst[0] = nx * n
  dst[1] = ny * n
  dst[2] = nz * n
}

/** GGX alpha of a perceptual roughness; held above a mirror's so that densities stay finite. */
export const roughnessToAlpha = (roughness: number): number => Math.max(Math.min(Math.max(roughness, 0), 1) ** 2, 1e-3)
