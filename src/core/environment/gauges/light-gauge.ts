import { LogHistogram } from '../../math/statistics'
import type { Vec3 } from '../../math/vec3'
import { sumRow } from '../irradiance'
import { rowElevation } from '../sphere'
import type { MapRow, RowGauge } from './row-gauge'

/** Luminance over the sphere, and what a horizontal card receives. */
export class LightGauge implements RowGauge {
  readonly histogram = new LogHistogram()
  /** Irradiance on an upward-facing card, linear RGB: Σ L max(sin θ, 0) dω. */
  readonly irradiance: Vec3 = [0, 0, 0]
  peak = 0

  constructor(private readonly height: number) {}

  add({ y, solidAngle, rgb, light, peak }: MapRow): void {
    this.histogram.addAll(light, solidAngle)
    if (peak > this.peak) this.peak = peak
    const sine = Math.sin(rowElevation(y, this.height))
    if (sine <= 0) return
    const sum = sumRow(rgb)
    for (let c = 0; c < 3; c++) this.irradiance[c] += sum[c] * sine * solidAngle
  }
}
