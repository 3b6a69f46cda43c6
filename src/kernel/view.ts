import { setEnvironment, setGuide } from './environment'
import { filterOffset, pair, pointX, pointY, sobolPair } from './sampling'

/** How the scene is looked at: camera, background, light. */

// The camera.
export let cameraAt: usize = 0
export let width: f64 = 1
export let height: f64 = 1
export let seed: u32 = 0
/** What is seen behind everything: the light itself, a colour, or another map. */
export let background: i32 = 0
export const COLOR = 1

/**
 * A view: position, forward, right and up of the camera, 3 each · tangent of half its height · aspect · background 3 · 0 for none, 1, 2 for a map ·
 * width · height in pixels · then seed and environment u32 · radius of the lens and distance to what is sharp · environment u32 that is seen
 * behind everything where the background is another map · guide to the light u32, 0 for none.
 */
export function setView(at: usize): void {
  cameraAt = at
  background = <i32>load<f64>(at, 136)
  width = load<f64>(at, 144)
  height = load<f64>(at, 152)
  seed = load<u32>(at, 160)
  setEnvironment(load<u32>(at, 164))
  setGuide(load<u32>(at, 188))
}

/** Written by `aim`: from where, and the unit direction. */
export let rayX: f64 = 0
export let rayY: f64 = 0
export let rayZ: f64 = 0
export let rayDX: f64 = 0
export let rayDY: f64 = 0
export let rayDZ: f64 = 0

/** A ray through a pixel, for one of its samples. */
export function aim(px: i32, py: i32, index: u32): void {
  sobolPair(index, pair())
  const fx = ((<f64>px + 0.5 + filterOffset(pointX)) / width) * 2 - 1
  const fy = 1 - ((<f64>py + 0.5 + filterOffset(pointY)) / height) * 2
  const tanHalf = load<f64>(cameraAt, 96)
  const sx = fx * load<f64>(cameraAt, 104) * tanHalf
  const sy = fy * tanHalf
  let dx = load<f64>(cameraAt, 24) + load<f64>(cameraAt, 48) * sx + load<f64>(cameraAt, 72) * sy
  let dy = load<f64>(cameraAt, 32) + load<f64>(cameraAt, 56) * sx + load<f64>(cameraAt, 80) * sy
  let dz = load<f64>(cameraAt, 40) + load<f64>(cameraAt, 64) * sx + load<f64>(cameraAt, 88) * sy
  let ox = load<f64>(cameraAt)
  let oy = load<f64>(cameraAt, 8)
  let oz = load<f64>(cameraAt, 16)
  const lens = load<f64>(cameraAt, 168)
  if (lens > 0) {
    // From a place on the lens to where the ray through its middle meets the plane of what is sharp.
    sobolPair(index, pair())
    const away = lens * Math.sqrt(pointX)
    const turn = 2 * Math.PI * pointY
    const across = away * Math.cos(turn)
    const upwards = away * Math.sin(turn)
    const far = 1 / load<f64>(cameraAt, 176)
    const ax = load<f64>(cameraAt, 48) * across + load<f64>(cameraAt, 72) * upwards
    const ay = load<f64>(cameraAt, 56) * across + load<f64>(cameraAt, 80) * upwards
    const az = load<f64>(cameraAt, 64) * across + load<f64>(cameraAt, 88) * upwards
    ox += ax
    oy += ay
    oz += az
    dx -= ax * far
    dy -= ay * far
    dz -= az * far
  }
  const inv = 1 / Math.sqrt(dx * dx + dy * dy + dz * dz)
  rayDX = dx * inv
  rayDY = dy * inv
  rayDZ = dz * inv
  rayX = ox
  rayY = oy
  rayZ = oz
}
