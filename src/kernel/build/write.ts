import { countOf, firstTriangle, flags, halfArea, linkOf, MASKED, nodes, positions, records, scratch, STACK, words } from './room'
import { nodeCount } from './tree'

/** The tree of four that is walked, drawn from the binary one. */

// @ts-ignore: decorator
@inline
const NODE_BYTES: usize = 128
// @ts-ignore: decorator
@inline
const PACKET_BYTES: usize = 176

/** What the tree of four will take. */
export function bytesOfTree(): usize {
  return nodeCount == 0 ? 0 : drawTogether(0, 0)
}

/** Writes the tree of four to `to`, with addresses as if it stood `shift` bytes before that. Its root, as a node has it for a child. */
export function writeTree(to: usize, shift: usize): usize {
  if (nodeCount == 0) return 0
  if (words && countOf(nodes) > 0) return wordOf(nodes)
  drawTogether(to, shift)
  return to - shift + (countOf(nodes) > 0 ? 1 : 0)
}

/** What stands in a node for the placement of a leaf. */
function wordOf(leaf: usize): u32 {
  return load<u32>(words + ((<usize>linkOf(records + ((<usize>linkOf(leaf)) << 5))) << 2))
}

/** Draws grandchildren up, largest box first, until a node has four children. Counts bytes alone where `to` is 0. */
function drawTogether(to: usize, shift: usize): usize {
  const stack = scratch + STACK
  let end: usize = to
  if (countOf(nodes) > 0) {
    if (words) return 0
    if (to) writePacket(end, nodes)
    return PACKET_BYTES
  }
  let top = stack + 8
  store<u32>(stack, 0)
  store<u32>(stack, <u32>end, 4)
  end += NODE_BYTES
  while (top > stack) {
    top -= 8
    const inner = nodes + ((<usize>load<u32>(top)) << 5)
    const at = <usize>load<u32>(top, 4)
    const members = scratch
    let count = 2
    const left = linkOf(inner)
    store<u32>(members, left)
    store<u32>(members, left + 1, 4)
    while (count < 4) {
      let largest = -1
      let area: f32 = -1
      for (let k = 0; k < count; k++) {
        const member = nodes + ((<usize>load<u32>(members + ((<usize>k) << 2))) << 5)
        if (countOf(member) > 0) continue
        const own = halfArea(v128.load(member), v128.load(member, 16))
        if (largest < 0 || own > area) {
          largest = k
          area = own
        }
      }
      if (largest < 0) break
      const slot = members + ((<usize>largest) << 2)
      const first = linkOf(nodes + ((<usize>load<u32>(slot)) << 5))
      store<u32>(slot, first)
      store<u32>(members + ((<usize>count) << 2), first + 1)
      count++
    }
    for (let k = 0; k < 4; k++) {
      const lane = at + ((<usize>k) << 2)
      if (k >= count) {
        if (to)
          for (let c: usize = 0; c < 48; c += 16) {
            store<f32>(lane + c, <f32>Infinity)
            store<f32>(lane + c, -<f32>Infinity, 48)
          }
        if (to) store<u32>(lane, 0, 96)
        continue
      }
      const index = load<u32>(members + ((<usize>k) << 2))
      const member = nodes + ((<usize>index) << 5)
      const isLeaf = countOf(member) > 0
      if (to) {
        for (let c: usize = 0; c < 3; c++) {
          store<f32>(lane + (c << 4), load<f32>(member + (c << 2)))
          store<f32>(lane + (c << 4), load<f32>(member + (c << 2), 16), 48)
        }
        if (isLeaf && words) store<u32>(lane, wordOf(member), 96)
        else {
          store<u32>(lane, <u32>(end - shift) + (isLeaf ? 1 : 0), 96)
          if (isLeaf) writePacket(end, member)
        }
      }
      if (isLeaf) end += words ? 0 : PACKET_BYTES
      else {
        store<u32>(top, index)
        store<u32>(top, <u32>end, 4)
        top += 8
        end += NODE_BYTES
      }
    }
  }
  return end - to
}

function writePacket(at: usize, leaf: usize): void {
  const first = linkOf(leaf)
  const count = <i32>countOf(leaf)
  for (let k = 0; k < 4; k++) {
    const lane = at + ((<usize>k) << 2)
    if (k >= count) {
      for (let c: usize = 0; c < 176; c += 16) store<f32>(lane + c, 0)
      store<f32>(lane, <f32>NaN, 144)
      continue
    }
    const triangle = linkOf(records + ((<usize>(first + k)) << 5))
    const p = positions + <usize>triangle * 36
    let size: f64 = 0
    for (let c: usize = 0; c < 3; c++) {
      const from = <f64>load<f32>(p + (c << 2))
      const e1 = <f64>load<f32>(p + (c << 2), 12) - from
      const e2 = <f64>load<f32>(p + (c << 2), 24) - from
      store<f32>(lane + (c << 4), <f32>from)
      store<f32>(lane + (c << 4), <f32>e1, 48)
      store<f32>(lane + (c << 4), <f32>e2, 96)
      size += Math.abs(e1) + Math.abs(e2)
    }
    store<f32>(lane, <f32>size, 144)
    const isMasked = (load<u8>(flags + <usize>triangle) & MASKED) != 0
    store<u32>(lane, (firstTriangle + triangle) | (isMasked ? 0x80000000 : 0), 160)
  }
}
