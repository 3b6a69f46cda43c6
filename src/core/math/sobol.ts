import { hash32 } from './random'

/**
 * Owen-scrambled Sobol points, two dimensions at a time, padded by reshuffling the index
 * (Burley, "Practical Hash-based Owen Scrambling", JCGT 9(4), 2020).
 */

const DIRECTIONS_Y = (() => {
  // Second Sobol dimension: primitive polynomial x + 1, all initial direction numbers 1.
  const v = new Uint32Array(32)
  v[0] = 0x80000000
  for (let i = 1; i < 32; i++) v[i] = (v[i - 1] ^ (v[i - 1] >>> 1)) >>> 0
  return v
})()

function reverseBits(value: number): number {
  let x = value
  x = ((x >>> 1) & 0x55555555) | ((x & 0x55555555) << 1)
  x = ((x >>> 2) & 0x33333333) | ((x & 0x33333333) << 2)
  x = ((x >>> 4) & 0x0f0f0f0f) | ((x & 0x0f0f0f0f) << 4)
  x = ((x >>> 8) & 0x00ff00ff) | ((x & 0x00ff00ff) << 8)
  return (x >>> 16) | (x << 16)
}

/** Laine–Karras permutation with Vegdahl's constants: scrambles bits upwards only. */
function permute(value: number, seed: number): number {
  let x = value
  x ^= Math.imul(x, 0x3d20adea)
  x = (x + seed) | 0
  x = Math.imul(x, (seed >>> 16) | 1)
  x ^= Math.imul(x, 0x05526c56)
  x ^= Math.imul(x, 0x53a22864)
  return x
}

const scramble = (value: number, seed: number): number => reverseBits(permute(reverseBits(value), seed))

const TO_UNIT = 1 / 4294967296

/** First coordinate in [0, 1) of point `index` of the pair of dimensions chosen by `seed`. */
export function sobolX(index: number, seed: number): number {
  const shuffled = scramble(index, seed)
  return (scramble(reverseBits(shuffled), hash32(seed ^ 0x68bc21eb)) >>> 0) * TO_UNIT
}

/** Second coordinate in [0, 1) of point `index` of the pair of dimensions chosen by `seed`. */
export function sobolY(index: number, seed: number): number {
  let rest = scramble(index, seed)
  let bits = 0
  for (let i = 0; rest !== 0; i++, rest >>>= 1) if (rest & 1) bits ^= DIRECTIONS_Y[i]
  return (scramble(bits, hash32(seed ^ 0x02e5be93)) >>> 0) * TO_UNIT
}
