import { describe, expect, it } from 'vitest'
import type { Image } from '../image/image'
import { packMaps, unpackMaps } from './pack-maps'

const grey = (values: number[], deep = false): Image => ({
  width: values.length,
  height: 1,
  channels: 1,
  data: deep ? Uint16Array.from(values) : Uint8Array.from(values),
})

describe('packed maps', () => {
  it('hold occlusion in red, roughness in green, metalness in blue, and give them back', () => {
    const maps = { ambientOcclusion: grey([255, 128]), roughness: grey([10, 200]), metalness: grey([0, 255]) }
    const packed = packMaps(maps)
    expect([...packed.data]).toEqual([255, 10, 0, 128, 200, 255])
    expect(Object.fromEntries(unpackMaps(packed).map(({ role, image }) => [role, image]))).toEqual(maps)
  })

  it('what is not there is lit, dull and no metal', () => {
    expect([...packMaps({ roughness: grey([77]) }).data]).toEqual([255, 77, 0])
    expect([...packMaps({ metalness: grey([77]) }).data]).toEqual([255, 255, 77])
  })

  it('are as deep as the deepest of them', () => {
    const { data } = packMaps({ ambientOcclusion: grey([128]), roughness: grey([40_000], true) })
    expect(data).toBeInstanceOf(Uint16Array)
    expect([...data]).toEqual([128 * 257, 40_000, 0])
  })

  it('of different sizes, or none, are refused', () => {
    expect(() => packMaps({ roughness: grey([1]), metalness: grey([1, 2]) })).toThrow('2 x 1 beside 1 x 1')
    expect(() => packMaps({})).toThrow(RangeError)
  })
})
