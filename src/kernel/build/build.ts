import { cutTriangle, measureTriangle, MOST_PIECES, putRecord, triangleHigh, triangleLow } from './cut'
import { CLEAR, flags, records, takePlacements, takeTriangles, TINTS } from './room'
import { build } from './tree'
import { bytesOfTree } from './write'

/**
 * Builds the tree that ../traverse.ts walks: binary, by binned surface area heuristic (Wald 2007), over 32-byte records of the triangles'
 * boxes that are sorted as it goes; then drawn together to four children a node. core/render/scene/simd-caster.ts calls it and tells the rest.
 *
 * Record: min xyz f32, triangle u32 · max xyz f32, 0.
 * Binary node: min xyz f32, link u32 · max xyz f32, count u32. Inner: link is the left child, the right one follows, count 0. Leaf: link is
 * the first record. Whole numbers that share a vector with f32 carry TAG: as f32 they would be denormal, which a processor takes a hundred
 * times as long over.
 */

// @ts-ignore: decorator
@inline
const MAX_LEAF: i32 = 4

/**
 * Header, u32: positions (9 f32 a triangle, then 16 bytes) · a byte of flags for each triangle · triangles · records · nodes (64 bytes a
 * record) · scratch (16,384 bytes) · 0 for all, 1 for what is not clear, 2 for what tints · what the first triangle is called · records that there is room
 * for, as many as triangles or more. Returns the bytes that the tree will take.
 *
 * With room for more records, triangles that lie aslant in a large box are cut, as far as their boxes go ("early split clipping", Ernst and
 * Greiner 2007): the walls of a stage would else lie in the way of every ray. On the stage of a material six packets a ray became two.
 */
export function buildTree(at: usize): usize {
  takeTriangles(at)
  const triangles = <i32>load<u32>(at, 8)
  const among = load<u32>(at, 24)
  const room = <i32>load<u32>(at, 32)
  let kept = 0
  let excess: f64 = 0
  for (let t = 0; t < triangles; t++) {
    if (isLeftOut(t, among)) continue
    kept++
    excess += measureTriangle(t)
  }
  // What of its box a triangle leaves empty decides into how many it is cut.
  const share: f64 = excess > 0 && isFinite(excess) ? <f64>(room - kept) / excess : 0
  let count = 0
  for (let t = 0; t < triangles; t++) {
    if (isLeftOut(t, among)) continue
    const pieces = min<i32>(MOST_PIECES, 1 + <i32>Math.min(<f64>MOST_PIECES, measureTriangle(t) * share))
    const to = records + ((<usize>count) << 5)
    if (pieces > 1) count += cutTriangle(t, pieces, to)
    else {
      putRecord(to, t, triangleLow, triangleHigh)
      count++
    }
  }
  build(count, MAX_LEAF)
  return bytesOfTree()
}

/**
 * A tree over placements. Header as that of `buildTree`, but that it begins with what stands for each placement in a node (u32), that
 * the records are there already, and that the second and the last two are not read.
 */
export function buildTop(at: usize): usize {
  takePlacements(at)
  build(<i32>load<u32>(at, 8), 1)
  return bytesOfTree()
}

// @ts-ignore: decorator
@inline
function isLeftOut(t: i32, among: u32): bool {
  if (among == 0) return false
  const own = load<u8>(flags + <usize>t)
  return among == 1 ? (own & CLEAR) != 0 : (own & TINTS) == 0
}
