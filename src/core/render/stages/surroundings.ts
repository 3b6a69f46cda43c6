import { computeBounds, type Mesh, mergeMeshes, placeMesh } from '../../geometry/mesh'
import { createBox, createSheet, type Point2 } from '../../geometry/shapes'
import { createMaterial, type OpenPbrMaterial } from '../../material/open-pbr'
import type { Camera } from '../film/camera'
import type { SceneObject } from '../scene/scene'

/** Measures of a backdrop in half diagonals of the subject. */
export interface BackdropShape {
  /** From the subject's middle to where the floor ends. */
  back: number
  /** Radius of the bend up to the wall. */
  sweep: number
  /** From the subject's lower end down to the floor. */
  drop: number
}
export const SEAMLESS: BackdropShape = { back: 5, sweep: 4, drop: 0 }
/** A wall close behind, for a light to fall on. */
export const NEAR_WALL: BackdropShape = { back: 0.95, sweep: 0.15, drop: 0 }
/** The same under something that hangs. */
export const NEAR_WALL_BELOW: BackdropShape = { ...NEAR_WALL, drop: 1.1 }

/** Half the diagonal of a mesh's box, in metres. */
export function radiusOf({ positions }: Mesh): number {
  const { min, max } = computeBounds(positions)
  return Math.max(1e-3, Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]) / 2)
}

/** A backdrop under and behind a subject: floor, sweep and wall, turned to face the camera. */
export function createBackdrop(subject: Mesh, camera: Camera, albedo: number, shape: BackdropShape = SEAMLESS): SceneObject {
  const { min, max } = computeBounds(subject.positions)
  const radius = radiusOf(subject)
  const back = radius * shape.back
  const sweep = radius * shape.sweep
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
  const ground = min[1] - radius * (2e-4 + shape.drop)
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
