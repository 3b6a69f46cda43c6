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

/** What a ray may meet: solid is all that is not clear, tinted what of the clear takes light off. */
export type Among = 'everything' | 'solid' | 'tinted'

export interface RayCaster {
  /** Whether there is anything tinted. */
  readonly hasTinted: boolean
  /** Nearest hit with 0 < distance < `far`; false for none. Direction need not be unit; distance is in its lengths. */
  closestHit(
    ox: number,
    oy: number,
    oz: number,
    dx: number,
    dy: number,
    dz: number,
    far: number,
    hit: RayHit,
    among?: Among,
  ): boolean
  /** Whether anything solid lies within 0 < distance < `far`. */
  isOccluded(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, far: number): boolean
}
