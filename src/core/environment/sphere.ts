import type { Vec3 } from '../math/vec3'

/**
 * Equirectangular convention, stated once. Pixel column i of W: azimuth = 2π (i + 0.5)/W − π, so 0 is the image
 * centre and positive is to the right. Row j of H: elevation = π/2 − π (j + 0.5)/H.
 * In world space Y is up, azimuth 0 looks along −Z and positive azimuth turns towards +X.
 */

export const columnAzimuth = (column: number, width: number): number => (2 * Math.PI * (column + 0.5)) / width - Math.PI

export const rowElevation = (row: number, height: number): number => Math.PI / 2 - (Math.PI * (row + 0.5)) / height

/** Solid angle of one pixel of a row, in steradians: exact between the row's two latitudes. */
export function rowSolidAngle(row: number, width: number, height: number): number {
  const top = Math.PI / 2 - (Math.PI * row) / height
  const bottom = Math.PI / 2 - (Math.PI * (row + 1)) / height
  return ((2 * Math.PI) / width) * (Math.sin(top) - Math.sin(bottom))
}

export function directionOf(azimuthRad: number, elevationRad: number): Vec3 {
  const c = Math.cos(elevationRad)
  return [c * Math.sin(azimuthRad), Math.sin(elevationRad), -c * Math.cos(azimuthRad)]
}

export const azimuthOf = (x: number, z: number): number => Math.atan2(x, -z)
