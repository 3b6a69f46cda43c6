/** Where what a tree is built from, and the tree itself, lie; and how records and nodes are read. */

export const TAG: u32 = 0x40000000
const UNTAG: u32 = 0x3fffffff

export let positions: usize = 0
export let flags: usize = 0
export let records: usize = 0
export let nodes: usize = 0
export let scratch: usize = 0

/** In the scratch, behind the bins of tree.ts: stacks. */
export const STACK: usize = 2048

// @ts-ignore: decorator
@inline
export function halfArea(low: v128, high: v128): f32 {
  const d = f32x4.sub(high, low)
  const x = f32x4.extract_lane(d, 0)
  const y = f32x4.extract_lane(d, 1)
  const z = f32x4.extract_lane(d, 2)
  return x >= 0 ? x * y + y * z + z * x : 0
}

/** Coordinates of a corner, with what follows it in the fourth lane. The last triangle is followed by at least four bytes. */
// @ts-ignore: decorator
@inline
export function corner(at: usize): v128 {
  return v128.load(at)
}

/** Bits of a triangle's flags: what a ray may pass at a hole of, what casts no shadow, and of that what tints light. */
export const MASKED: u32 = 2
export const CLEAR: u32 = 1
export const TINTS: u32 = 4
/** Of a tree over placements, what stands for each of them in a node; 0 of a tree over triangles. */
export let words: usize = 0
export let firstTriangle: u32 = 0

/** What a header of triangles names. */
export function takeTriangles(at: usize): void {
  positions = load<u32>(at)
  flags = load<u32>(at, 4)
  firstTriangle = load<u32>(at, 28)
  words = 0
  takeRoom(at)
}

/** What a header of placements names. */
export function takePlacements(at: usize): void {
  words = load<u32>(at)
  takeRoom(at)
}

function takeRoom(at: usize): void {
  records = load<u32>(at, 12)
  nodes = load<u32>(at, 16)
  scratch = load<u32>(at, 20)
}

// @ts-ignore: decorator
@inline
export function setLinks(node: usize, link: u32, count: u32): void {
  store<u32>(node, link | TAG, 12)
  store<u32>(node, count | TAG, 28)
}

// @ts-ignore: decorator
@inline
export function linkOf(node: usize): u32 {
  return load<u32>(node, 12) & UNTAG
}

/** Of a leaf its triangles, of an inner node 0. */
// @ts-ignore: decorator
@inline
export function countOf(node: usize): u32 {
  return load<u32>(node, 28) & UNTAG
}
