import type { Stage } from '../scene/scene'

/** Of what is in a room on average: light walls, a floor of timber or stone, furniture. */
const MEAN_REFLECTANCE = 0.5

/**
 * How much of the light outside there is within a stage, on average over its surfaces: 1 in the open, and of a room what comes through its
 * openings and goes about in it, as in an integrating sphere. For views that draw no shadows; what is traced needs none of it.
 */
export function daylightShare(stage: Stage): number {
  if (stage.kind !== 'room') return 1
  const { widthM: w, depthM: d, heightM: h, openings } = stage
  const whole = 2 * w * d + 2 * h * (w + d)
  const open = openings.reduce((sum, o) => {
    const along = o.wall === 'north' || o.wall === 'south' ? w : d
    const width = Math.max(0, Math.min(along, o.leftM + o.widthM) - o.leftM)
    return sum + width * Math.max(0, Math.min(h, o.sillM + o.heightM) - o.sillM)
  }, 0)
  const share = Math.min(1, open / whole)
  return share / (1 - MEAN_REFLECTANCE * (1 - share))
}
