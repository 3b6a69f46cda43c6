import { describe, expect, it } from 'vitest'
import { writeDds } from '../../../tests/formats/pictures'
import { BC7_TABLES } from './bc7'
import { decodeBlocks } from './block-compression'
import { readDds } from './dds'

/** Puts values into bits, the lowest of each first. */
function packBits(fields: readonly [value: number, bits: number][]): Uint8Array {
  const out = new Uint8Array(16)
  let at = 0
  for (const [value, bits] of fields) for (let i = 0; i < bits; i++, at++) out[at >> 3] |= ((value >> i) & 1) << (at & 7)
  return out
}

describe('block compression', () => {
  it('bc1: two colours, two between them; with the first the smaller, one between them and a hole', () => {
    // 0xf800 is red, 0x001f is blue; the indices of the first row are 0, 1, 2, 3.
    const whole = decodeBlocks('bc1', Uint8Array.from([0x00, 0xf8, 0x1f, 0x00, 0b11100100, 0, 0, 0]), 4, 4)
    expect(whole.channels).toBe(3)
    expect([...whole.data.subarray(0, 12)]).toEqual([255, 0, 0, 0, 0, 255, 170, 0, 85, 85, 0, 170])
    const holed = decodeBlocks('bc1', Uint8Array.from([0x1f, 0x00, 0x00, 0xf8, 0b11100100, 0, 0, 0]), 4, 4)
    expect(holed.channels).toBe(4)
    expect([...holed.data.subarray(8, 16)]).toEqual([128, 0, 128, 255, 0, 0, 0, 0])
  })

  it('bc2 and bc3: alpha of four bits, and between two values', () => {
    const color = [0x00, 0xf8, 0x1f, 0x00, 0, 0, 0, 0]
    const four = decodeBlocks('bc2', Uint8Array.from([0xf0, 0x80, 0, 0, 0, 0, 0, 0, ...color]), 4, 4)
    expect([3, 7, 11, 15].map(i => four.data[i])).toEqual([0, 255, 0, 136])
    // Indices 0 to 7 of three bits: 0b111110101100011010001000.
    const between = decodeBlocks('bc3', Uint8Array.from([210, 0, 0x88, 0xc6, 0xfa, 0, 0, 0, ...color]), 4, 4)
    expect(Array.from({ length: 8 }, (_, i) => between.data[i * 4 + 3])).toEqual([210, 0, 180, 150, 120, 90, 60, 30])
    const ends = decodeBlocks('bc3', Uint8Array.from([0, 250, 0x88, 0xc6, 0xfa, 0, 0, 0, ...color]), 4, 4)
    expect(Array.from({ length: 8 }, (_, i) => ends.data[i * 4 + 3])).toEqual([0, 250, 50, 100, 150, 200, 0, 255])
  })

  it('bc4 and bc5: one channel, and two with the third of a normal', () => {
    const half = [128, 128, 0, 0, 0, 0, 0, 0]
    expect(decodeBlocks('bc4', Uint8Array.from(half), 4, 4)).toMatchObject({ channels: 1, data: new Uint8Array(16).fill(128) })
    const flat = decodeBlocks('bc5', Uint8Array.from([...half, ...half]), 4, 4)
    expect([...flat.data.subarray(0, 3)]).toEqual([128, 128, 255])
    const leaning = decodeBlocks('bc5', Uint8Array.from([255, 255, 0, 0, 0, 0, 0, 0, ...half]), 4, 4)
    expect([...leaning.data.subarray(0, 3)]).toEqual([255, 128, 128])
  })

  it('bc7: mode 6 with its lowest bits, mode 5 with its turn', () => {
    const ends: [number, number][] = [...[0, 127, 0, 127, 0, 127, 127, 127].map((v): [number, number] => [v, 7]), [0, 1], [1, 1]]
    const indices = Array.from({ length: 16 }, (_, i): [number, number] => [i, i === 0 ? 3 : 4])
    const ramp = decodeBlocks('bc7', packBits([[1 << 6, 7], ...ends, ...indices]), 4, 4)
    const red = Array.from({ length: 16 }, (_, i) => ramp.data[i * ramp.channels])
    expect(red[0]).toBe(0)
    expect(red[15]).toBe(255)
    expect(red.every((v, i) => i === 0 || v > red[i - 1])).toBe(true)
    // Turned by one, alpha and red change places.
    const turned = decodeBlocks(
      'bc7',
      packBits([[1 << 5, 6], [1, 2], ...[10, 10, 20, 20, 30, 30].map((v): [number, number] => [v, 7]), [200, 8], [200, 8]]),
      4,
      4,
    )
    expect([...turned.data.subarray(0, 4)]).toEqual([200, (20 << 1) | (20 >> 6), (30 << 1) | (30 >> 6), (10 << 1) | (10 >> 6)])
    expect([...decodeBlocks('bc7', new Uint8Array(16), 4, 4).data.subarray(0, 4)]).toEqual([0, 0, 0, 0])
  })

  it('bc7: in every partition the texels whose index lacks a bit lie in subsets of their own', () => {
    const { two, three, anchorOfTwo, anchorOfThree } = BC7_TABLES
    for (let p = 0; p < 64; p++) {
      expect([two[p] & 1, (two[p] >> anchorOfTwo[p]) & 1]).toEqual([0, 1])
      const subset = (texel: number) => (three[p] >>> (texel * 2)) & 3
      expect([subset(0), subset(anchorOfThree[0][p]), subset(anchorOfThree[1][p])]).toEqual([0, 1, 2])
    }
    expect([new Set(two).size, new Set(three).size]).toEqual([64, 64])
  })

  it('a size that is no multiple of four is cut to what there is; missing blocks are told', () => {
    const blocks = new Array(4 * 8).fill(0)
    expect(decodeBlocks('bc1', Uint8Array.from(blocks), 5, 6)).toMatchObject({ width: 5, height: 6 })
    expect(() => decodeBlocks('bc1', Uint8Array.from(blocks.slice(1)), 5, 6)).toThrow(/breaks off/)
  })
})

describe('DirectDraw surfaces', () => {
  const red = [0x00, 0xf8, 0x00, 0xf8, 0, 0, 0, 0]

  it('say their form by a word, by a number or by masks', () => {
    for (const form of ['DXT1', 71] as const)
      expect([...readDds(writeDds(4, 4, form, red)).data.subarray(0, 3)]).toEqual([255, 0, 0])
    const plain = readDds(writeDds(2, 1, 'bgra', [1, 2, 3, 4, 5, 6, 7, 8]))
    expect(plain).toMatchObject({ channels: 4, data: Uint8Array.from([3, 2, 1, 4, 7, 6, 5, 8]) })
  })

  it('of a form that is not read, without a size, or cut off are refused by name', () => {
    expect(() => readDds(writeDds(4, 4, 95, red))).toThrow(/DXGI format 95/)
    expect(() => readDds(writeDds(4, 4, 'ETC2', red))).toThrow(/ETC2/)
    expect(() => readDds(writeDds(0, 4, 'DXT1', red))).toThrow(/no size/)
    expect(() => readDds(writeDds(8, 8, 'DXT1', red))).toThrow(/breaks off/)
    expect(() => readDds(new Uint8Array(40))).toThrow(/header/)
  })
})
