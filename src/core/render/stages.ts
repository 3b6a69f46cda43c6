import { computeBounds, type Mesh, mergeMeshes, placeMesh } from '../geometry/mesh'
import { createBox, createExtrusion, createLathe, createSheet, type Point2, roundCorners } from '../geometry/shapes'
import { createMaterial, type OpenPbrMaterial } from '../material/open-pbr'
import type { Camera } from './camera'
import type { SceneObject } from './scene'

/** Width of the material stage's sheet in metres. A 300 mm tile shows twice across it. */
export const STAGE_WIDTH_M = 0.6

/**
 * The material stage: a thick sheet that lies flat in front, sweeps up through a hollow and rolls over backwards, and an open
 * cup standing on it. Flat, hollow, rounded and cut edge in one shape; it only ever bends one way, so a texture lies on
 * it at true scale without stretch.
 */
export function createMaterialStage(): Mesh {
  const thickness = 0.018
  const center: Point2[] = []
  const push = (z: number, y: number) => center.push([z, y])
  push(0.3, thickness)
  push(-0.02, thickness)
  // Hollow: a quarter turn from level to upright.
  const hollow = 0.13
  for (let k = 1; k <= 20; k++) {
    const a = (k / 20) * (Math.PI / 2) * 0.92
    push(-0.02 - hollow * Math.sin(a), thickness + hollow * (1 - Math.cos(a)))
  }
  const last = center[center.length - 1]
  const lean = (Math.PI / 2) * 0.92
  const rise = 0.05
  push(last[0] - rise * Math.cos(lean), last[1] + rise * Math.sin(lean))
  const top = center[center.length - 1]
  // Roll-over: on from the lean through level and down again.
  const roll = 0.07
  for (let k = 1; k <= 28; k++) {
    const a = (k / 28) * Math.PI * 0.95
    const along = Math.sin(a) * roll
    const across = (1 - Math.cos(a)) * roll
    const ux = -Math.cos(lean)
    const uy = Math.sin(lean)
    push(top[0] + ux * along - uy * across, top[1] + uy * along + ux * across)
  }
  const sheet = createExtrusion(roundCorners(thicken(center, thickness), 0.004, 3, true), STAGE_WIDTH_M)
  const wall = 0.008
  const profile = roundCorners(
    [
      [0.0005, 0],
      [0.05, 0],
      [0.058, 0.115],
      [0.058 - wall, 0.115],
      [0.05 - wall, wall * 1.5],
      [0.0005, wall * 1.5],
    ],
    0.0039,
    5,
  )
  const cup = placeMesh(createLathe(profile, 64), [0.17, thickness, 0.17])
  return mergeMeshes([sheet, cup])
}

/** An outline from the upper side of a sheet, offset by its thickness to the lower side. */
function thicken(upper: readonly Point2[], thickness: number): Point2[] {
  const lower = upper.map((p, i): Point2 => {
    const a = upper[Math.max(0, i - 1)]
    const b = upper[Math.min(upper.length - 1, i + 1)]
    const l = Math.hypot(b[0] - a[0], b[1] - a[1])
    // Right-hand normal of the direction of travel: below a path that runs towards −z.
    return [p[0] - ((b[1] - a[1]) / l) * -thickness * -1, p[1] + ((b[0] - a[0]) / l) * thickness]
  })
  return [...upper, ...lower.reverse()]
}

/** A standing panel of 3 x 3 m with a returned corner, for materials judged at the size of a wall. */
export function createWallStage(): Mesh {
  return mergeMeshes([
    placeMesh(createBox(3, 3, 0.2, 0.004), [0, 0, 0]),
    placeMesh(createBox(0.2, 3, 1.2, 0.004), [-1.4, 0, 0.7]),
  ])
}

/**
 * A seamless backdrop under and behind a subject: floor, sweep and wall, turned to face the camera.
 * @param radius half the subject's largest extent, in metres
 */
export function createBackdrop(subject: Mesh, camera: Camera, albedo: number): SceneObject {
  const { min, max } = computeBounds(subject.positions)
  const radius = Math.max(1e-3, Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]) / 2)
  const back = radius * 5
  const sweep = radius * 4
  const front = radius * 14
  const half = radius * 22
  const height = radius * 16
  const profile: Point2[] = [[front, 0]]
  profile.push([-back, 0])
  for (let k = 1; k <= 16; k++) {
    const a = (k / 16) * (Math.PI / 2)
    profile.push([-back - sweep * Math.sin(a), sweep * (1 - Math.cos(a))])
  }
  profile.push([-back - sweep, height])
  const sheet = createSheet(
    1,
    profile.length - 1,
    (s, t) => {
      const [z, y] = profile[Math.round(t * (profile.length - 1))]
      return [(s - 0.5) * 2 * half, y, z]
    },
    () => [0, 0],
  )
  const yaw = Math.atan2(-camera.forward[0], -camera.forward[2])
  // A hair below the subject: where a glass base and the floor were one plane, rays that leave the glass would pass under the floor.
  const ground = min[1] - radius * 2e-4
  const centre: [number, number, number] = [(min[0] + max[0]) / 2, ground, (min[2] + max[2]) / 2]
  return { mesh: placeMesh(sheet, centre, yaw), material: greyMaterial('backdrop', albedo, 0.9), images: [] }
}

/** A 1 m bar (100 mm for small things) in ten fields lying in front of the subject. */
export function createScaleBar(subject: Mesh): { objects: SceneObject[]; lengthM: number } {
  const { min, max } = computeBounds(subject.positions)
  const extent = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2])
  const lengthM = extent > 0.7 ? 1 : 0.1
  const field = lengthM / 10
  const thick = lengthM * 0.018
  const z = max[2] + extent * 0.08
  const x0 = (min[0] + max[0]) / 2 - lengthM / 2
  const fields = Array.from({ length: 10 }, (_, i) => ({
    dark: i % 2 === 0,
    mesh: placeMesh(createBox(field, thick, thick * 2, 0), [x0 + field * (i + 0.5), min[1], z]),
  }))
  const pick = (dark: boolean) => mergeMeshes(fields.filter(f => f.dark === dark).map(f => f.mesh))
  return {
    lengthM,
    objects: [
      { mesh: pick(true), material: greyMaterial('bar dark', 0.05, 0.6), images: [] },
      { mesh: pick(false), material: greyMaterial('bar light', 0.75, 0.6), images: [] },
    ],
  }
}

export const greyMaterial = (name: string, albedo: number, roughness: number): OpenPbrMaterial =>
  createMaterial(name, { baseColor: [albedo, albedo, albedo], specularRoughness: roughness, specularWeight: 0.3 })
