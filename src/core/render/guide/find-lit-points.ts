import { IDENTITY, movePointInPlace } from '../../math/affine'
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
  const points: LitPoint[] = []
  for (let j = 0; j < DOWN; j++)
    for (let i = 0; i < ACROSS; i++) {
      const sx = (((i + random.next()) / ACROSS) * 2 - 1) * camera.aspect * camera.tanHalfHeight
      const sy = (1 - ((j + random.next()) / DOWN) * 2) * camera.tanHalfHeight
      let from: readonly [number, number, number] = camera.position
      let along = [0, 1, 2].map(k => camera.forward[k] + camera.right[k] * sx + camera.up[k] * sy)
      for (let bounce = 0; bounce <= BOUNCES; bounce++) {
        if (!scene.caster.closestHit(...from, along[0], along[1], along[2], 1e30, hit, 'solid')) break
        const point = litPointAt(scene, hit, from, along)
        points.push(point)
        from = point.position
        const next = cosineDirection(point.normal, random.next(), random.next())
        if (!next) break
        along = next
      }
    }
  return points
}

/** Where a ray met a surface, a little off it on the side that the ray comes from. */
export function litPointAt(
  scene: Scene,
  { distance, triangle, placement }: RayHit,
  from: readonly [number, number, number],
  along: readonly number[],
): LitPoint {
  const corners = Float64Array.from(scene.positions.subarray(triangle * 9, triangle * 9 + 9))
  const toWorld = placement >= 0 ? scene.placements[placement].toWorld : IDENTITY
  for (let c = 0; c < 9; c += 3) movePointInPlace(toWorld, corners, c)
  const [ax, ay, az] = [corners[3] - corners[0], corners[4] - corners[1], corners[5] - corners[2]]
  const [bx, by, bz] = [corners[6] - corners[0], corners[7] - corners[1], corners[8] - corners[2]]
  const [nx, ny, nz] = [ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx]
  const length = Math.hypot(nx, ny, nz) || 1
  const side = nx * along[0] + ny * along[1] + nz * along[2] > 0 ? -1 / length : 1 / length
  const normal = [nx * side, ny * side, nz * side] as const
  const at = from.map((v, k) => v + along[k] * distance)
  const step = 1e-5 * Math.max(1, ...at.map(Math.abs))
  return { position: [at[0] + normal[0] * step, at[1] + normal[1] * step, at[2] + normal[2] * step], normal }
}
