import { describe, expect, it } from 'vitest'
import { createFloatImage } from '../image/image'
import { joinPictures } from './join-pictures'

const even = (width: number, height: number, value: number) => {
  const image = createFloatImage(width, height, 3)
  image.data.fill(value)
  return image
}

describe('pictures in one', () => {
  it('stand in rows, each as large as the largest, and keep their values', () => {
    const joined = joinPictures([even(40, 30, 5), even(20, 15, 2), even(40, 30, 0)], 2)
    expect([joined.width, joined.height]).toEqual([88, 68])
    const at = (x: number, y: number) => joined.data[(y * joined.width + x) * 3]
    expect([at(0, 0), at(39, 29), at(48, 0), at(87, 29), at(0, 38), at(39, 67)]).toEqual([5, 5, 2, 2, 0, 0])
    // Between them, and where there is none.
    expect(at(43, 10)).toBeCloseTo(0.2)
    expect(at(60, 50)).toBeCloseTo(0.2)
  })
})
