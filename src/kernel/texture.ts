import { TEXEL } from './memory'

/**
 * 8-bit pictures with their mip levels, read as core/render/scene/texture.ts reads them.
 * A texture: top level u32 · repeats u32 · decoding table (256 f64) u32 · channels u32 · longer side f64 · levels: address, width, height u32 · 4 unused.
 */

const TABLE: usize = 8
const CHANNELS: usize = 12
const SIZE: usize = 16
const LEVELS: usize = 24
/** The table by which alpha is decoded: plain shares of 255. */
export let linearTable: usize = 0

export function setLinearTable(address: usize): void {
  linearTable = address
}

// @ts-ignore: decorator
@inline
export function sizeOf(texture: usize): f64 {
  return load<f64>(texture, SIZE)
}

/** The address of the level for a footprint, in repeats. */
export function lookUp(texture: usize, u: f64, v: f64, footprint: f64): void {
  const top = <i32>load<u32>(texture)
  let index = 0
  if (footprint > 0) {
    const size = load<f64>(texture, SIZE) * footprint
    // Half a level more is a factor of the square root of two.
    while (index < top && size >= levelLimit(index)) index++
  }
  readLevel(texture, index, u, v)
}

/** Where level i + 1 is nearer than level i: 2^(i + 0.5). */
// @ts-ignore: decorator
@inline
function levelLimit(index: i32): f64 {
  return <f64>(1 << index) * 1.4142135623730951
}

/** Full size, as a hole is decided by. */
export function readFull(texture: usize, u: f64, v: f64): void {
  readLevel(texture, 0, u, v)
}

function readLevel(texture: usize, index: i32, u: f64, v: f64): void {
  const repeats = load<u32>(texture, 4) != 0
  const table = <usize>load<u32>(texture, TABLE)
  const channels = load<u32>(texture, CHANNELS)
  const level = texture + LEVELS + ((<usize>index) << 4)
  const data = <usize>load<u32>(level)
  const width = <i32>load<u32>(level, 4)
  const height = <i32>load<u32>(level, 8)
  const x = (repeats ? u - Math.floor(u) : Math.min(Math.max(u, 0), 1)) * <f64>width - 0.5
  const y = (repeats ? v - Math.floor(v) : Math.min(Math.max(v, 0), 1)) * <f64>height - 0.5
  const xf = Math.floor(x)
  const yf = Math.floor(y)
  const fx = x - xf
  const fy = y - yf
  const xi = <i32>xf
  const yi = <i32>yf
  const x0 = xi >= 0 ? xi : repeats ? width - 1 : 0
  const x1 = xi + 1 < width ? xi + 1 : repeats ? 0 : width - 1
  const y0 = yi >= 0 ? yi : repeats ? height - 1 : 0
  const y1 = yi + 1 < height ? yi + 1 : repeats ? 0 : height - 1
  const a = data + <usize>(y0 * width + x0) * channels
  const b = data + <usize>(y0 * width + x1) * channels
  const c = data + <usize>(y1 * width + x0) * channels
  const d = data + <usize>(y1 * width + x1) * channels
  const wa = (1 - fx) * (1 - fy)
  const wb = fx * (1 - fy)
  const wc = (1 - fx) * fy
  const wd = fx * fy
  const red = blend(table, a, b, c, d, wa, wb, wc, wd)
  store<f64>(TEXEL, red)
  if (channels >= 3) {
    store<f64>(TEXEL, blend(table, a + 1, b + 1, c + 1, d + 1, wa, wb, wc, wd), 8)
    store<f64>(TEXEL, blend(table, a + 2, b + 2, c + 2, d + 2, wa, wb, wc, wd), 16)
  } else {
    store<f64>(TEXEL, red, 8)
    store<f64>(TEXEL, red, 16)
  }
  const k: usize = channels - 1
  store<f64>(TEXEL, channels == 4 || channels == 2 ? blend(linearTable, a + k, b + k, c + k, d + k, wa, wb, wc, wd) : 1, 24)
}

// @ts-ignore: decorator
@inline
function blend(table: usize, a: usize, b: usize, c: usize, d: usize, wa: f64, wb: f64, wc: f64, wd: f64): f64 {
  return (
    load<f64>(table + ((<usize>load<u8>(a)) << 3)) * wa +
    load<f64>(table + ((<usize>load<u8>(b)) << 3)) * wb +
    load<f64>(table + ((<usize>load<u8>(c)) << 3)) * wc +
    load<f64>(table + ((<usize>load<u8>(d)) << 3)) * wd
  )
}
