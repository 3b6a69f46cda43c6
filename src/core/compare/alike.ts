import { deltaE00 } from '../color/difference'
import { linearToOklab } from '../color/oklab'
import type { Vec3 } from '../math/vec3'

/** OKLab distance past which no pair is within a ΔE00 of `limit`: a generous bound, tested against it, that saves most of the work. */
const farthestFor = (limit: number): number => 0.02 + 0.025 * limit

/**
 * For each colour the others that lie within `limit` ΔE00 of it, nearest first.
 * @param colors linear Rec.709; null for what has none, which is like nothing
 */
export function findAlike(colors: readonly (Vec3 | null)[], limit: number): { index: number; deltaE: number }[][] {
  const labs = colors.map(c => c && linearToOklab(...c))
  const alike: { index: number; deltaE: number }[][] = colors.map(() => [])
  const farthest = farthestFor(limit)
  for (let i = 0; i < colors.length; i++)
    for (let j = i + 1; j < colors.length; j++) {
      const a = labs[i]
      const b = labs[j]
      if (!a || !b || Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]) > farthest) continue
      const deltaE = deltaE00(colors[i]!, colors[j]!)
      if (deltaE > limit) continue
      alike[i].push({ index: j, deltaE })
      alike[j].push({ index: i, deltaE })
    }
  for (const list of alike) list.sort((a, b) => a.deltaE - b.deltaE)
  return alike
}

/** Chroma in OKLab under which a colour has no hue to speak of. */
const GREY_CHROMA = 0.02

export interface ColorPlace {
  /** OKLab lightness, 0..1. */
  lightness: number
  /** Degrees in 0..360; null for a grey. */
  hueDeg: number | null
}

export function placeColor(linear: Vec3): ColorPlace {
  const [lightness, a, b] = linearToOklab(...linear)
  const hue = (Math.atan2(b, a) * 180) / Math.PI
  return { lightness, hueDeg: Math.hypot(a, b) < GREY_CHROMA ? null : (hue + 360) % 360 }
}
