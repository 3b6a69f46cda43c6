/** Marks of slots, a byte each, worked on four at a time: several times as fast as one by one, which a view of 50,000 items is felt by. */

const LANES = 0x01010101
const LOW = 0x7f7f7f7f

/** 1 in each byte of four that is 0. Source: Warren, "Hacker's Delight", 2nd ed., section 6-1. */
const zerosOf = (four: number): number => (~(((four & LOW) + LOW) | four) >>> 7) & LANES

const fourAtATime = ({ buffer, byteOffset, length }: Uint8Array): Uint32Array => new Uint32Array(buffer, byteOffset, length >> 2)

/** Adds 1 wherever a slot does not pass. */
export function addFailures(failures: Uint8Array, passes: Uint8Array): void {
  const [to, from] = [fourAtATime(failures), fourAtATime(passes)]
  for (let k = 0; k < to.length; k++) to[k] += zerosOf(from[k])
  for (let slot = to.length * 4; slot < failures.length; slot++) failures[slot] += failsAt(passes, slot)
}

/** 1 for what is seen and fails nothing, and how many those are. */
export function markFound(seen: Uint8Array, failures: Uint8Array): { marks: Uint8Array; total: number } {
  const marks = new Uint8Array(seen.length)
  const [to, see, fail] = [marks, seen, failures].map(fourAtATime)
  let total = 0
  for (let k = 0; k < to.length; k++) {
    const four = see[k] & zerosOf(fail[k])
    to[k] = four
    total += Math.imul(four, LANES) >>> 24
  }
  for (let slot = to.length * 4; slot < seen.length; slot++) {
    marks[slot] = seen[slot] & failsAt(failures, slot)
    total += marks[slot]
  }
  return { marks, total }
}

/** 1 where a slot has a 0. Without a branch: what passes is in no order that could be foreseen. */
export const failsAt = (passes: Uint8Array, slot: number): number => (passes[slot] - 1) >>> 31
