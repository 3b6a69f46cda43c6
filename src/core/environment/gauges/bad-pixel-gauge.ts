import { luminance } from '../../color/srgb'
import type { MapRow, RowGauge } from './row-gauge'

/** As many places are remembered, for the picture of the finding. */
const MOST_PLACES = 4096

/** Negative, infinite and not-a-number pixels. */
export class BadPixelGauge implements RowGauge {
  negative = 0
  notFinite = 0
  /** Light below nothing: luminance times solid angle of the negative parts. */
  negativeFlux = 0
  /** Some of their places. */
  readonly places: { x: number; y: number }[] = []

  add({ y, raw, rgb, solidAngle }: MapRow): void {
    if (raw === rgb) return
    for (let i = 0, x = 0; i < raw.length; i += 3, x++) {
      if (raw[i] === rgb[i] && raw[i + 1] === rgb[i + 1] && raw[i + 2] === rgb[i + 2]) continue
      if (raw[i] + raw[i + 1] + raw[i + 2] < Number.POSITIVE_INFINITY && isSmall(raw, i)) {
        this.negative++
        this.negativeFlux -= luminance(Math.min(raw[i], 0), Math.min(raw[i + 1], 0), Math.min(raw[i + 2], 0)) * solidAngle
      } else this.notFinite++
      if (this.places.length < MOST_PLACES) this.places.push({ x, y })
    }
  }
}

/** Past this no light is; a half float cannot say it and a float only when something went wrong. */
export const TOO_BRIGHT = 1e30

const isSmall = (raw: Float32Array, i: number): boolean =>
  raw[i] < TOO_BRIGHT && raw[i + 1] < TOO_BRIGHT && raw[i + 2] < TOO_BRIGHT && raw[i] + raw[i + 1] + raw[i + 2] > -TOO_BRIGHT
