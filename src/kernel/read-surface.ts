import { bend, turn } from './frame'
import { EMISSION, Material, P, PLACED, TEXEL } from './memory'
import { setSurface } from './surface/parameters'
import { lookUp, sizeOf } from './texture'
import { Placement } from './traverse'

/** What lies at a hit, as core/render/integrator/surface-reader.ts has it. */

/** Parameters and textures at a place into the surface; the frame bent and turned. */
export function readSurface(material: usize, u: f64, v: f64, footprint: f64): void {
  const live = material + Material.LIVE
  const colors = <i32>load<u32>(material, Material.COLORS)
  const scalars = <i32>load<u32>(material, Material.SCALARS)
  let read = material + Material.READS
  for (let i = 0; i < colors; i++, read += Material.READ_BYTES) {
    lookUp(load<u32>(read, 4), u, v, footprint)
    const to = live + <usize>load<u32>(read)
    store<f64>(to, load<f64>(TEXEL))
    store<f64>(to, load<f64>(TEXEL, 8), 8)
    store<f64>(to, load<f64>(TEXEL, 16), 16)
  }
  for (let i = 0; i < scalars; i++, read += Material.READ_BYTES) {
    lookUp(load<u32>(read, 4), u, v, footprint)
    const value = load<f64>(TEXEL + ((<usize>load<u32>(read, 8)) << 3))
    store<f64>(live + <usize>load<u32>(read), load<u32>(read, 12) ? 1 - value : value)
  }
  setSurface(live, load<u32>(material, Material.TINTS_THROUGH) != 0)
  if (load<f64>(live, P.EMISSION_LUMINANCE) > 0) {
    const tinted = load<u32>(material, Material.TINTS_EMISSION) != 0
    for (let k: usize = 0; k < 24; k += 8)
      store<f64>(EMISSION + k, load<f64>(live + k, P.EMISSION_COLOR) * (tinted ? load<f64>(material + k, P.EMISSION_COLOR) : 1))
  }
  const normalMap = <usize>load<u32>(material, Material.NORMAL)
  const heightMap = <usize>load<u32>(material, Material.HEIGHT)
  if (normalMap) {
    lookUp(normalMap, u, v, footprint)
    const flip: f64 = load<u32>(material, Material.HANDEDNESS) ? -1 : 1
    bend(load<f64>(TEXEL) * 2 - 1, (load<f64>(TEXEL, 8) * 2 - 1) * flip, Math.max(load<f64>(TEXEL, 16) * 2 - 1, 0.05))
  } else if (heightMap) {
    const step = Math.max(footprint, 1 / sizeOf(heightMap))
    const at = TEXEL + ((<usize>load<u32>(material, Material.HEIGHT_CHANNEL)) << 3)
    lookUp(heightMap, u + step / 2, v, footprint)
    const right = load<f64>(at)
    lookUp(heightMap, u - step / 2, v, footprint)
    const left = load<f64>(at)
    lookUp(heightMap, u, v + step / 2, footprint)
    const below = load<f64>(at)
    lookUp(heightMap, u, v - step / 2, footprint)
    const above = load<f64>(at)
    bend(-((right - left) / step) * load<f64>(material, Material.SLOPE_U), ((below - above) / step) * load<f64>(material, Material.SLOPE_V), 1)
  }
  const rotation = load<f64>(live, P.TANGENT_ROTATION)
  if (rotation != 0) turn(rotation * 2 * Math.PI)
}

/** Corners and normals of a triangle of the placement that was hit, as they lie in the world, at PLACED. */
export function putCorners(corners: usize, directions: usize, back: usize): void {
  const there = back + Placement.TO_WORLD
  for (let c: usize = 0; c < 36; c += 12) {
    const x = <f64>load<f32>(corners + c)
    const y = <f64>load<f32>(corners + c, 4)
    const z = <f64>load<f32>(corners + c, 8)
    const mx = <f64>load<f32>(directions + c)
    const my = <f64>load<f32>(directions + c, 4)
    const mz = <f64>load<f32>(directions + c, 8)
    for (let k: usize = 0; k < 3; k++) {
      const row = there + (k << 5)
      const moved = load<f64>(row) * x + load<f64>(row, 8) * y + load<f64>(row, 16) * z + load<f64>(row, 24)
      store<f32>(PLACED + c + (k << 2), <f32>moved)
      // A normal goes by the map back, transposed.
      const column = back + (k << 3)
      const turned = load<f64>(column) * mx + load<f64>(column, 32) * my + load<f64>(column, 64) * mz
      store<f32>(PLACED + c + (k << 2), <f32>turned, 36)
    }
  }
}
