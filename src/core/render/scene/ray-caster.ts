/** What a traversal writes into; one per caller, never shared between threads. */
export interface RayHit {
  distance: number
  /** Index into the caller's triangles; −1 for a miss. */
  triangle: number
  /** Barycentric weights of the second and third corner. */
  u: number
  v: number
  /** Index into the caller's placements; −1 where the triangle stands in the world as it is. */
  placement: number
}

export const createRayHit = (): RayHit => ({ distance: 0, triangle: -1, u: 0, v: 0, placement: -1 })

/** Decides whether a candidate hit counts, for surfaces with holes. */
export type AcceptHit = (triangle: number, u: number, v: number) => boolean

export interface RayCaster {
  /**
   * Nearest hit with 0 < distance < `far`; false for none. Direction need not be unit; distance is in its lengths.
   * `throughClear` passes through what casts no shadow.
   */
  closestHit(
    ox: number,
    oy: number,
    oz: number,
    dx: number,
    dy: number,
    dz: number,
    far: number,
    hit: RayHit,
    throughClear?: boolean,
  ): boolean
  /** Whether anything lies within 0 < distance < `far`. */
  isOccluded(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, far: number): boolean
}
