import { describe, expect, it } from 'vitest'
import { readPnm } from './pnm'

const bytes = (text: string, ...rest: number[]) => Uint8Array.from([...Buffer.from(text, 'latin1'), ...rest])
const values = (given: Uint8Array) => [...readPnm(given).data]

describe('portable anymaps', () => {
  it('as text and as bytes, with comments between', () => {
    expect(readPnm(bytes('P3 2 1 # two pixels\n255\n1 2 3\n4 5 6'))).toMatchObject({ width: 2, height: 1, channels: 3 })
    expect(values(bytes('P3 2 1 255 1 2 3 # the first\n4 5 6'))).toEqual([1, 2, 3, 4, 5, 6])
    expect(values(bytes('P6\n#made by hand\n1 1\n255\n', 9, 8, 7))).toEqual([9, 8, 7])
    expect(values(bytes('P2 3 1 255 0 128 255'))).toEqual([0, 128, 255])
  })

  it('bitmaps have black for one, row by row in whole bytes', () => {
    expect(values(bytes('P4 9 2\n', 0b10000000, 0b10000000, 0, 0))).toEqual([0, ...Array(7).fill(255), 0, ...Array(9).fill(255)])
    expect(values(bytes('P1 3 1\n101'))).toEqual([0, 255, 0])
  })

  it('a range of their own is stretched; above 255 it is 16 bits with the high byte first', () => {
    expect(values(bytes('P5 2 1 15\n', 0, 15))).toEqual([0, 255])
    const deep = readPnm(bytes('P5 2 1 65535\n', 1, 2, 255, 255))
    expect(deep.data).toEqual(Uint16Array.from([258, 65535]))
    expect(readPnm(bytes('P5 1 1 1023\n', 3, 255)).data).toEqual(Uint16Array.from([65535]))
  })

  it('float maps come from the bottom, in either order of bytes', () => {
    const little = new DataView(new ArrayBuffer(8))
    little.setFloat32(0, 0.25, true)
    little.setFloat32(4, 3, true)
    expect(values(bytes('Pf\n1 2\n-1.0\n', ...new Uint8Array(little.buffer)))).toEqual([3, 0.25])
    const big = new DataView(new ArrayBuffer(12))
    for (const [i, v] of [1, 2, 4].entries()) big.setFloat32(i * 4, v)
    expect(readPnm(bytes('PF 1 1 1.0\n', ...new Uint8Array(big.buffer)))).toMatchObject({
      channels: 3,
      data: Float32Array.from([1, 2, 4]),
    })
  })

  it('that are cut off, state no size or no range are refused', () => {
    expect(() => readPnm(bytes('P6 2 2 255\n', 1, 2, 3))).toThrow(/breaks off/)
    expect(() => readPnm(bytes('P3 2 1 255 1 2 3'))).toThrow(/breaks off/)
    expect(() => readPnm(bytes('P4 9 9\n', 1))).toThrow(/breaks off/)
    expect(() => readPnm(bytes('Pf 9 9 1\n', 1))).toThrow(/breaks off/)
    expect(() => readPnm(bytes('P5 0 1 255\n'))).toThrow(/no size/)
    expect(() => readPnm(bytes('P5 1 1 99999\n', 0))).toThrow(/no range/)
    expect(() => readPnm(bytes('P5 99999 99999 255\n'))).toThrow(/larger than/)
  })
})
