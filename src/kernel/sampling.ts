import { FILTER } from './memory'

/** Points to sample by, as core/math/sobol.ts has them, and the pixel filter of core/render/film. */

// @ts-ignore: decorator
@inline
export function hash32(value: u32): u32 {
  let x = value
  x = (x ^ (x >> 16)) * 0x21f0aaad
  x = (x ^ (x >> 15)) * 0x735a2d97
  return x ^ (x >> 15)
}

// @ts-ignore: decorator
@inline
export function hashCombine(seed: u32, value: u32): u32 {
  return hash32(seed ^ (value * 0x9e3779b9 + 0x85ebca6b))
}

let drawSeed: u32 = 0
let dimension: u32 = 0

/** A sample of a pixel begins, of which each pair of dimensions has a seed of its own. */
export function beginDraws(seed: u32): void {
  drawSeed = seed
  dimension = 0
}

// @ts-ignore: decorator
@inline
export function pair(): u32 {
  return hashCombine(drawSeed, dimension++)
}

// @ts-ignore: decorator
@inline
function reverseBits(value: u32): u32 {
  let x = value
  x = ((x >> 1) & 0x55555555) | ((x & 0x55555555) << 1)
  x = ((x >> 2) & 0x33333333) | ((x & 0x33333333) << 2)
  x = ((x >> 4) & 0x0f0f0f0f) | ((x & 0x0f0f0f0f) << 4)
  x = ((x >> 8) & 0x00ff00ff) | ((x & 0x00ff00ff) << 8)
  return (x >> 16) | (x << 16)
}

// @ts-ignore: decorator
@inline
function permute(value: u32, seed: u32): u32 {
  let x = value
  x ^= x * 0x3d20adea
  x += seed
  x *= (seed >> 16) | 1
  x ^= x * 0x05526c56
  x ^= x * 0x53a22864
  return x
}

export const TO_UNIT: f64 = 1.0 / 4294967296.0

/** First coordinate of point `index` of the pair of dimensions chosen by `seed`. */
export function sobolX(index: u32, seed: u32): f64 {
  const shuffled = reverseBits(permute(reverseBits(index), seed))
  return <f64>reverseBits(permute(shuffled, hash32(seed ^ 0x68bc21eb))) * TO_UNIT
}

/** Both coordinates, written by `sobolPair`. */
export let pointX: f64 = 0
export let pointY: f64 = 0

export function sobolPair(index: u32, seed: u32): void {
  const shuffled = reverseBits(permute(reverseBits(index), seed))
  pointX = <f64>reverseBits(permute(shuffled, hash32(seed ^ 0x68bc21eb))) * TO_UNIT
  // The second dimension, its bits reversed: its matrix is Pascal's triangle modulo two, which comes apart into powers of two.
  let bits = shuffled
  bits ^= bits >> 16
  bits ^= (bits & 0xff00ff00) >> 8
  bits ^= (bits & 0xf0f0f0f0) >> 4
  bits ^= (bits & 0xcccccccc) >> 2
  bits ^= (bits & 0xaaaaaaaa) >> 1
  pointY = <f64>reverseBits(permute(bits, hash32(seed ^ 0x02e5be93))) * TO_UNIT
}

const FILTER_STEPS: f64 = 256

export function filterOffset(u: f64): f64 {
  const x = u * FILTER_STEPS
  const i = Math.min(FILTER_STEPS - 1, Math.floor(x))
  const at = FILTER + ((<usize>i) << 3)
  const low = load<f64>(at)
  return low + (load<f64>(at, 8) - low) * (x - i)
}

// @ts-ignore: decorator
@inline
function reverseFour(v: v128): v128 {
  let x = v
  x = v128.or(v128.and(i32x4.shr_u(x, 1), i32x4.splat(0x55555555)), i32x4.shl(v128.and(x, i32x4.splat(0x55555555)), 1))
  x = v128.or(v128.and(i32x4.shr_u(x, 2), i32x4.splat(0x33333333)), i32x4.shl(v128.and(x, i32x4.splat(0x33333333)), 2))
  x = v128.or(v128.and(i32x4.shr_u(x, 4), i32x4.splat(0x0f0f0f0f)), i32x4.shl(v128.and(x, i32x4.splat(0x0f0f0f0f)), 4))
  return v128.shuffle<u8>(x, x, 3, 2, 1, 0, 7, 6, 5, 4, 11, 10, 9, 8, 15, 14, 13, 12)
}

// @ts-ignore: decorator
@inline
function permuteFour(v: v128, seed: u32): v128 {
  let x = v
  x = v128.xor(x, i32x4.mul(x, i32x4.splat(0x3d20adea)))
  x = i32x4.add(x, i32x4.splat(seed))
  x = i32x4.mul(x, i32x4.splat((seed >> 16) | 1))
  x = v128.xor(x, i32x4.mul(x, i32x4.splat(0x05526c56)))
  return v128.xor(x, i32x4.mul(x, i32x4.splat(0x53a22864)))
}

/** Both coordinates of points `index` to `index` + 3, eight u32 of which 2³² would be 1, to `dst`. */
export function sobolFour(index: u32, seed: u32, dst: usize): void {
  const four = i32x4.add(i32x4.splat(index), i32x4(0, 1, 2, 3))
  const shuffled = reverseFour(permuteFour(reverseFour(four), seed))
  v128.store(dst, reverseFour(permuteFour(shuffled, hash32(seed ^ 0x68bc21eb))))
  let bits = shuffled
  bits = v128.xor(bits, i32x4.shr_u(bits, 16))
  bits = v128.xor(bits, i32x4.shr_u(v128.and(bits, i32x4.splat(0xff00ff00)), 8))
  bits = v128.xor(bits, i32x4.shr_u(v128.and(bits, i32x4.splat(0xf0f0f0f0)), 4))
  bits = v128.xor(bits, i32x4.shr_u(v128.and(bits, i32x4.splat(0xcccccccc)), 2))
  bits = v128.xor(bits, i32x4.shr_u(v128.and(bits, i32x4.splat(0xaaaaaaaa)), 1))
  v128.store(dst, reverseFour(permuteFour(bits, hash32(seed ^ 0x02e5be93))), 16)
}
