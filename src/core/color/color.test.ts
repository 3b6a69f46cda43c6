import { describe, expect, it } from 'vitest'
import { createRandom } from '../math/random'
import type { Vec3 } from '../math/vec3'
import { labToLinear, linearToLab } from './ciede2000'
import { deltaE00 } from './difference'
import { toneMapNeutral } from './display-transform'
import { linearToOklab, oklabToLinear } from './oklab'
import { decodeSrgb, encodeSrgb, linearToSrgbByte, luminance } from './srgb'
import { computeColorTemperature, planckianUv } from './temperature'

describe('sRGB', () => {
  it('round-trips every code', () => {
    for (let i = 0; i < 256; i++) {
      expect(linearToSrgbByte(decodeSrgb(i / 255))).toBe(i)
      expect(encodeSrgb(decodeSrgb(i / 255))).toBeCloseTo(i / 255, 10)
    }
  })

  it('is the piecewise curve: middle grey of 0.2140 is code 127.5', () => {
    expect(encodeSrgb(0.21404114)).toBeCloseTo(0.5, 6)
    expect(encodeSrgb(0.002)).toBeCloseTo(0.02584, 5)
  })
})

describe('CIELAB', () => {
  it('leads back to the colour it came from, light and dark', () => {
    for (const color of [
      [0.2, 0.5, 0.05],
      [1, 1, 1],
      [0, 0, 0],
      [0.001, 0.0005, 0.002],
      [0.9, 0.01, 0.3],
    ])
      labToLinear(...linearToLab(...(color as [number, number, number]))).forEach((channel, k) => {
        expect(channel).toBeCloseTo(color[k], 9)
      })
  })
})

describe('OKLab', () => {
  it('white has lightness 1 and no chroma', () => {
    const [l, a, b] = linearToOklab(1, 1, 1)
    expect(l).toBeCloseTo(1, 4)
    expect(Math.hypot(a, b)).toBeLessThan(1e-4)
  })

  it('round-trips', () => {
    const random = createRandom(3)
    for (let i = 0; i < 200; i++) {
      const c: Vec3 = [random.next(), random.next(), random.next()]
      const back = oklabToLinear(...linearToOklab(...c))
      for (let k = 0; k < 3; k++) expect(back[k]).toBeCloseTo(c[k], 4)
    }
  })
})

describe('ΔE00', () => {
  it('is nothing for equal colours, and near 100 from black to white', () => {
    expect(deltaE00([0.2, 0.3, 0.4], [0.2, 0.3, 0.4])).toBeCloseTo(0, 8)
    expect(deltaE00([0, 0, 0], [1, 1, 1])).toBeCloseTo(100, 0)
  })

  it('a just visible step is about one', () => {
    const a: Vec3 = [0.2, 0.2, 0.2]
    const b: Vec3 = [0.21, 0.2, 0.2]
    expect(deltaE00(a, b)).toBeGreaterThan(0.5)
    expect(deltaE00(a, b)).toBeLessThan(3)
  })
})

describe('display transform', () => {
  it('leaves a base colour up to 0.8 as it is, once its Fresnel offset is taken off', () => {
    const out: Vec3 = [0, 0, 0]
    toneMapNeutral(0.54, 0.34, 0.14, out)
    expect(out[0]).toBeCloseTo(0.5, 6)
    expect(out[1]).toBeCloseTo(0.3, 6)
    expect(out[2]).toBeCloseTo(0.1, 6)
  })

  it('never leaves 0..1 and never turns round', () => {
    let last = 0
    for (let v = 0; v < 200; v += 0.05) {
      const out: Vec3 = [0, 0, 0]
      toneMapNeutral(v, v * 0.6, v * 0.2, out)
      for (const c of out) {
        expect(c).toBeGreaterThanOrEqual(0)
        expect(c).toBeLessThanOrEqual(1)
      }
      const y = luminance(...out)
      expect(y).toBeGreaterThanOrEqual(last - 1e-9)
      last = y
    }
  })
})

describe('colour temperature', () => {
  it('D65 white is near 6500 K, a little above the locus', () => {
    const { kelvin, duv } = computeColorTemperature(1, 1, 1)
    expect(kelvin!).toBeGreaterThan(6400)
    expect(kelvin!).toBeLessThan(6600)
    expect(duv).toBeCloseTo(0.0032, 3)
  })

  it('gives back the temperature of a point on the locus', () => {
    for (const t of [2000, 3200, 5000, 8000]) {
      const [u, v] = planckianUv(t)
      const x = (3 * u) / (2 * u - 8 * v + 4)
      const y = (2 * v) / (2 * u - 8 * v + 4)
      const [X, Y, Z] = [x / y, 1, (1 - x - y) / y]
      const r = 3.2409699 * X - 1.5373832 * Y - 0.4986108 * Z
      const g = -0.9692436 * X + 1.8759675 * Y + 0.0415551 * Z
      const b = 0.0556301 * X - 0.203977 * Y + 1.0569715 * Z
      expect(computeColorTemperature(r, g, b).kelvin! / t).toBeCloseTo(1, 2)
    }
  })

  it('says nothing of black and of what is far from any lamp', () => {
    expect(computeColorTemperature(0, 0, 0).kelvin).toBeNull()
    expect(computeColorTemperature(0, 1, 0).kelvin).toBeNull()
  })
})
