import { describe, expect, it } from 'vitest'
import { createRandom } from '../math/random'
import { createFloatImage } from './image'
import { rowsOfImage } from './picture-rows'
import { reduceFloat } from './reduce'
import { RowReducer, reduceRows } from './row-reducer'

const noise = (width: number, height: number) => {
  const image = createFloatImage(width, height, 3)
  const random = createRandom(width * 31 + height)
  for (let i = 0; i < image.data.length; i++) image.data[i] = random.next()
  return image
}

describe('a reducer of rows', () => {
  for (const [from, to] of [
    [
      [64, 32],
      [32, 16],
    ],
    [
      [64, 32],
      [16, 8],
    ],
    [
      [97, 53],
      [40, 22],
    ],
    [
      [100, 10],
      [99, 10],
    ],
    [
      [7, 5],
      [7, 5],
    ],
    [
      [33, 64],
      [1, 1],
    ],
  ])
    it(`gives what the reduction of the whole gives: ${from} to ${to}`, () => {
      const source = noise(from[0], from[1])
      const expected = reduceFloat(source, to[0], to[1])
      const rows: number[] = []
      const out = createFloatImage(to[0], to[1], 3)
      const reducer = new RowReducer(from[0], from[1], to[0], to[1], (row, y) => {
        rows.push(y)
        out.data.set(row, y * to[0] * 3)
      })
      rowsOfImage(source).forEachRow(row => reducer.add(row))
      expect(rows).toEqual(Array.from({ length: to[1] }, (_, y) => y))
      for (let i = 0; i < out.data.length; i++) expect(out.data[i]).toBeCloseTo(expected.data[i], 5)
    })

  it('keeps the mean, and the proportions', () => {
    const source = noise(120, 60)
    const small = reduceRows(rowsOfImage(source), 45)
    const mean = (data: Float32Array) => data.reduce((a, b) => a + b, 0) / data.length
    expect([small.width, small.height]).toEqual([45, 23])
    expect(mean(small.data)).toBeCloseTo(mean(source.data), 4)
  })

  it('never enlarges', () => {
    expect(() => new RowReducer(10, 10, 11, 5, () => {})).toThrow(RangeError)
    expect(() => new RowReducer(10, 10, 0, 5, () => {})).toThrow(RangeError)
  })
})
