import { hash32 } from './random'

/**
 * Owen-scrambled Sobol points, two dimensions at a time, padded by reshuffling the index
 * (Burley, "Practical Hash-based Owen Scrambling", JCGT 9(4), 2020).
 */

/** Second Sobol dimension as a map of bytes: entry 256 k + b is the point's bits due to byte k of the index being b. */
const BITS_Y = (() => {
  // Primitive polynomial x + 1, all initial direction numbers 1.
  const directions = new Uint32Array(32)
  directions[0] = 0x80000000
  for (let i = 1; i < 32; i++) directions[i] = (directions[i - 1] ^ (directions[i - 1] >>> 1)) >>> 0
  const table = new Int32Array(4 * 256)
  for (let k = 0; k < 4; k++)
    for (let byte = 0; byte < 256; byte++)
      for (let bit = 0; bit < 8; bit++) if ((byte >> bit) & 1) table[k * 256 + byte] ^= directions[k * 8 + bit]
  return table
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

const TO_UNIT = 1 / 4294967296

/** First coordinate in [0, 1) of point `index` of the pair of dimensions chosen by `seed`. */
export function sobolX(index: number, seed: number): number {
  // The first dimension is the index with its bits reversed, so that one reversal of the shuffled index falls away.
  const shuffled = reverseBits(permute(reverseBits(index), seed))
  return (reverseBits(permute(shuffled, hash32(seed ^ 0x68bc21eb))) >>> 0) * TO_UNIT
}

/** Second coordinate in [0, 1) of point `index` of the pair of dimensions chosen by `seed`. */
export function sobolY(index: number, seed: number): number {
  const shuffled = reverseBits(permute(reverseBits(index), seed))
  const bits =
    BITS_Y[shuffled & 255] ^
    BITS_Y[256 + ((shuffled >>> 8) & 255)] ^
    BITS_Y[512 + ((shuffled >>> 16) & 255)] ^
    BITS_Y[768 + (shuffled >>> 24)]
  return (reverseBits(permute(reverseBits(bits), hash32(seed ^ 0x02e5be93))) >>> 0) * TO_UNIT
}
