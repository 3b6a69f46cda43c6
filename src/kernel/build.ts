/**
 * Builds the tree that traverse.ts walks: binary, by binned surface area heuristic (Wald 2007), over 32-byte records of the triangles'
 * boxes that are sorted as it goes; then drawn together to four children a node. core/render/scene/simd-caster.ts calls it and tells the rest.
 *
 * Record: min xyz f32, triangle u32 · max xyz f32, 0.
 * Binary node: min xyz f32, link u32 · max xyz f32, count u32. Inner: link is the left child, the right one follows, count 0. Leaf: link is
 * the first record. Whole numbers that share a vector with f32 carry TAG: as f32 they would be denormal, which a processor takes a hundred
 * times as long over.
 */

const TAG: u32 = 0x40000000
const UNTAG: u32 = 0x3fffffff

// @ts-ignore: decorator
@inline
const BINS: i32 = 16
// @ts-ignore: decorator
@inline
const MAX_LEAF: i32 = 4
/** Depth from which a node is halved by count instead, so that a traversal's stack has a bound. */
// @ts-ignore: decorator
@inline
const MAX_SAH_DEPTH: i32 = 60
// @ts-ignore: decorator
@inline
const NODE_BYTES: usize = 128
// @ts-ignore: decorator
@inline
const PACKET_BYTES: usize = 176

let positions: usize = 0
let flags: usize = 0
let records: usize = 0
let nodes: usize = 0
let scratch: usize = 0
let nodeCount: u32 = 0

// In the scratch: bins of three axes, 32 bytes each; their counts; areas left of a bin; then stacks.
const COUNTS: usize = 1536
const AREAS: usize = 1728
const STACK: usize = 2048

// @ts-ignore: decorator
@inline
function leafCost(triangles: i32): f32 {
  // A packet of up to four triangles costs about as much as two nodes of four boxes.
  return <f32>(((triangles + 3) >> 2) << 1)
}

// @ts-ignore: decorator
@inline
function halfArea(low: v128, high: v128): f32 {
  const d = f32x4.sub(high, low)
  const x = f32x4.extract_lane(d, 0)
  const y = f32x4.extract_lane(d, 1)
  const z = f32x4.extract_lane(d, 2)
  return x >= 0 ? x * y + y * z + z * x : 0
}

/** Coordinates of a corner, with what follows it in the fourth lane. The last triangle is followed by at least four bytes. */
// @ts-ignore: decorator
@inline
function corner(at: usize): v128 {
  return v128.load(at)
}

// What one node's measuring brings.
let low: v128 = f32x4.splat(0)
let high: v128 = f32x4.splat(0)
let centreLow: v128 = f32x4.splat(0)
let toBin: v128 = f32x4.splat(0)
let splitAxis: i32 = -1
let splitBin: i32 = 0

/** Bits of a triangle's flags: what a ray may pass at a hole of, what casts no shadow, and of that what tints light. */
const MASKED: u32 = 2
const CLEAR: u32 = 1
const TINTS: u32 = 4
/** Of a tree over placements, what stands for each of them in a node; 0 of a tree over triangles. */
let words: usize = 0
let firstTriangle: u32 = 0

/**
 * Header, u32: positions (9 f32 a triangle, then 16 bytes) · a byte of flags for each triangle · triangles · records · nodes (64 bytes a
 * record) · scratch (16,384 bytes) · 0 for all, 1 for what is not clear, 2 for what tints · what the first triangle is called · records that there is room
 * for, as many as triangles or more. Returns the bytes that the tree will take.
 *
 * With room for more records, triangles that lie aslant in a large box are cut, as far as their boxes go ("early split clipping", Ernst and
 * Greiner 2007): the walls of a stage would else lie in the way of every ray. On the stage of a material six packets a ray became two.
 */
export function buildTree(at: usize): usize {
  positions = load<u32>(at)
  flags = load<u32>(at, 4)
  const triangles = <i32>load<u32>(at, 8)
  takeRoom(at)
  const among = load<u32>(at, 24)
  firstTriangle = load<u32>(at, 28)
  words = 0
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
  return build(count, MAX_LEAF)
}

/**
 * A tree over placements. Header as that of `buildTree`, but that it begins with what stands for each placement in a node (u32), that
 * the records are there already, and that the second and the last two are not read.
 */
export function buildTop(at: usize): usize {
  words = load<u32>(at)
  takeRoom(at)
  return build(<i32>load<u32>(at, 8), 1)
}

// @ts-ignore: decorator
@inline
function isLeftOut(t: i32, among: u32): bool {
  if (among == 0) return false
  const own = load<u8>(flags + <usize>t)
  return among == 1 ? (own & CLEAR) != 0 : (own & TINTS) == 0
}

let triangleLow: v128 = f32x4.splat(0)
let triangleHigh: v128 = f32x4.splat(0)

/** The box of a triangle; and what of its surface the triangle does not fill. */
function measureTriangle(t: i32): f64 {
  const p = positions + <usize>t * 36
  const a = corner(p)
  const b = corner(p + 12)
  const c = corner(p + 24)
  triangleLow = f32x4.pmin(f32x4.pmin(a, b), c)
  triangleHigh = f32x4.pmax(f32x4.pmax(a, b), c)
  const u = f32x4.sub(b, a)
  const v = f32x4.sub(c, a)
  const uy = v128.shuffle<f32>(u, u, 1, 2, 0, 3)
  const vy = v128.shuffle<f32>(v, v, 1, 2, 0, 3)
  const n = f32x4.sub(f32x4.mul(u, vy), f32x4.mul(v, uy))
  const n2 = f32x4.mul(n, n)
  const area = f32x4.extract_lane(f32x4.sqrt(f32x4.add(f32x4.add(n2, v128.shuffle<f32>(n2, n2, 1, 1, 1, 1)), v128.shuffle<f32>(n2, n2, 2, 2, 2, 2))), 0)
  const empty = halfArea(triangleLow, triangleHigh) - area
  return empty > 0 ? <f64>empty : 0
}

// @ts-ignore: decorator
@inline
function putRecord(record: usize, t: i32, low: v128, high: v128): void {
  v128.store(record, i32x4.replace_lane(low, 3, t | <i32>TAG))
  v128.store(record, i32x4.replace_lane(high, 3, 0), 16)
}

const MOST_PIECES: i32 = 64
// In the scratch while records are made: a stack of boxes with their shares of the pieces, 32 bytes each; two polygons of f64.
const CUTS: usize = 2048
const POLYGON: usize = 8192
const CLIPPED: usize = 8704

/** Records of a triangle's parts, cut across the longest side of their boxes; how many there are. */
function cutTriangle(t: i32, pieces: i32, to: usize): i32 {
  const stack = scratch + CUTS
  let top = stack + 32
  v128.store(stack, triangleLow)
  v128.store(stack, triangleHigh, 16)
  store<i32>(stack, pieces, 12)
  let count = 0
  while (top > stack) {
    top -= 32
    const share = load<i32>(top, 12)
    let axis: usize = 0
    let longest: f32 = -1
    for (let c: usize = 0; c < 12; c += 4) {
      const side = load<f32>(top + c, 16) - load<f32>(top + c)
      if (side > longest) {
        longest = side
        axis = c
      }
    }
    const low = v128.load(top)
    const high = v128.load(top, 16)
    if (share == 1 || !(longest > 0)) {
      putRecord(to + ((<usize>count) << 5), t, low, high)
      count++
      continue
    }
    const middle = load<f32>(top + axis) + longest / 2
    const half = share >> 1
    // The lower part's limit, and then the upper part's.
    v128.store(top, low)
    v128.store(top, high, 16)
    store<f32>(top + axis, middle, 16)
    store<i32>(top, half, 12)
    if (fitsPart(t, top)) top += 32
    v128.store(top, low)
    v128.store(top, high, 16)
    store<f32>(top + axis, middle)
    store<i32>(top, share - half, 12)
    if (fitsPart(t, top)) top += 32
  }
  return count
}

/** Draws a box in to the part of a triangle that lies in it; false when none does. */
function fitsPart(t: i32, box: usize): bool {
  const p = positions + <usize>t * 36
  let from = scratch + POLYGON
  let to = scratch + CLIPPED
  let corners = 3
  for (let k: usize = 0; k < 9; k++) store<f64>(from + (k << 3), <f64>load<f32>(p + (k << 2)))
  for (let c: usize = 0; c < 3; c++)
    for (let end = 0; end < 2; end++) {
      const sign: f64 = end ? -1 : 1
      const limit = sign * <f64>load<f32>(box + (c << 2) + (end ? 16 : 0))
      let kept = 0
      for (let k = 0; k < corners; k++) {
        const a = from + <usize>k * 24
        const b = from + <usize>(k + 1 < corners ? k + 1 : 0) * 24
        const da = sign * load<f64>(a + (c << 3)) - limit
        const db = sign * load<f64>(b + (c << 3)) - limit
        if (da >= 0) {
          for (let i: usize = 0; i < 24; i += 8) store<f64>(to + <usize>kept * 24 + i, load<f64>(a + i))
          kept++
        }
        if (da >= 0 != db >= 0) {
          const share = da / (da - db)
          for (let i: usize = 0; i < 24; i += 8) {
            const at = load<f64>(a + i)
            store<f64>(to + <usize>kept * 24 + i, at + (load<f64>(b + i) - at) * share)
          }
          kept++
        }
      }
      const other = from
      from = to
      to = other
      corners = kept
    }
  if (corners == 0) return false
  for (let c: usize = 0; c < 3; c++) {
    let least = Infinity
    let most = -Infinity
    for (let k = 0; k < corners; k++) {
      const v = load<f64>(from + <usize>k * 24 + (c << 3))
      least = Math.min(least, v)
      most = Math.max(most, v)
    }
    // What rounding may have taken off.
    const slack = 1e-6 * Math.max(Math.abs(least), Math.abs(most))
    store<f32>(box + (c << 2), <f32>Math.max(<f64>load<f32>(box + (c << 2)), least - slack))
    store<f32>(box + (c << 2), <f32>Math.min(<f64>load<f32>(box + (c << 2), 16), most + slack), 16)
  }
  return true
}

function takeRoom(at: usize): void {
  records = load<u32>(at, 12)
  nodes = load<u32>(at, 16)
  scratch = load<u32>(at, 20)
}

function build(count: i32, maxLeaf: i32): usize {
  nodeCount = 0
  if (count == 0) return 0
  nodeCount = 1
  let top = scratch + STACK
  push(top, 0, 0, count, 0)
  top += 16
  while (top > scratch + STACK) {
    top -= 16
    const node = load<u32>(top)
    const begin = load<i32>(top, 4)
    const end = load<i32>(top, 8)
    const depth = load<i32>(top, 12)
    const size = end - begin
    measure(begin, end, size)
    const to = nodes + ((<usize>node) << 5)
    v128.store(to, low)
    v128.store(to, high, 16)
    let middle = -1
    if (size > 1 && depth < MAX_SAH_DEPTH) {
      const bins = size > 12 ? BINS : 8
      fill(begin, end, bins)
      chooseSplit(size > maxLeaf ? <f32>Infinity : leafCost(size), size, bins)
      if (splitAxis >= 0) middle = partition(begin, end, bins)
    }
    if (middle < 0) {
      if (size <= maxLeaf) {
        setLinks(to, <u32>begin, <u32>size)
        continue
      }
      // All centres in one place: any halving is as good as another.
      middle = (begin + end) >> 1
    }
    const left = nodeCount
    nodeCount += 2
    setLinks(to, left, 0)
    push(top, left + 1, middle, end, depth + 1)
    push(top + 16, left, begin, middle, depth + 1)
    top += 32
  }
  return drawTogether(0, 0)
}

// @ts-ignore: decorator
@inline
function setLinks(node: usize, link: u32, count: u32): void {
  store<u32>(node, link | TAG, 12)
  store<u32>(node, count | TAG, 28)
}

// @ts-ignore: decorator
@inline
function linkOf(node: usize): u32 {
  return load<u32>(node, 12) & UNTAG
}

/** Of a leaf its triangles, of an inner node 0. */
// @ts-ignore: decorator
@inline
function countOf(node: usize): u32 {
  return load<u32>(node, 28) & UNTAG
}

// @ts-ignore: decorator
@inline
function push(top: usize, node: u32, begin: i32, end: i32, depth: i32): void {
  store<u32>(top, node)
  store<i32>(top, begin, 4)
  store<i32>(top, end, 8)
  store<i32>(top, depth, 12)
}

// @ts-ignore: decorator
@inline
function centreOf(record: usize): v128 {
  return f32x4.mul(f32x4.add(v128.load(record), v128.load(record, 16)), f32x4.splat(0.5))
}

/** Box of the records, and of their centres. */
function measure(begin: i32, end: i32, size: i32): void {
  low = f32x4.splat(<f32>Infinity)
  high = f32x4.splat(-<f32>Infinity)
  centreLow = low
  let centreHigh = high
  const last = records + ((<usize>end) << 5)
  for (let record = records + ((<usize>begin) << 5); record < last; record += 32) {
    low = f32x4.pmin(low, v128.load(record))
    high = f32x4.pmax(high, v128.load(record, 16))
    const centre = centreOf(record)
    centreLow = f32x4.pmin(centreLow, centre)
    centreHigh = f32x4.pmax(centreHigh, centre)
  }
  const extent = f32x4.sub(centreHigh, centreLow)
  const bins: f32 = size > 12 ? <f32>BINS : 8
  toBin = v128.and(f32x4.div(f32x4.splat(bins), extent), f32x4.gt(extent, f32x4.splat(0)))
}

/** Which bins of the three axes a centre falls into. */
// @ts-ignore: decorator
@inline
function binsOf(record: usize, bins: i32): v128 {
  const place = i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.sub(centreOf(record), centreLow), toBin))
  return i32x4.min_s(i32x4.max_s(place, i32x4.splat(0)), i32x4.splat(bins - 1))
}

// @ts-ignore: decorator
@inline
function growBin(bin: usize, min: v128, max: v128): void {
  v128.store(bin, f32x4.pmin(v128.load(bin), min))
  v128.store(bin, f32x4.pmax(v128.load(bin, 16), max), 16)
}

// @ts-ignore: decorator
@inline
function countUp(bin: i32): void {
  const at = scratch + ((<usize>bin) << 2)
  store<i32>(at, load<i32>(at, COUNTS) + 1, COUNTS)
}

function fill(begin: i32, end: i32, bins: i32): void {
  const empty = f32x4.splat(<f32>Infinity)
  const full = f32x4.splat(-<f32>Infinity)
  for (let axis = 0; axis < 3; axis++)
    for (let b = 0; b < bins; b++) {
      const bin = scratch + ((<usize>(axis * BINS + b)) << 5)
      v128.store(bin, empty)
      v128.store(bin, full, 16)
      store<i32>(scratch + ((<usize>(axis * BINS + b)) << 2), 0, COUNTS)
    }
  const last = records + ((<usize>end) << 5)
  for (let record = records + ((<usize>begin) << 5); record < last; record += 32) {
    const min = v128.load(record)
    const max = v128.load(record, 16)
    const place = binsOf(record, bins)
    const x = i32x4.extract_lane(place, 0)
    const y = BINS + i32x4.extract_lane(place, 1)
    const z = 2 * BINS + i32x4.extract_lane(place, 2)
    growBin(scratch + ((<usize>x) << 5), min, max)
    growBin(scratch + ((<usize>y) << 5), min, max)
    growBin(scratch + ((<usize>z) << 5), min, max)
    countUp(x)
    countUp(y)
    countUp(z)
  }
}

/** The cheapest split that costs less than `limit`; none where a leaf is cheaper. */
function chooseSplit(limit: f32, size: i32, bins: i32): void {
  const whole = max<f32>(halfArea(low, high), 1e-30)
  let best = limit
  splitAxis = -1
  for (let axis = 0; axis < 3; axis++) {
    const scale = axis == 0 ? f32x4.extract_lane(toBin, 0) : axis == 1 ? f32x4.extract_lane(toBin, 1) : f32x4.extract_lane(toBin, 2)
    if (scale == 0) continue
    const first = scratch + ((<usize>(axis * BINS)) << 5)
    const counts = scratch + ((<usize>(axis * BINS)) << 2) + COUNTS
    let a = f32x4.splat(<f32>Infinity)
    let b = f32x4.splat(-<f32>Infinity)
    for (let bin = 0; bin < bins; bin++) {
      const at = first + ((<usize>bin) << 5)
      a = f32x4.pmin(a, v128.load(at))
      b = f32x4.pmax(b, v128.load(at, 16))
      store<f32>(scratch + ((<usize>bin) << 2), halfArea(a, b), AREAS)
    }
    a = f32x4.splat(<f32>Infinity)
    b = f32x4.splat(-<f32>Infinity)
    let right = 0
    for (let bin = bins - 1; bin > 0; bin--) {
      const at = first + ((<usize>bin) << 5)
      a = f32x4.pmin(a, v128.load(at))
      b = f32x4.pmax(b, v128.load(at, 16))
      right += load<i32>(counts + ((<usize>bin) << 2))
      const left = size - right
      if (right == 0 || left == 0) continue
      const area = load<f32>(scratch + ((<usize>(bin - 1)) << 2), AREAS)
      const cost: f32 = 1 + (area * leafCost(left) + halfArea(a, b) * leafCost(right)) / whole
      if (cost < best) {
        best = cost
        splitAxis = axis
        splitBin = bin
      }
    }
  }
}

/** Puts what lies in bins below the chosen one first; the record where the rest begins. */
function partition(begin: i32, end: i32, bins: i32): i32 {
  let i = records + ((<usize>begin) << 5)
  let j = records + ((<usize>(end - 1)) << 5)
  while (i <= j) {
    const place = binsOf(i, bins)
    const bin =
      splitAxis == 0 ? i32x4.extract_lane(place, 0) : splitAxis == 1 ? i32x4.extract_lane(place, 1) : i32x4.extract_lane(place, 2)
    if (bin < splitBin) i += 32
    else {
      const min = v128.load(i)
      const max = v128.load(i, 16)
      v128.store(i, v128.load(j))
      v128.store(i, v128.load(j, 16), 16)
      v128.store(j, min)
      v128.store(j, max, 16)
      j -= 32
    }
  }
  return <i32>((i - records) >> 5)
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
