/** The frame in which a surface scatters, as core/render/integrator/shading-frame.ts has it. */

export let tx: f64 = 0
export let ty: f64 = 0
export let tz: f64 = 0
export let bx: f64 = 0
export let by: f64 = 0
export let bz: f64 = 0
export let nx: f64 = 0
export let ny: f64 = 0
export let nz: f64 = 0
let mirrored: f64 = 1

/** @param uv six f32 of the triangle's corners */
export function buildFrame(
  uv: usize,
  mx: f64,
  my: f64,
  mz: f64,
  e1x: f64,
  e1y: f64,
  e1z: f64,
  e2x: f64,
  e2y: f64,
  e2z: f64,
): void {
  const u0 = <f64>load<f32>(uv)
  const v0 = <f64>load<f32>(uv, 4)
  const du1 = <f64>load<f32>(uv, 8) - u0
  const dv1 = <f64>load<f32>(uv, 12) - v0
  const du2 = <f64>load<f32>(uv, 16) - u0
  const dv2 = <f64>load<f32>(uv, 20) - v0
  const det = du1 * dv2 - du2 * dv1
  let x: f64
  let y: f64
  let z: f64
  if (Math.abs(det) > 1e-20) {
    const sign: f64 = det < 0 ? -1 : 1
    x = (e1x * dv2 - e2x * dv1) * sign
    y = (e1y * dv2 - e2y * dv1) * sign
    z = (e1z * dv2 - e2z * dv1) * sign
  } else {
    x = Math.abs(mx) > 0.7 ? 0 : 1
    y = 1 - x
    z = 0
  }
  const d = x * mx + y * my + z * mz
  x -= d * mx
  y -= d * my
  z -= d * mz
  let l = Math.sqrt(x * x + y * y + z * z)
  if (!(l > 1e-12)) {
    x = Math.abs(mx) > 0.7 ? -my : 0
    y = Math.abs(mx) > 0.7 ? mx : mz
    z = Math.abs(mx) > 0.7 ? 0 : -my
    l = Math.sqrt(x * x + y * y + z * z)
  }
  tx = x / l
  ty = y / l
  tz = z / l
  const alongV: f64 = det < 0 ? -1 : 1
  const vx = (e2x * du1 - e1x * du2) * alongV
  const vy = (e2y * du1 - e1y * du2) * alongV
  const vz = (e2z * du1 - e1z * du2) * alongV
  const cx = my * tz - mz * ty
  const cy = mz * tx - mx * tz
  const cz = mx * ty - my * tx
  mirrored = cx * vx + cy * vy + cz * vz > 0 ? -1 : 1
  bx = cx * mirrored
  by = cy * mirrored
  bz = cz * mirrored
  nx = mx
  ny = my
  nz = mz
}

export function bend(mx: f64, my: f64, mz: f64): void {
  const l = 1 / Math.sqrt(mx * mx + my * my + mz * mz)
  setNormal((tx * mx + bx * my + nx * mz) * l, (ty * mx + by * my + ny * mz) * l, (tz * mx + bz * my + nz * mz) * l)
}

export function turn(angle: f64): void {
  const c = Math.cos(angle)
  const s = Math.sin(angle)
  const ox = tx
  const oy = ty
  const oz = tz
  tx = ox * c + bx * s
  ty = oy * c + by * s
  tz = oz * c + bz * s
  bx = bx * c - ox * s
  by = by * c - oy * s
  bz = bz * c - oz * s
}

export function leanTowards(vx: f64, vy: f64, vz: f64, facing: f64, sx: f64, sy: f64, sz: f64): void {
  const smooth = (sx * vx + sy * vy + sz * vz) * facing
  let hx = smooth > 0.02 ? sx : nx
  let hy = smooth > 0.02 ? sy : ny
  let hz = smooth > 0.02 ? sz : nz
  const c = (hx * vx + hy * vy + hz * vz) * facing
  if (c < 0.02) {
    const push = (0.03 - c) * facing
    hx += vx * push
    hy += vy * push
    hz += vz * push
    const l = 1 / Math.sqrt(hx * hx + hy * hy + hz * hz)
    hx *= l
    hy *= l
    hz *= l
  }
  setNormal(hx, hy, hz)
}

function setNormal(mx: f64, my: f64, mz: f64): void {
  const d = tx * mx + ty * my + tz * mz
  let x = tx - d * mx
  let y = ty - d * my
  let z = tz - d * mz
  const l = Math.sqrt(x * x + y * y + z * z)
  if (l > 1e-6) {
    x /= l
    y /= l
    z /= l
  }
  tx = x
  ty = y
  tz = z
  bx = (my * z - mz * y) * mirrored
  by = (mz * x - mx * z) * mirrored
  bz = (mx * y - my * x) * mirrored
  nx = mx
  ny = my
  nz = mz
}
