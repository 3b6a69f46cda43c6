import sharp from 'sharp'
import { tileFbm, tileNoise } from './tile-noise'

/** A stand-alone map that the demo world's supplier of overlays sends. */
export interface MapRecipe {
  folder: string
  stem: string
  /** As the supplier states it; null for what has no size of its own. */
  widthMm: number | null
  width: number
  height: number
  channels: 1 | 3 | 4
  bits: 8 | 16
  /** Values 0..1 of each channel at a place, u to the right and v down, both 0..1. */
  paint: (u: number, v: number) => readonly number[]
}

const clamp = (v: number) => Math.min(1, Math.max(0, v))
/** 0 below a, 1 above b. */
const step = (a: number, b: number, v: number) => {
  const t = clamp((v - a) / (b - a))
  return t * t * (3 - 2 * t)
}
const mix = (a: readonly number[], b: readonly number[], t: number): number[] => a.map((v, k) => v + (b[k] - v) * t)

/** Distance to a round, a bar and an arrow head, in the unit of the square they stand in. */
const round = (x: number, y: number, r: number) => Math.hypot(x, y) - r
const bar = (x: number, y: number, w: number, h: number) => Math.max(Math.abs(x) - w, Math.abs(y) - h)
/** Points up. */
const arrow = (x: number, y: number) =>
  Math.min(bar(x, y - 0.22, 0.11, 0.48), Math.max((Math.abs(x) - 0.72 * (y + 0.78)) * 0.8, y + 0.1))

/** Signs for a car park, each in a square of its own: how deep inside a place is, and its colour. */
const SIGNS: readonly { inside: (x: number, y: number) => number; color: readonly number[] }[] = [
  { inside: (x, y) => -arrow(x, y), color: [0.93, 0.92, 0.86] },
  { inside: (x, y) => -arrow(y, -x), color: [0.93, 0.92, 0.86] },
  { inside: (x, y) => -Math.max(round(x, y, 0.72), -round(x, y, 0.52), -0.02 - Math.abs(x + y)), color: [0.86, 0.71, 0.16] },
  {
    inside: (x, y) =>
      -Math.min(
        Math.max(bar(x + 0.28, y, 0.11, 0.66), -2),
        Math.max(round(x - 0.02, y + 0.3, 0.38), -round(x - 0.02, y + 0.3, 0.17), -x - 0.3),
      ),
    color: [0.18, 0.36, 0.62],
  },
  {
    inside: (x, y) =>
      -Math.min(
        bar((x + y) * Math.SQRT1_2, (x - y) * Math.SQRT1_2, 0.1, 0.7),
        bar((x - y) * Math.SQRT1_2, (x + y) * Math.SQRT1_2, 0.1, 0.7),
      ),
    color: [0.72, 0.2, 0.16],
  },
  {
    inside: (x, y) => -Math.min(bar(x, y + 0.26, 0.7, 0.1), bar(x, y, 0.7, 0.1), bar(x, y - 0.26, 0.7, 0.1)),
    color: [0.93, 0.92, 0.86],
  },
]

/** Paint worn by wheels: black lies under what is clear, as careless files have it. */
function paintSigns(u: number, v: number): number[] {
  const [column, row] = [Math.min(2, Math.floor(u * 3)), Math.min(1, Math.floor(v * 2))]
  const { inside, color } = SIGNS[row * 3 + column]
  const depth = inside((u * 3 - column) * 2.4 - 1.2, (v * 2 - row) * 2.4 - 1.2)
  const worn = step(0.28, 0.36, tileFbm(31, u, v, 14, 10, 4))
  const alpha = step(0, 0.02, depth) * worn
  return alpha > 0.02 ? [...color, alpha] : [0, 0, 0, 0]
}

const SPLASHES: readonly (readonly [number, number, number, number])[] = [
  [0.2, 0.24, 0.11, 5],
  [0.54, 0.22, 0.15, 6],
  [0.84, 0.27, 0.08, 7],
  [0.24, 0.72, 0.15, 8],
  [0.7, 0.72, 0.19, 9],
]

function paintSplashes(u: number, v: number): number[] {
  let alpha = 0
  for (const [x, y, r, seed] of SPLASHES) {
    const [dx, dy] = [u - x, v - y]
    const angle = Math.atan2(dy, dx) / (2 * Math.PI) + 0.5
    const reach = r * (0.42 + 0.9 * tileFbm(seed, angle, 0.5, 17, 1, 2) ** 3)
    const away = Math.hypot(dx, dy)
    alpha = Math.max(alpha, 1 - step(reach * 0.94, reach, away))
    // Drops that flew off.
    const flown = tileNoise(seed + 40, u, v, 70, 70) - 0.62 - 0.3 * (away / r)
    if (away < r * 1.05) alpha = Math.max(alpha, step(0, 0.03, flown))
  }
  return [0.11, 0.1, 0.1, alpha]
}

const HILLS: readonly (readonly [number, number, readonly number[]])[] = [
  [0.52, 3, [0.58, 0.63, 0.6]],
  [0.64, 4, [0.34, 0.44, 0.42]],
  [0.78, 5, [0.17, 0.24, 0.25]],
]

function paintHills(u: number, v: number): number[] {
  let color = mix([0.93, 0.79, 0.6], [0.87, 0.57, 0.44], step(0, 0.6, v))
  if (Math.hypot((u - 0.68) * 1.5, v - 0.3) < 0.11) color = [0.96, 0.9, 0.76]
  for (const [at, cells, hill] of HILLS) if (v > at + 0.13 * (tileFbm(cells * 7, u, 0.5, cells, 1, 3) - 0.5)) color = [...hill]
  const grain = 0.05 * (tileNoise(77, u, v, 420, 300) - 0.5)
  return color.map(c => clamp(c + grain))
}

const OVERLAYS = 'Gullholm Overlays'
export const MAP_RECIPES: readonly MapRecipe[] = [
  {
    ...{ folder: `${OVERLAYS}/Wear`, stem: 'Smudges_Soft', widthMm: 600, width: 1024, height: 1024, channels: 1, bits: 8 },
    paint: (u, v) => {
      const swirl = tileFbm(3, u, v, 4, 4, 3)
      return [clamp(0.28 + 0.62 * tileFbm(11, u + 0.06 * swirl, v + 0.09 * swirl, 6, 5, 6) ** 1.6)]
    },
  },
  {
    ...{ folder: `${OVERLAYS}/Wear`, stem: 'Dust_Fine', widthMm: 300, width: 1024, height: 1024, channels: 1, bits: 8 },
    paint: (u, v) => [clamp(0.05 + 0.5 * tileFbm(21, u, v, 5, 5, 3) ** 3 + (tileNoise(22, u, v, 256, 256) > 0.93 ? 0.6 : 0))],
  },
  {
    ...{ folder: `${OVERLAYS}/Wear`, stem: 'Drips_Facade', widthMm: 2400, width: 1024, height: 1536, channels: 1, bits: 8 },
    paint: (u, v) => [clamp(step(0.35, 0.8, tileFbm(41, u, v, 40, 2, 4)) * (1 - 0.75 * v) + 0.1 * tileFbm(42, u, v, 8, 8, 3))],
  },
  {
    ...{ folder: `${OVERLAYS}/Masks`, stem: 'Flaked_Paint_Mask', widthMm: 900, width: 1024, height: 1024, channels: 1, bits: 8 },
    paint: (u, v) => [0.08 + 0.8 * step(0.5, 0.52, tileFbm(51, u, v, 7, 7, 5))],
  },
  {
    ...{
      folder: `${OVERLAYS}/Patterns`,
      stem: 'Perforation_Staggered',
      widthMm: 160,
      width: 1024,
      height: 1024,
      channels: 1,
      bits: 8,
    },
    paint: (u, v) => {
      const [row, y] = [Math.floor(v * 8), (v * 8) % 1]
      const x = (u * 8 + (row % 2) / 2) % 1
      return [step(0.3, 0.32, Math.hypot(x - 0.5, y - 0.5))]
    },
  },
  {
    ...{ folder: `${OVERLAYS}/Patterns`, stem: 'Wallpaper_Reed', widthMm: 530, width: 1024, height: 1024, channels: 3, bits: 8 },
    paint: (u, v) => {
      const x = Math.abs(((u * 6) % 1) - 0.5 - 0.16 * Math.sin(2 * Math.PI * v * 2 + Math.floor(u * 6)))
      const leaf = step(0.02, 0.05, x - 0.13 * Math.abs(Math.sin(2 * Math.PI * v * 4)))
      return mix([0.42, 0.53, 0.45], [0.9, 0.88, 0.8], leaf).map(c => clamp(c + 0.02 * (tileNoise(61, u, v, 300, 300) - 0.5)))
    },
  },
  {
    ...{ folder: `${OVERLAYS}/Decals`, stem: 'Car_Park_Signs', widthMm: null, width: 1536, height: 1024, channels: 4, bits: 8 },
    paint: paintSigns,
  },
  {
    ...{ folder: `${OVERLAYS}/Stamps`, stem: 'Splashes', widthMm: null, width: 1024, height: 1024, channels: 4, bits: 8 },
    paint: paintSplashes,
  },
  {
    ...{
      folder: `${OVERLAYS}/Gradients`,
      stem: 'Floor_Shade_Ramp',
      widthMm: null,
      width: 1024,
      height: 512,
      channels: 1,
      bits: 16,
    },
    paint: (u, v) => [step(0, 1, u) * (0.7 + 0.3 * (1 - v))],
  },
  {
    ...{
      folder: `${OVERLAYS}/Artwork`,
      stem: 'Artwork_Three_Hills',
      widthMm: 1200,
      width: 1200,
      height: 800,
      channels: 3,
      bits: 8,
    },
    paint: paintHills,
  },
]

/** As PNG at its own depth. */
export async function encodeMapRecipe({ width, height, channels, bits, paint }: MapRecipe): Promise<Buffer> {
  const top = bits === 16 ? 65535 : 255
  const data = bits === 16 ? new Uint16Array(width * height * channels) : new Uint8Array(width * height * channels)
  for (let y = 0, at = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (const value of paint((x + 0.5) / width, (y + 0.5) / height)) data[at++] = Math.round(value * top)
  const pixels = sharp(data, { raw: { width, height, channels } })
  return (bits === 16 ? pixels.toColourspace('grey16') : channels === 1 ? pixels.toColourspace('b-w') : pixels)
    .png({ compressionLevel: 6 })
    .toBuffer()
}
