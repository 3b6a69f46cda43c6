import { toDegrees } from '../../math/angles'
import { dot, normalize, type Vec3 } from '../../math/vec3'
import { columnAzimuth, directionOf, rowElevation, rowSolidAngle } from '../sphere'
import type { MapRow, RowGauge } from './row-gauge'

/** Where a map is flat at its own maximum: what a sensor or a format cut off. */
export interface Plateau {
  pixels: number
  elevationDeg: number
  /** Steradians. */
  solidAngle: number
  /** Diameter of the disc of its solid angle. */
  diameterDeg: number
  /** Length of the mean of its directions, 1 when they are all one: how much it is one compact spot. */
  concentration: number
  /** Mean luminance at twice its radius from its middle, over its own: near 1 where the light merely levels out. */
  surround: number
  /** Its luminance in the map's own units. */
  luminance: number
}

/** Luminances are sorted into bins of 0.034 %; what lies in the peak's bin or the one below is as bright as the peak. */
const BINS_PER_STOP = 2048
const SAME_BINS = 1

interface Bin {
  pixels: number
  solidAngle: number
  sum: Vec3
}

/** Gathers the brightest pixels while the peak is still unknown: whatever falls behind a brighter one is dropped. */
export class PlateauGauge implements RowGauge {
  private readonly bins = new Map<number, Bin>()
  private peak = 0
  private peakBin = Number.NEGATIVE_INFINITY
  private threshold = 0

  constructor(
    private readonly width: number,
    private readonly height: number,
  ) {}

  add({ y, solidAngle, light, peak }: MapRow): void {
    if (peak < this.threshold) return
    for (let x = 0; x < light.length; x++) {
      const v = light[x]
      if (v < this.threshold || v <= 0) continue
      const index = Math.floor(Math.log2(v) * BINS_PER_STOP)
      if (v > this.peak) this.raise(v, index)
      if (index < this.peakBin - SAME_BINS) continue
      const bin = this.bins.get(index) ?? { pixels: 0, solidAngle: 0, sum: [0, 0, 0] }
      this.bins.set(index, bin)
      const d = directionOf(columnAzimuth(x, this.width), rowElevation(y, this.height))
      for (let c = 0; c < 3; c++) bin.sum[c] += d[c] * solidAngle
      bin.pixels++
      bin.solidAngle += solidAngle
    }
  }

  private raise(peak: number, index: number): void {
    this.peak = peak
    this.threshold = peak * 2 ** (-(SAME_BINS + 1) / BINS_PER_STOP)
    if (index === this.peakBin) return
    this.peakBin = index
    for (const other of this.bins.keys()) if (other < index - SAME_BINS) this.bins.delete(other)
  }

  /** Null on a black map. */
  measure(): (Omit<Plateau, 'surround'> & { middle: Vec3; radiusRad: number }) | null {
    if (!(this.peak > 0)) return null
    const sum: Vec3 = [0, 0, 0]
    let omega = 0
    let pixels = 0
    for (const bin of this.bins.values()) {
      for (let c = 0; c < 3; c++) sum[c] += bin.sum[c]
      omega += bin.solidAngle
      pixels += bin.pixels
    }
    const middle = normalize(sum)
    const radiusRad = Math.acos(Math.max(-1, 1 - omega / (2 * Math.PI)))
    return {
      pixels,
      elevationDeg: toDegrees(Math.asin(Math.max(-1, Math.min(1, middle[1])))),
      solidAngle: omega,
      diameterDeg: toDegrees(2 * radiusRad),
      concentration: Math.hypot(...sum) / omega,
      luminance: this.peak,
      middle,
      radiusRad,
    }
  }
}

/** Mean luminance of a reduced map from 1.6 to 2.5 radii about a direction, a ring as wide as a few of its pixels at least. */
export function measureRing(light: Float32Array, width: number, height: number, middle: Vec3, radiusRad: number): number {
  const reach = Math.max(radiusRad, (1.5 * Math.PI) / height)
  const [near, far] = [Math.cos(Math.min(Math.PI, reach * 2.5)), Math.cos(Math.min(Math.PI, reach * 1.6))]
  let ring = 0
  let omega = 0
  for (let j = 0, p = 0; j < height; j++) {
    const dOmega = rowSolidAngle(j, width, height)
    const elevation = rowElevation(j, height)
    for (let i = 0; i < width; i++, p++) {
      const cosine = dot(directionOf(columnAzimuth(i, width), elevation), middle)
      if (cosine < near || cosine > far) continue
      ring += light[p] * dOmega
      omega += dOmega
    }
  }
  return omega > 0 ? ring / omega : 0
}
