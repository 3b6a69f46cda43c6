import { describe, expect, it } from 'vitest'
import { linearToSrgbByte, SRGB_TO_LINEAR } from '../color/srgb'
import { createRandom } from '../math/random'
import { mean } from '../math/statistics'
import { assertImage, createFloatImage, fullScale, meanOfChannel, shareBetween } from './image'
import { halveBytes, reduceFloat } from './reduce'

describe('reducing float images', () => {
  it('keeps the mean exactly, to any size', () => {
    const random = createRandom(3)
    const image = createFloatImage(60, 36, 3)
    for (let i = 0; i < image.data.length; i++) image.data[i] = 2 ** random.between(-6, 10)
    for (const [w, h] of [
      [30, 18],
      [20, 12],
      [17, 11],
      [7, 5],
      [1, 1],
      [60, 36],
    ]) {
      const small = reduceFloat(image, w, h)
      expect([small.width, small.height, small.data.length]).toEqual([w, h, w * h * 3])
      expect(mean(small.data) / mean(image.data)).toBeCloseTo(1, 4)
    }
  })

  it('never rings below zero beside a sun', () => {
    const image = createFloatImage(64, 32, 1)
    image.data[16 * 64 + 30] = 1e6
    const small = reduceFloat(image, 23, 13)
    expect(Math.min(...small.data)).toBe(0)
    expect(small.data.reduce((a, b) => a + b, 0) / (1e6 * ((23 * 13) / (64 * 32)))).toBeCloseTo(1, 4)
  })

  it('gives a constant back as it was', () => {
    const image = createFloatImage(10, 6, 2)
    image.data.fill(0.7)
    for (const v of reduceFloat(image, 3, 4).data) expect(v).toBeCloseTo(0.7, 6)
  })
})

describe('halving bytes', () => {
  it('averages colour in linear light: black and white make 188, not 128', () => {
    const checker = { width: 2, height: 2, channels: 3, data: Uint8Array.from([0, 0, 0, 255, 255, 255, 255, 255, 255, 0, 0, 0]) }
    const [v] = halveBytes(checker, 'srgb').data
    expect(v).toBe(188)
    expect(SRGB_TO_LINEAR[v]).toBeCloseTo(0.5, 2)
    expect(halveBytes(checker, 'linear').data[0]).toBe(128)
  })

  it('leaves alpha linear, and ends at one pixel', () => {
    const image = { width: 2, height: 1, channels: 4, data: Uint8Array.from([10, 10, 10, 0, 10, 10, 10, 255]) }
    const half = halveBytes(image, 'srgb')
    expect([half.width, half.height]).toEqual([1, 1])
    expect(half.data[3]).toBe(128)
    expect([...halveBytes(half, 'srgb').data]).toEqual([...half.data])
    // Of four alike every code is itself; of others it is the code of their mean in light, or the one beside it.
    const codes = Uint8Array.from({ length: 4 * 256 }, (_, k) => (k % 512) >> 1)
    const twice = { width: 512, height: 2, channels: 1, data: codes }
    expect([...halveBytes(twice, 'srgb').data]).toEqual(Array.from({ length: 256 }, (_, code) => code))
    const random = createRandom(4)
    for (let k = 0; k < 500; k++) {
      const four = Uint8Array.from({ length: 4 }, () => random.index(256))
      const exact = linearToSrgbByte(four.reduce((sum, code) => sum + SRGB_TO_LINEAR[code], 0) / 4)
      const [halved] = halveBytes({ width: 2, height: 2, channels: 1, data: four }, 'srgb').data
      expect(Math.abs(halved - exact)).toBeLessThanOrEqual(1)
    }
  })
})

describe('images', () => {
  it('say what does not fit', () => {
    expect(() => assertImage({ width: 2, height: 2, channels: 3, data: new Uint8Array(11) }, 'test')).toThrow(
      /needs 12 values, got 11/,
    )
    expect(() => assertImage({ width: 0, height: 2, channels: 3, data: new Uint8Array() }, 'test')).toThrow(RangeError)
    assertImage(createFloatImage(2, 2, 3), 'test')
  })

  it('tell the mean of a channel and what lies between two values, whatever they are stored in', () => {
    expect(fullScale(new Uint16Array())).toBe(65535)
    const words = { width: 2, height: 2, channels: 2, data: Uint16Array.from([0, 65535, 1, 0, 0, 65535, 1, 65535]) }
    expect(meanOfChannel(words, 1)).toBe(0.75)
    expect(shareBetween(words, 1, 0.5, Number.POSITIVE_INFINITY)).toBe(0.75)
    expect(shareBetween(words, 1, 0.1, 0.9)).toBe(0)
    const floats = { width: 1, height: 1, channels: 1, data: Float32Array.from([12.5]) }
    expect([meanOfChannel(floats, 0), shareBetween(floats, 0, 12, 13)]).toEqual([12.5, 1])
  })
})
