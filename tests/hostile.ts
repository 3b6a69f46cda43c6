import { expect } from 'vitest'
import { FileError } from '../src/core/findings/failure'
import { createRandom, type Random } from '../src/core/math/random'

export const SEED = 4711
export const SLOWEST_MS = 10_000
/** A file of a hundred kilobytes may not grow into more than this. */
const MOST_GROWTH_BYTES = 1.2 * 1024 ** 3

/** Cut short, bytes changed, runs overwritten, blocks doubled or left out, lengths blown up. */
export function spoil(bytes: Uint8Array, random: Random): Uint8Array {
  const kind = random.index(6)
  const copy = bytes.slice()
  const at = random.index(bytes.length)
  switch (kind) {
    case 0:
      return copy.subarray(0, at)
    case 1:
      for (let k = 0; k < 1 + random.index(20); k++) copy[random.index(copy.length)] = random.index(256)
      return copy
    case 2:
      copy.fill(random.index(2) * 255, at, Math.min(copy.length, at + 1 + random.index(64)))
      return copy
    case 3: {
      const block = copy.subarray(at, at + 1 + random.index(200))
      return Uint8Array.from([...copy.subarray(0, at), ...block, ...copy.subarray(at)])
    }
    case 4:
      return Uint8Array.from([...copy.subarray(0, at), ...copy.subarray(at + 1 + random.index(64))])
    default: {
      // A count near the head, where formats keep sizes, becomes huge.
      const head = random.index(Math.min(copy.length - 4, 200))
      new DataView(copy.buffer).setUint32(head, [0xffffffff, 0x7fffffff, 0x10000000, 0][random.index(4)], random.next() < 0.5)
      return copy
    }
  }
}

/**
 * Many spoilt copies of a file through a decoder: each gives what it holds or a FileError that says what is wrong. Anything else, a hang, or
 * memory out of proportion fails.
 */
export async function attack(
  name: string,
  whole: Uint8Array,
  times: number,
  decode: (bytes: Uint8Array) => unknown,
): Promise<void> {
  const random = createRandom(SEED)
  let failures = 0
  for (let k = 0; k < times; k++) {
    const bytes = spoil(whole, random)
    const before = process.memoryUsage()
    const started = performance.now()
    try {
      await decode(bytes)
    } catch (error) {
      failures++
      if (!(error instanceof FileError)) throw new Error(`${name}, case ${k}: ${error instanceof Error ? error.stack : error}`)
      expect(error.message.length).toBeGreaterThan(10)
      expect(error.message).not.toMatch(/undefined|\bat \w+ \(|Error:/)
    }
    expect(performance.now() - started, `${name}, case ${k}`).toBeLessThan(SLOWEST_MS)
    const after = process.memoryUsage()
    const growth = after.heapUsed + after.arrayBuffers - before.heapUsed - before.arrayBuffers
    expect(growth, `${name}, case ${k}`).toBeLessThan(MOST_GROWTH_BYTES)
  }
  // Damage of this kind mostly shows.
  expect(failures).toBeGreaterThan(times * 0.1)
}
