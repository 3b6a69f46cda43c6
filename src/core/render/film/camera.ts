import { add, cross, dot, normalize, scale, subtract, type Vec3 } from '../../math/vec3'

/** A camera, a pinhole unless it has a lens; `tanHalfHeight` is half the frame's height at distance 1. */
export interface Camera {
  position: Vec3
  forward: Vec3
  right: Vec3
  up: Vec3
  tanHalfHeight: number
  aspect: number
  /** How wide light comes in, and how far away along the line of sight things are sharp, in metres. */
  lens?: { radiusM: number; sharpM: number }
}

/** Height of the film a focal length refers to: a 36 x 24 mm frame. */
const FILM_HEIGHT_MM = 24

export function createCamera(position: Vec3, target: Vec3, focalMm: number, aspect: number): Camera {
  const forward = normalize(subtract(target, position))
  const worldUp: Vec3 = Math.abs(forward[1]) > 0.999 ? [0, 0, -1] : [0, 1, 0]
  const right = normalize(cross(forward, worldUp))
  return { position, forward, right, up: cross(right, forward), tanHalfHeight: FILM_HEIGHT_MM / 2 / focalMm, aspect }
}

/** Frame coordinates of a point: x in ±aspect and y in ±1 span the frame; null behind the camera. */
export function projectPoint(camera: Camera, point: Vec3): { x: number; y: number; depth: number } | null {
  const d = subtract(point, camera.position)
  const depth = dot(d, camera.forward)
  if (depth <= 1e-6) return null
  const s = 1 / (depth * camera.tanHalfHeight)
  return { x: dot(d, camera.right) * s, y: dot(d, camera.up) * s, depth }
}

/**
 * A camera looking along a fixed direction, placed so that the points just take `coverage` of the frame, centred. Any proportions
 * of the subject are framed.
 * @param directionToCamera unit vector from the subject to the camera
 * @param framing measure the larger extent by the frame's shorter side, or each extent by its own side and take what is reached first
 */
export function frameSubject(
  points: Float32Array,
  directionToCamera: Vec3,
  focalMm: number,
  aspect: number,
  coverage: number,
  framing: 'shorterSide' | 'fill' = 'fill',
): Camera {
  const centre: Vec3 = [0, 0, 0]
  const low: Vec3 = [Infinity, Infinity, Infinity]
  const high: Vec3 = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < points.length; i += 3)
    for (let c = 0; c < 3; c++) {
      low[c] = Math.min(low[c], points[i + c])
      high[c] = Math.max(high[c], points[i + c])
    }
  for (let c = 0; c < 3; c++) centre[c] = Number.isFinite(low[c]) ? (low[c] + high[c]) / 2 : 0
  const radius = Math.max(1e-4, Number.isFinite(low[0]) ? Math.hypot(...subtract(high, low)) / 2 : 1)
  const tanHalf = FILM_HEIGHT_MM / 2 / focalMm
  let target = centre
  let distance = radius / tanHalf + radius
  let camera = place(target, distance)
  // Distance and centring depend on each other only through perspective: a few rounds settle both.
  for (let round = 0; round < 12; round++) {
    let x0 = Infinity
    let x1 = -Infinity
    let y0 = Infinity
    let y1 = -Infinity
    for (let i = 0; i < points.length; i += 3) {
      const p = projectPoint(camera, [points[i], points[i + 1], points[i + 2]])
      if (!p) continue
      x0 = Math.min(x0, p.x)
      x1 = Math.max(x1, p.x)
      y0 = Math.min(y0, p.y)
      y1 = Math.max(y1, p.y)
    }
    if (!(x1 > x0)) return camera
    const unit = distance * tanHalf
    const dx = ((x0 + x1) / 2) * unit
    const dy = ((y0 + y1) / 2) * unit
    target = [
      target[0] + camera.right[0] * dx + camera.up[0] * dy,
      target[1] + camera.right[1] * dx + camera.up[1] * dy,
      target[2] + camera.right[2] * dx + camera.up[2] * dy,
    ]
    const fill =
      framing === 'fill'
        ? Math.max((x1 - x0) / (2 * aspect), (y1 - y0) / 2)
        : Math.max(x1 - x0, y1 - y0) / (2 * Math.min(1, aspect))
    distance = Math.max(distance * (fill / coverage) ** 0.9, radius * 0.3)
    camera = place(target, distance)
  }
  return camera

  function place(at: Vec3, away: number): Camera {
    const position: Vec3 = [
      at[0] + directionToCamera[0] * away,
      at[1] + directionToCamera[1] * away,
      at[2] + directionToCamera[2] * away,
    ]
    return createCamera(position, at, focalMm, aspect)
  }
}

/** How far somebody has gone round a subject from where the rig's camera stands. */
export interface Orbit {
  /** About the vertical, counter-clockwise seen from above. */
  yawRad: number
  /** Upwards. */
  pitchRad: number
  /** From the pivot, as a share of the rig camera's own distance. */
  distance: number
}

export const NO_ORBIT: Orbit = { yawRad: 0, pitchRad: 0, distance: 1 }

const LOWEST_RAD = -0.02
const HIGHEST_RAD = 1.53

/** The point on a camera's line of sight beside another point: turned about it, the view begins as it was. */
export function pivotBeside(camera: Camera, point: Vec3): Vec3 {
  const away = dot(subtract(point, camera.position), camera.forward)
  return add(camera.position, scale(camera.forward, away))
}

/** The camera after going round a pivot on its line of sight; it does not go over the top, nor under the floor. */
export function orbitCamera(camera: Camera, pivot: Vec3, { yawRad, pitchRad, distance }: Orbit): Camera {
  const from = subtract(camera.position, pivot)
  const reach = Math.hypot(...from)
  if (!(reach > 0)) return camera
  const azimuth = Math.atan2(from[0], from[2]) + yawRad
  const own = Math.asin(from[1] / reach)
  const elevation = Math.min(Math.max(own + pitchRad, Math.min(own, LOWEST_RAD)), Math.max(own, HIGHEST_RAD))
  const [c, r] = [Math.cos(elevation), reach * distance]
  const position = add(pivot, [r * c * Math.sin(azimuth), r * Math.sin(elevation), r * c * Math.cos(azimuth)])
  const forward = normalize(subtract(pivot, position))
  const right = normalize(cross(forward, [0, 1, 0]))
  return { ...camera, position, forward, right, up: cross(right, forward) }
}
