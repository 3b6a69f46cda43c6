import { Material, P, TEXEL } from './memory'
import { setTables } from './surface/albedo-tables'
import { readFull, setLinearTable } from './texture'

/** Where the scene at hand stands in the memory. */

export const MATERIAL_BYTES: usize = 1792

export let positions: usize = 0
export let normals: usize = 0
export let uvs: usize = 0
export let materialOf: usize = 0
export let uvDensity: usize = 0
export let materials: usize = 0
export let lampCount: i32 = 0
export let lamps: usize = 0
/** Whether there is one; a tree alone has no materials. */
export let hasScene = false

/**
 * A scene: positions · normals · uvs (f32) · material of each triangle (u16) · density of texture coordinates (f32) · materials · number of
 * lamps · lamps · table of the perfect mirror · of fuzz · decoding table of plain shares, u32 each.
 */
export function setScene(at: usize): void {
  positions = load<u32>(at)
  normals = load<u32>(at, 4)
  uvs = load<u32>(at, 8)
  materialOf = load<u32>(at, 12)
  uvDensity = load<u32>(at, 16)
  materials = load<u32>(at, 20)
  lampCount = load<i32>(at, 24)
  lamps = load<u32>(at, 28)
  setTables(load<u32>(at, 32), load<u32>(at, 36))
  setLinearTable(load<u32>(at, 40))
  hasScene = true
}

/** Whether a surface with holes is there at a place of it. */
export function passesAlpha(triangle: u32, u: f64, v: f64): bool {
  const material = materials + <usize>load<u16>(materialOf + ((<usize>triangle) << 1)) * MATERIAL_BYTES
  const texture = <usize>load<u32>(material, Material.OPACITY)
  if (texture == 0) return load<f64>(material, P.OPACITY) >= 0.5
  const uv = uvs + <usize>triangle * 24
  const w = 1 - u - v
  readFull(
    texture,
    <f64>load<f32>(uv) * w + <f64>load<f32>(uv, 8) * u + <f64>load<f32>(uv, 16) * v,
    <f64>load<f32>(uv, 4) * w + <f64>load<f32>(uv, 12) * u + <f64>load<f32>(uv, 20) * v,
  )
  return load<f64>(TEXEL + ((<usize>load<u32>(material, Material.OPACITY_CHANNEL)) << 3)) >= 0.5
}
