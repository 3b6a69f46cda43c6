import { describe, expect, it } from 'vitest'
import type { ByteImage } from '../../image/image'
import { halveBytes, lightTables } from '../../image/reduce'
import { createRandom } from '../../math/random'
import { KernelMemory } from './kernel-memory'

const memory = KernelMemory.open()
const put = (bytes: Uint8Array): number => {
  const at = memory.allocate(bytes.length)
  new Uint8Array(memory.buffer, at, bytes.length).set(bytes)
  return at
}
const { light, code } = lightTables()
const tables = { light: put(new Uint8Array(light.buffer)), code: put(code) }

function halveInKernel({ width, height, channels, data }: ByteImage, encoding: 'srgb' | 'linear'): Uint8Array {
  const from = put(data)
  const size = Math.max(1, width >> 1) * Math.max(1, height >> 1) * channels
  // What lies behind is another's.
  const to = put(new Uint8Array(size + 64).fill(77))
  const isInLight = encoding === 'srgb'
  memory.kernel.halve(from, width, height, channels, to, isInLight ? tables.light : 0, isInLight ? tables.code : 0)
  expect([...new Uint8Array(memory.buffer, to + size, 64)].every(byte => byte === 77)).toBe(true)
  return new Uint8Array(memory.buffer, to, size).slice()
}

describe('the kernel halves a picture', () => {
  const random = createRandom(3)
  const sides = [1, 2, 3, 15, 16, 17, 32, 33, 64, 130]

  it.each([1, 2, 3, 4] as const)('of %d channels to the byte as the plain way does, of any size', channels => {
    for (const width of sides)
      for (const height of sides)
        for (const encoding of ['srgb', 'linear'] as const) {
          const data = Uint8Array.from({ length: width * height * channels }, () => random.index(256))
          const image = { width, height, channels, data }
          expect(halveInKernel(image, encoding), `${width} x ${height} ${encoding}`).toEqual(halveBytes(image, encoding).data)
        }
  })
})
