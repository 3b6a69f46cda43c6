import { ciede2000, linearToLab, MOST_LIGHTNESS_WEIGHT } from '../../color/ciede2000'
import type { Vec3 } from '../../math/vec3'

/** Colours of an item that are looked at. */
const MOST_COLORS = 6
/** L*, a*, b* and the share of the area. */
const STRIDE = 4
/** Of a surface this much has to be in the colour: less is a speck. */
const LEAST_SHARE = 0.04
/** C*ab under which a colour has no hue to speak of. */
const GREY_CHROMA = 5

export interface SeenColor {
  /** Linear Rec.709. */
  color: Vec3
  /** Of the area, 0..1. */
  share: number
}

/** Palettes by slot, the largest share first. */
export class ColorColumn {
  private entries = new Float32Array(0)

  put(slot: number, palette: readonly SeenColor[]): void {
    const at = slot * MOST_COLORS * STRIDE
    if (at >= this.entries.length) {
      const grown = new Float32Array(Math.max(1024, 2 ** Math.ceil(Math.log2(slot + 1))) * MOST_COLORS * STRIDE)
      grown.set(this.entries)
      this.entries = grown
    }
    this.entries.fill(0, at, at + MOST_COLORS * STRIDE)
    palette.slice(0, MOST_COLORS).forEach(({ color, share }, k) => {
      this.entries.set([...linearToLab(...color), share], at + k * STRIDE)
    })
  }

  /**
   * How much of each slot is within `tolerance` ΔE00 of a colour: its share of the area, less for what is farther off (half at the limit).
   * 0 where hardly anything is.
   */
  score(color: Vec3, tolerance: number, size: number): Float32Array {
    const [l, a, b] = linearToLab(...color)
    const scores = new Float32Array(size)
    const farthest = tolerance * MOST_LIGHTNESS_WEIGHT
    const { entries } = this
    for (let slot = 0; slot < size; slot++) {
      let [area, score] = [0, 0]
      const first = slot * MOST_COLORS * STRIDE
      for (let at = first; at < first + MOST_COLORS * STRIDE && entries[at + 3] > 0; at += STRIDE) {
        if (Math.abs(entries[at] - l) > farthest) continue
        const difference = ciede2000(l, a, b, entries[at], entries[at + 1], entries[at + 2])
        if (difference > tolerance) continue
        area += entries[at + 3]
        score += entries[at + 3] * (1 - (0.5 * difference) / tolerance)
      }
      if (area >= LEAST_SHARE) scores[slot] = score
    }
    return scores
  }

  /**
   * How near a slot comes to a colour: the least ΔE00 of its colours, and the share of its area within `tolerance`. Null where it has none.
   */
  nearness(slot: number, color: Vec3, tolerance: number): { deltaE: number; share: number } | null {
    const [l, a, b] = linearToLab(...color)
    let [nearest, area] = [Number.POSITIVE_INFINITY, 0]
    const first = slot * MOST_COLORS * STRIDE
    for (let at = first; at < first + MOST_COLORS * STRIDE && this.entries[at + 3] > 0; at += STRIDE) {
      const difference = ciede2000(l, a, b, this.entries[at], this.entries[at + 1], this.entries[at + 2])
      if (difference < nearest) nearest = difference
      if (difference <= tolerance) area += this.entries[at + 3]
    }
    return nearest < Number.POSITIVE_INFINITY ? { deltaE: nearest, share: Math.min(1, area) } : null
  }

  /** A slot's largest colour in CIELAB; null where there is none. */
  largestOf(slot: number): [l: number, a: number, b: number] | null {
    const [l, a, b, share] = this.entries.subarray(slot * MOST_COLORS * STRIDE, slot * MOST_COLORS * STRIDE + STRIDE)
    return share > 0 ? [l, a, b] : null
  }

  /** Hue of a slot's largest colour in CIELAB, degrees in 0..360; greys after all hues, by lightness; NaN where there is no colour. */
  hueOf(slot: number): number {
    const largest = this.largestOf(slot)
    if (!largest) return Number.NaN
    const [l, a, b] = largest
    return Math.hypot(a, b) < GREY_CHROMA ? 460 - l : (Math.atan2(b, a) * (180 / Math.PI) + 360) % 360
  }
}
