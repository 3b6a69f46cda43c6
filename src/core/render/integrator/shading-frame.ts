/**
 * The frame in which a surface scatters: normal, and tangents along +u and against +v of its texture. World space, written in place.
 */
export class ShadingFrame {
  readonly tangent = new Float64Array(3)
  readonly bitangent = new Float64Array(3)
  readonly normal = new Float64Array(3)
  private mirrored = 1

  /** Normal plus tangents along +u and +v of the texture; any tangents where there are no coordinates. */
  build(
    uvs: Float32Array,
    t: number,
    nx: number,
    ny: number,
    nz: number,
    e1x: number,
    e1y: number,
    e1z: number,
    e2x: number,
    e2y: number,
    e2z: number,
  ): void {
    const q = t * 6
    const du1 = uvs[q + 2] - uvs[q]
    const dv1 = uvs[q + 3] - uvs[q + 1]
    const du2 = uvs[q + 4] - uvs[q]
    const dv2 = uvs[q + 5] - uvs[q + 1]
    const det = du1 * dv2 - du2 * dv1
    let tx: number
    let ty: number
    let tz: number
    if (Math.abs(det) > 1e-20) {
      const sign = det < 0 ? -1 : 1
      tx = (e1x * dv2 - e2x * dv1) * sign
      ty = (e1y * dv2 - e2y * dv1) * sign
      tz = (e1z * dv2 - e2z * dv1) * sign
    } else if (Math.abs(nx) > 0.7) {
      tx = 0
      ty = 1
      tz = 0
    } else {
      tx = 1
      ty = 0
      tz = 0
    }
    const d = tx * nx + ty * ny + tz * nz
    tx -= d * nx
    ty -= d * ny
    tz -= d * nz
    let l = Math.sqrt(tx * tx + ty * ty + tz * tz)
    if (!(l > 1e-12)) {
      tx = Math.abs(nx) > 0.7 ? -ny : 0
      ty = Math.abs(nx) > 0.7 ? nx : nz
      tz = Math.abs(nx) > 0.7 ? 0 : -ny
      l = Math.sqrt(tx * tx + ty * ty + tz * tz)
    }
    const { tangent, bitangent, normal } = this
    tangent[0] = tx / l
    tangent[1] = ty / l
    tangent[2] = tz / l
    // v runs down the image, so "up" in a normal map is against it, whatever the winding.
    const alongV = det < 0 ? -1 : 1
    const vx = (e2x * du1 - e1x * du2) * alongV
    const vy = (e2y * du1 - e1y * du2) * alongV
    const vz = (e2z * du1 - e1z * du2) * alongV
    const turned =
      (ny * tangent[2] - nz * tangent[1]) * vx +
      (nz * tangent[0] - nx * tangent[2]) * vy +
      (nx * tangent[1] - ny * tangent[0]) * vz
    const mirrored = turned > 0 ? -1 : 1
    bitangent[0] = (ny * tangent[2] - nz * tangent[1]) * mirrored
    bitangent[1] = (nz * tangent[0] - nx * tangent[2]) * mirrored
    bitangent[2] = (nx * tangent[1] - ny * tangent[0]) * mirrored
    normal[0] = nx
    normal[1] = ny
    normal[2] = nz
    this.mirrored = mirrored
  }

  /** Turns the frame so that its normal is (mx, my, mz) of the old one. */
  bend(mx: number, my: number, mz: number): void {
    const { tangent, bitangent, normal } = this
    const l = 1 / Math.sqrt(mx * mx + my * my + mz * mz)
    this.setNormal(
      (tangent[0] * mx + bitangent[0] * my + normal[0] * mz) * l,
      (tangent[1] * mx + bitangent[1] * my + normal[1] * mz) * l,
      (tangent[2] * mx + bitangent[2] * my + normal[2] * mz) * l,
    )
  }

  /** Turns the tangents about the normal, anticlockwise. */
  turn(angleRad: number): void {
    const { tangent, bitangent } = this
    const c = Math.cos(angleRad)
    const s = Math.sin(angleRad)
    for (let k = 0; k < 3; k++) {
      const t = tangent[k]
      tangent[k] = t * c + bitangent[k] * s
      bitangent[k] = bitangent[k] * c - t * s
    }
  }

  /** Falls back towards the smooth normal just enough that the viewer is on its front side. */
  leanTowards(vx: number, vy: number, vz: number, facing: number, nx: number, ny: number, nz: number): void {
    const { normal } = this
    const smooth = (nx * vx + ny * vy + nz * vz) * facing
    let hx = smooth > 0.02 ? nx : normal[0]
    let hy = smooth > 0.02 ? ny : normal[1]
    let hz = smooth > 0.02 ? nz : normal[2]
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
    this.setNormal(hx, hy, hz)
  }

  private setNormal(nx: number, ny: number, nz: number): void {
    const { tangent, bitangent, normal, mirrored } = this
    const d = tangent[0] * nx + tangent[1] * ny + tangent[2] * nz
    let tx = tangent[0] - d * nx
    let ty = tangent[1] - d * ny
    let tz = tangent[2] - d * nz
    const l = Math.sqrt(tx * tx + ty * ty + tz * tz)
    if (l > 1e-6) {
      tx /= l
      ty /= l
      tz /= l
    }
    tangent[0] = tx
    tangent[1] = ty
    tangent[2] = tz
    bitangent[0] = (ny * tz - nz * ty) * mirrored
    bitangent[1] = (nz * tx - nx * tz) * mirrored
    bitangent[2] = (nx * ty - ny * tx) * mirrored
    normal[0] = nx
    normal[1] = ny
    normal[2] = nz
  }
}
