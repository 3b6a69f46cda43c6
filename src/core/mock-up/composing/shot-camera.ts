import { cross, normalize, subtract, type Vec3 } from '../../math/vec3'
import { type Camera, createCamera } from '../../render/film/camera'
import type { Shot } from '../scene/scene'

/** How a shot frames: upright, the film is shifted up or down by so many times its distance. */
export function shiftOf({ isUpright, position, target }: Pick<Shot, 'isUpright' | 'position' | 'target'>): number {
  const flat = Math.hypot(target[0] - position[0], target[2] - position[2])
  return isUpright && flat > 1e-6 ? (target[1] - position[1]) / flat : 0
}

/** A shot as the renderer sees through it; an upright one looks level, and its film is shifted, so that verticals are parallel. */
export function cameraOfShot({
  focus,
  ...shot
}: Pick<Shot, 'position' | 'target' | 'focalMm' | 'aspect' | 'isUpright'> & Partial<Pick<Shot, 'focus'>>): Camera {
  const camera = framingOf(shot)
  return focus ? { ...camera, lens: { radiusM: shot.focalMm / 1000 / (2 * focus.fNumber), sharpM: focus.distanceM } } : camera
}

function framingOf(shot: Pick<Shot, 'position' | 'target' | 'focalMm' | 'aspect' | 'isUpright'>): Camera {
  const { position, target, focalMm, aspect } = shot
  const shift = shiftOf(shot)
  const camera = createCamera(position, target, focalMm, aspect)
  if (!shot.isUpright || !Number.isFinite(shift)) return camera
  const away = subtract(target, position)
  if (Math.hypot(away[0], away[2]) <= 1e-6) return camera
  const level = normalize([away[0], 0, away[2]])
  const up: Vec3 = [0, 1, 0]
  return { ...camera, forward: [level[0], shift, level[2]], right: cross(level, up), up }
}
