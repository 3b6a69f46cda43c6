import { movePointInPlace } from '../../math/affine'
import { createRandom } from '../../math/random'
import type { Camera } from '../film/camera'
import { createRayHit, type RayHit } from '../scene/ray-caster'
import type { Scene } from '../scene/scene'
import { cosineDirection } from './bounce-guide'
import type { LitPoint } from './guide-grid'

/** Camera rays across and down, and how often each goes on. */
const [ACROSS, DOWN] = [72, 48]
const BOUNCES = 3

/** Places on surfaces that the camera sees, and that light comes to them by way of: all are taken to be matt. */
export function findLitPoints(scene: Scene, camera: Camera): LitPoint[] {
  const random = createRandom(1)
  const hit = createRayHit()
  const met = createLitPoint()
  const points: LitPoint[] = []
  for (let j = 0; j < DOWN; j++)
    for (let i = 0; i < ACROSS; i++) {
      const sx = (((i + random.next()) / ACROSS) * 2 - 1) * camera.aspect * camera.tanHalfHeight
      const sy = (1 - ((j + random.next()) / DOWN) * 2) * camera.tanHalfHeight
      let from: readonly [number, number, number] = camera.position
      let along = [0, 1, 2].map(k => camera.forward[k] + camera.right[k] * sx + camera.up[k] * sy)
      for (let bounce = 0; bounce <= BOUNCES; bounce++) {
        if (!scene.caster.closestHit(...from, along[0], along[1], along[2], 1e30, hit, 'solid')) break
        litPointAt(scene, hit, ...from, along[0], along[1], along[2], met)
        const point: LitPoint = { position: [...met.position], normal: [...met.normal] }
        points.push(point)
        from = point.position
        const next = cosineDirection(point.normal, random.next(), random.next())
        if (!next) break
        along = next
      }
    }
  return points
}

/** A lit point to be written over and over. */
export interface MutableLitPoint {
  position: [number, number, number]
  normal: [number, number, number]
}

export const createLitPoint = (): MutableLitPoint => ({ position: [0, 0, 0], normal: [0, 0, 0] })

const corners = new Float64Array(9)

/** Where a ray met a surface, a little off it on the side that the ray comes from: into `point`. */
export function litPointAt(
  { positions, placements }: Scene,
  { distance, triangle, placement }: RayHit,
  ox: number,
  oy: number,
  oz: number,
  dx: number,
  dy: number,
  dz: number,
  { position, normal }: MutableLitPoint,
): void {
  for (let k = 0; k < 9; k++) corners[k] = positions[triangle * 9 + k]
  if (placement >= 0) for (let c = 0; c < 9; c += 3) movePointInPlace(placements[placement].toWorld, corners, c)
  const [ax, ay, az] = [corners[3] - corners[0], corners[4] - corners[1], corners[5] - corners[2]]
  const [bx, by, bz] = [corners[6] - corners[0], corners[7] - corners[1], corners[8] - corners[2]]
  const [nx, ny, nz] = [ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx]
  const length = Math.hypot(nx, ny, nz) || 1
  const side = nx * dx + ny * dy + nz * dz > 0 ? -1 / length : 1 / length
  normal[0] = nx * side
  normal[1] = ny * side
  normal[2] = nz * side
  const [x, y, z] = [ox + dx * distance, oy + dy * distance, oz + dz * distance]
  const step = 1e-5 * Math.max(1, Math.abs(x), Math.abs(y), Math.abs(z))
  position[0] = x + normal[0] * step
  position[1] = y + normal[1] * step
  position[2] = z + normal[2] * step
}
