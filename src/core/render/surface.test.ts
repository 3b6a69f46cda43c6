import { describe, expect, it } from 'vitest'
import { createRandom } from '../math/random'
import { Surface } from './surface'

const direction = (cos: number, phi = 0): [number, number, number] => {
  const s = Math.sqrt(1 - cos * cos)
  return [s * Math.cos(phi), s * Math.sin(phi), cos]
}

const setUp = (given: Partial<Surface>): Surface => Object.assign(new Surface(), { baseR: 1, baseG: 1, baseB: 1 }, given)

/** Share of a uniform unit environment's light that comes back, by sampling. */
function albedo(surface: Surface, cosO: number, samples = 30_000): number {
  const random = createRandom(11)
  const [ox, oy, oz] = direction(cosO)
  surface.prepare(oz)
  let sum = 0
  for (let i = 0; i < samples; i++)
    if (surface.sample(ox, oy, oz, random.next(), random.next(), random.next())) sum += surface.weight[1]
  return sum / samples
}

/** The same by quadrature over the sphere of the analytic value: sampling must agree with it. */
function albedoByQuadrature(surface: Surface, cosO: number, steps = 400): number {
  const [ox, oy, oz] = direction(cosO)
  surface.prepare(oz)
  let sum = 0
  for (let i = 0; i < steps; i++) {
    const cos = -1 + (2 * (i + 0.5)) / steps
    for (let j = 0; j < steps; j++) {
      surface.evaluate(ox, oy, oz, ...direction(cos, (2 * Math.PI * (j + 0.5)) / steps))
      sum += surface.value[1]
    }
  }
  return (sum * 4 * Math.PI) / (steps * steps)
}

const ROUGHNESSES = [0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1]

describe('white furnace: a white surface gives back what it gets', () => {
  for (const roughness of ROUGHNESSES)
    it(`metal at roughness ${roughness} loses less than 2 %`, () => {
      for (const cos of [0.2, 0.5, 0.9]) {
        const back = albedo(setUp({ metalness: 1, roughness }), cos)
        expect(back).toBeGreaterThan(0.98)
        expect(back).toBeLessThan(1.02)
      }
    })

  for (const roughness of ROUGHNESSES)
    it(`dielectric over white at roughness ${roughness} loses less than 2 %`, () => {
      for (const cos of [0.3, 0.6, 0.95]) {
        const back = albedo(setUp({ roughness }), cos)
        expect(back).toBeGreaterThan(0.98)
        expect(back).toBeLessThan(1.02)
      }
    })

  it('can fail: a grey base gives back less', () => {
    expect(albedo(setUp({ baseR: 0.5, baseG: 0.5, baseB: 0.5, roughness: 0.5 }), 0.6)).toBeLessThan(0.6)
  })
})

describe('sampling, density and value agree', () => {
  const cases: [string, Partial<Surface>][] = [
    ['rough metal', { metalness: 1, roughness: 0.6 }],
    ['plastic', { roughness: 0.4, baseR: 0.3, baseG: 0.5, baseB: 0.1 }],
    ['half metal', { roughness: 0.5, metalness: 0.5, baseG: 0.7 }],
    ['leaf', { roughness: 0.6, thinWalled: true, translucency: 0.4, translucencyG: 0.6, baseG: 0.4 }],
    ['rough thin glass', { roughness: 0.6, transmission: 1, thinWalled: true, transmissionG: 0.9 }],
  ]
  for (const [name, given] of cases)
    it(name, () => {
      const surface = setUp(given)
      for (const cos of [0.35, 0.8]) expect(albedo(surface, cos, 60_000)).toBeCloseTo(albedoByQuadrature(surface, cos), 2)
    })

  it('densities integrate to one where no sample is lost', () => {
    const surface = setUp({ roughness: 0.8, baseG: 0.5 })
    const [ox, oy, oz] = direction(0.9)
    surface.prepare(oz)
    let sum = 0
    const steps = 300
    for (let i = 0; i < steps; i++)
      for (let j = 0; j < steps; j++) {
        surface.evaluate(ox, oy, oz, ...direction(-1 + (2 * (i + 0.5)) / steps, (2 * Math.PI * (j + 0.5)) / steps))
        sum += surface.pdf
      }
    // Reflections off visible normals may leave below the horizon: a little under one, never over.
    const integral = (sum * 4 * Math.PI) / (steps * steps)
    expect(integral).toBeGreaterThan(0.95)
    expect(integral).toBeLessThan(1.005)
  })
})

describe('reciprocity', () => {
  it('light may go either way', () => {
    const surface = setUp({ roughness: 0.5, baseG: 0.4 })
    const a = direction(0.8)
    const b = direction(0.3, 2)
    surface.prepare(a[2])
    surface.evaluate(...a, ...b)
    const there = surface.value[1] / b[2]
    surface.prepare(b[2])
    surface.evaluate(...b, ...a)
    const back = surface.value[1] / a[2]
    // The multiple-scattering compensation of Turquin 2019 gives up a little of it.
    expect(there / back).toBeGreaterThan(0.9)
    expect(there / back).toBeLessThan(1.1)
  })
})

describe('glass', () => {
  it('clear solid glass loses nothing at a smooth face, up to radiance scaling by the index', () => {
    const random = createRandom(5)
    const surface = setUp({ transmission: 1, roughness: 0.02, ior: 1.5 })
    const [ox, oy, oz] = direction(0.8)
    surface.prepare(oz)
    let through = 0
    let back = 0
    const n = 4000
    for (let i = 0; i < n; i++)
      if (surface.sample(ox, oy, oz, random.next(), random.next(), random.next())) {
        if (surface.transmitted) through += surface.weight[1] * 1.5 * 1.5
        else back += surface.weight[1]
      }
    expect((through + back) / n).toBeCloseTo(1, 1)
    expect(back / n).toBeGreaterThan(0.03)
    expect(back / n).toBeLessThan(0.08)
  })
})
