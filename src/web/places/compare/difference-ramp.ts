import type { FloatImage } from '#core/image/image'

type Rgb = readonly [number, number, number]
/** From no difference to all: near-black, mica amber, white. Lightness rises all the way, so that it reads without colour too. */
const STOPS: readonly [number, Rgb][] = [
  [0, [20, 20, 20]],
  [0.25, [96, 66, 22]],
  [0.5, [200, 138, 44]],
  [1, [255, 255, 255]],
]

export function rampColor(value: number): Rgb {
  const v = Math.min(1, Math.max(0, value))
  const upper = Math.max(
    1,
    STOPS.findIndex(([at]) => v <= at),
  )
  const [a, from] = STOPS[upper - 1]
  const [b, to] = STOPS[upper]
  const t = (v - a) / (b - a)
  const mix = (k: number) => Math.round(from[k] + (to[k] - from[k]) * t)
  return [mix(0), mix(1), mix(2)]
}

export function drawDifference({ width, height, data }: FloatImage): ImageData {
  const out = new ImageData(width, height)
  for (let p = 0; p < width * height; p++) out.data.set([...rampColor(data[p]), 255], p * 4)
  return out
}

/** The ramp as a CSS gradient, for the legend. */
export const RAMP_GRADIENT = `linear-gradient(to right, ${STOPS.map(([at, c]) => `rgb(${c.join(' ')}) ${at * 100}%`).join(', ')})`
