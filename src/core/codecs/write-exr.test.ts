import { describe, expect, it } from 'vitest'
import { createFloatImage } from '../image/image'
import { collectRows } from '../image/picture-rows'
import { sourceOfBytes } from './byte-source'
import { listExrLayers, openExr } from './exr'
import { channelsOf, writeExrParts } from './write-exr'

const picture = createFloatImage(20, 37, 3)
picture.data.forEach((_, i) => {
  picture.data[i] = (i % 97) / 32
})

describe('an OpenEXR file of several parts', () => {
  const depth = { name: 'Z', isFloat: true, at: (pixel: number) => pixel + 0.125 }
  const long = 'a thing with a name that is longer than thirty-one characters'
  const bytes = writeExrParts(
    [
      { name: 'picture', channels: channelsOf(picture, ['R', 'G', 'B'], false) },
      { name: 'depth', channels: [depth] },
      {
        name: 'things',
        channels: [
          { name: `${long}.Y`, isFloat: false, at: pixel => (pixel % 2) / 2 },
          { name: 'Chair.Y', isFloat: false, at: pixel => (pixel < 20 ? 1 : 0) },
        ],
      },
    ],
    20,
    37,
    'words',
  )
  const read = (layer: string) => collectRows(openExr(sourceOfBytes(bytes), undefined, layer)).data

  it('is read back part by part, each value at the depth it was written in', () => {
    expect(listExrLayers(sourceOfBytes(bytes)).map(l => l.name)).toEqual(['picture', 'depth', 'things.Chair', `things.${long}`])
    expect([...read('picture')]).toEqual([...picture.data])
    expect(read('depth')[739 * 3]).toBe(739.125)
    expect(read('things.Chair').filter(v => v === 1)).toHaveLength(60)
    expect(read(`things.${long}`)[3]).toBe(0.5)
  })

  it('is not written of parts that cannot be told apart, or of nothing', () => {
    const part = { name: 'a', channels: [depth] }
    expect(() => writeExrParts([part, part], 1, 1, '')).toThrow(RangeError)
    expect(() => writeExrParts([], 1, 1, '')).toThrow(RangeError)
    expect(() => writeExrParts([{ name: 'a', channels: [] }], 1, 1, '')).toThrow(RangeError)
  })
})
