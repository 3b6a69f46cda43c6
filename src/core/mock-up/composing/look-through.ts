import { add, dot, scale, subtract, type Vec3 } from '../../math/vec3'
import type { Camera } from '../../render/film/camera'
import type { Ray } from '../placing/cast-into'
import type { Shot } from '../scene/scene'
import { cameraOfShot, shiftOf } from './shot-camera'

/** What a view looks through: a shot less what does not concern where things are seen. */
export type Lens = Pick<Shot, 'position' | 'target' | 'focalMm' | 'aspect' | 'isUpright'>

/** The same in a window of other proportions: all that the shot frames is in it, and more at two of its sides. */
export const lensInWindow = (lens: Lens, aspect: number): Lens => ({
  ...lens,
  aspect,
  focalMm: aspect < lens.aspect ? (lens.focalMm * aspect) / lens.aspect : lens.focalMm,
})

/** The ray through a place of the frame; x and y from -1 to 1, right and up. */
export function rayThrough(lens: Lens, x: number, y: number): Ray {
  const { position, forward, right, up, tanHalfHeight, aspect } = cameraOfShot(lens)
  return {
    origin: position,
    direction: add(forward, add(scale(right, x * aspect * tanHalfHeight), scale(up, y * tanHalfHeight))),
  }
}

/** Where in the frame a point is seen, and how far away along the line of sight; null behind. */
export function seeThrough(lens: Lens, point: Vec3): { x: number; y: number; depth: number } | null {
  const camera = cameraOfShot(lens)
  const away = subtract(point, camera.position)
  const depth = dot(away, levelOf(camera, lens))
  if (depth <= 1e-6) return null
  const y = dot(away, camera.up) / depth - (lens.isUpright ? shiftOf(lens) : 0)
  return { x: dot(away, camera.right) / depth / camera.tanHalfHeight / camera.aspect, y: y / camera.tanHalfHeight, depth }
}

const HELD_WITHIN_PX = 10

/**
 * The one of some points that is seen nearest to another, where it is near enough to be meant; else that other.
 * @param heightPx of the whole frame
 */
export function holdAt(lens: Lens, point: Vec3, corners: readonly Vec3[], heightPx: number, withinPx = HELD_WITHIN_PX): Vec3 {
  const from = seeThrough(lens, point)
  if (!from) return point
  const { aspect } = cameraOfShot(lens)
  const reach = (2 * withinPx) / heightPx
  const near = corners.flatMap(corner => {
    const seen = seeThrough(lens, corner)
    const away = seen ? Math.hypot((seen.x - from.x) * aspect, seen.y - from.y) : Number.POSITIVE_INFINITY
    return away <= reach ? [{ corner, away }] : []
  })
  return near.sort((a, b) => a.away - b.away)[0]?.corner ?? point
}

/** Square to the film, which for a shifted one is not the middle of the picture. */
function levelOf({ forward }: Camera, lens: Lens): Vec3 {
  if (!lens.isUpright) return forward
  const size = Math.hypot(forward[0], forward[2])
  return size > 1e-9 ? [forward[0] / size, 0, forward[2] / size] : forward
}

const LOWEST_RAD = -1.4
const HIGHEST_RAD = 1.55

/** Round the target: to the left and up are positive. */
export function goRound(lens: Lens, yawRad: number, pitchRad: number): Lens {
  const from = subtract(lens.position, lens.target)
  const reach = Math.hypot(...from)
  const azimuth = Math.atan2(from[0], from[2]) + yawRad
  const elevation = Math.min(HIGHEST_RAD, Math.max(LOWEST_RAD, Math.asin(from[1] / reach) + pitchRad))
  const flat = reach * Math.cos(elevation)
  const position: Vec3 = [flat * Math.sin(azimuth), reach * Math.sin(elevation), flat * Math.cos(azimuth)]
  return { ...lens, position: add(lens.target, position) }
}

/** Nearer to the target by a factor below 1, farther by one above. */
export function goCloser(lens: Lens, factor: number): Lens {
  const from = subtract(lens.position, lens.target)
  const reach = Math.min(400, Math.max(0.05, Math.hypot(...from) * factor))
  return { ...lens, position: add(lens.target, scale(from, reach / (Math.hypot(...from) || 1))) }
}

/** Sideways and up, in shares of the frame's height at the target. */
export function goAside(lens: Lens, x: number, y: number): Lens {
  const { right, up, tanHalfHeight } = cameraOfShot(lens)
  const high = 2 * tanHalfHeight * Math.hypot(...subtract(lens.target, lens.position))
  const by = add(scale(right, x * high), scale(up, y * high))
  return { ...lens, position: add(lens.position, by), target: add(lens.target, by) }
}

/** Through the room: forwards and to the right, in metres on the level. */
export function walk(lens: Lens, forwardM: number, rightM: number): Lens {
  const away = subtract(lens.target, lens.position)
  const size = Math.hypot(away[0], away[2]) || 1
  const ahead: Vec3 = [away[0] / size, 0, away[2] / size]
  const by = add(scale(ahead, forwardM), scale([-ahead[2], 0, ahead[0]], rightM))
  return { ...lens, position: add(lens.position, by), target: add(lens.target, by) }
}

/** From where it is, turned and moved so that a box fills most of the frame. */
export function frameBox(lens: Lens, { min, max }: { min: Vec3; max: Vec3 }): Lens {
  const target: Vec3 = [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2]
  const radius = Math.max(0.05, Math.hypot(...subtract(max, min)) / 2)
  const { tanHalfHeight, aspect } = cameraOfShot(lens)
  const reach = (radius / Math.min(1, aspect) / tanHalfHeight) * 1.15
  const from = subtract(lens.position, lens.target)
  return { ...lens, target, position: add(target, scale(from, reach / (Math.hypot(...from) || 1))) }
}
