import { describe, expect, it } from 'vitest'
import { createRandom } from '../math/random'
import { hsvToRgb, rgbToHsv } from './hsv'

describe('hue, saturation and value', () => {
  it('of known colours are what tables say', () => {
    for (const [rgb, hsv] of [
      [
        [1, 0, 0],
        [0, 1, 1],
      ],
      [
        [0, 1, 0],
        [1 / 3, 1, 1],
      ],
      [
        [0, 0, 0.5],
        [2 / 3, 1, 0.5],
      ],
      [
        [1, 1, 0],
        [1 / 6, 1, 1],
      ],
      [
        [0.5, 0.25, 0.25],
        [0, 0.5, 0.5],
      ],
    ] as const) {
      rgbToHsv(...(rgb as [number, number, number])).forEach((v, i) => {
        expect(v).toBeCloseTo(hsv[i], 10)
      })
    }
  })

  it('come back as the colour they were made of, greys too, and hue goes round', () => {
    const random = createRandom(4)
    for (let i = 0; i < 200; i++) {
      const rgb: [number, number, number] = i < 20 ? [i / 20, i / 20, i / 20] : [random.next(), random.next(), random.next()]
      const [h, s, v] = rgbToHsv(...rgb)
      for (const turns of [0, 1, -2]) {
        hsvToRgb(h + turns, s, v).forEach((c, k) => {
          expect(c).toBeCloseTo(rgb[k], 10)
        })
      }
    }
  })
})
