import { hashCombine } from '../../math/random'

/** 0..1, the same for the same whole numbers. */
export const cellValue = (x: number, y: number, seed: number): number =>
  hashCombine(hashCombine(seed + 1, x | 0), y | 0) / 2 ** 32
const fade = (t: number): number => t * t * t * (t * (t * 6 - 15) + 10)

/** About −1..1. Source: K. Perlin, "Improving Noise", SIGGRAPH 2002. */
export function gradientNoise(x: number, y: number, seed: number): number {
  const [x0, y0] = [Math.floor(x), Math.floor(y)]
  const [fx, fy] = [x - x0, y - y0]
  const corner = (i: number, j: number) => {
    const turn = cellValue(x0 + i, y0 + j, seed + 17) * 2 * Math.PI
    return Math.cos(turn) * (fx - i) + Math.sin(turn) * (fy - j)
  }
  const [sx, sy] = [fade(fx), fade(fy)]
  const below = corner(0, 0) * (1 - sx) + corner(1, 0) * sx
  const above = corner(0, 1) * (1 - sx) + corner(1, 1) * sx
  return (below * (1 - sy) + above * sy) * Math.SQRT2
}

export function fractalNoise(x: number, y: number, seed: number, octaves: number, lacunarity: number, diminish: number): number {
  let [sum, strength, scale] = [0, 1, 1]
  for (let i = 0; i < octaves; i++) {
    sum += gradientNoise(x * scale, y * scale, seed + i * 31) * strength
    strength *= diminish
    scale *= lacunarity
  }
  return sum
}
