import { halfArea, nodes, records, scratch, setLinks, STACK } from './room'

/** The binary tree over the records. */

// @ts-ignore: decorator
@inline
const BINS: i32 = 16
/** Depth from which a node is halved by count instead, so that a traversal's stack has a bound. */
// @ts-ignore: decorator
@inline
const MAX_SAH_DEPTH: i32 = 60
export let nodeCount: u32 = 0
// In the scratch: bins of three axes, 32 bytes each; their counts; areas left of a bin; then stacks.
const COUNTS: usize = 1536
const AREAS: usize = 1728

// @ts-ignore: decorator
@inline
function leafCost(triangles: i32): f32 {
  // A packet of up to four triangles costs about as much as two nodes of four boxes.
  return <f32>(((triangles + 3) >> 2) << 1)
}

// What one node's measuring brings.
export let low: v128 = f32x4.splat(0)
export let high: v128 = f32x4.splat(0)
let centreLow: v128 = f32x4.splat(0)
let toBin: v128 = f32x4.splat(0)
let splitAxis: i32 = -1
let splitBin: i32 = 0

/** A binary tree over so many records, sorted as it goes. */
export function build(count: i32, maxLeaf: i32): void {
  nodeCount = 0
  if (count == 0) return
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
