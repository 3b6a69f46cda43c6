import { describe, expect, it } from 'vitest'
import { createRandom } from '../../math/random'
import { sobolX, sobolY } from '../../math/sobol'
import { Surface } from './surface'

type Direction = [number, number, number]
const direction = (cos: number, phi = 0): Direction => {
  const s = Math.sqrt(1 - cos * cos)
  return [s * Math.cos(phi), s * Math.sin(phi), cos]
}

const setUp = (given: Partial<Surface>): Surface => Object.assign(new Surface(), { baseR: 1, baseG: 1, baseB: 1 }, given)
const SOLID_GLASS = { transmission: 1, ior: 1.5 }

/** Share of a uniform unit environment's light that comes back, by sampling. Radiance in glass is scaled by the index squared. */
function albedo(surface: Surface, o: Direction, samples = 16_384): number {
  surface.prepare(...o)
  const scale = surface.thinWalled ? 1 : o[2] > 0 ? surface.ior ** 2 : 1 / surface.ior ** 2
  let sum = 0
  for (let i = 0; i < samples; i++)
    if (surface.sample(...o, sobolX(i, 99), sobolX(i, 7), sobolY(i, 7)))
      sum += surface.weight[1] * (surface.wiz * o[2] < 0 ? scale : 1)
  return sum / samples
}

/** Quadrature over the sphere of the analytic value and of the density. */
function integrate(surface: Surface, o: Direction, steps = 500): { albedo: number; density: number } {
  surface.prepare(...o)
  let albedo = 0
  let density = 0
  for (let i = 0; i < steps; i++) {
    const cos = -1 + (2 * (i + 0.5)) / steps
    for (let j = 0; j < steps; j++) {
      surface.evaluate(...o, ...direction(cos, (2 * Math.PI * (j + 0.5)) / steps))
      albedo += surface.value[1]
      density += surface.pdf
    }
  }
  const cell = (4 * Math.PI) / (steps * steps)
  return { albedo: albedo * cell, density: density * cell }
}

const STEPS = [0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1]

describe('white furnace: a white surface gives back what it gets, within 2 % at every roughness', () => {
  const lobes: [string, (roughness: number) => Partial<Surface>][] = [
    ['metal', roughness => ({ metalness: 1, roughness })],
    ['metal, anisotropic', roughness => ({ metalness: 1, roughness, anisotropy: 0.5 })],
    ['dielectric over white', roughness => ({ roughness })],
    ['dielectric over rough white', roughness => ({ roughness: 0.3, diffuseRoughness: roughness })],
    ['dense dielectric', roughness => ({ roughness, ior: 2 })],
    ['half metal', roughness => ({ metalness: 0.5, roughness })],
    ['thin glass', roughness => ({ transmission: 1, thinWalled: true, roughness })],
    ['solid glass', roughness => ({ ...SOLID_GLASS, roughness })],
    ['coat over white', coatRoughness => ({ coatWeight: 1, coatRoughness, roughness: 0.5 })],
    ['coat over metal', coatRoughness => ({ coatWeight: 1, coatRoughness, metalness: 1, roughness: 0.3 })],
    ['coat over rougher metal', roughness => ({ coatWeight: 1, coatRoughness: 0.1, metalness: 1, roughness })],
    ['half a coat', coatRoughness => ({ coatWeight: 0.5, coatRoughness })],
    ['fuzz over white', fuzzRoughness => ({ fuzzWeight: 1, fuzzRoughness, roughness: 0.8 })],
    ['fuzz over metal', roughness => ({ fuzzWeight: 1, fuzzRoughness: 0.4, metalness: 1, roughness })],
    ['leaf', roughness => ({ thinWalled: true, translucency: 0.4, translucencyG: 1, roughness })],
    ['film over white', roughness => ({ filmWeight: 1, filmThickness: 0.4, roughness })],
  ]
  for (const [name, make] of lobes)
    it(name, () => {
      const report: string[] = []
      for (const roughness of STEPS)
        for (const cos of [0.25, 0.55, 0.95]) {
          const back = albedo(setUp(make(roughness)), direction(cos, 0.7))
          if (Math.abs(back - 1) > 0.02) report.push(`roughness ${roughness}, cosine ${cos}: ${back.toFixed(3)}`)
        }
      expect(report).toEqual([])
    })

  it('solid glass from inside', () => {
    const report: string[] = []
    for (const roughness of STEPS)
      for (const cos of [-0.25, -0.55, -0.95]) {
        const back = albedo(setUp({ ...SOLID_GLASS, roughness }), direction(cos, 0.7))
        if (Math.abs(back - 1) > 0.02) report.push(`roughness ${roughness}, cosine ${cos}: ${back.toFixed(3)}`)
      }
    expect(report).toEqual([])
  })

  it('can fail: a grey base gives back less', () => {
    expect(albedo(setUp({ baseR: 0.5, baseG: 0.5, baseB: 0.5, roughness: 0.5 }), direction(0.6))).toBeLessThan(0.6)
  })
})

const CASES: [string, Partial<Surface>][] = [
  ['rough metal', { metalness: 1, roughness: 0.6 }],
  ['tinted metal', { metalness: 1, roughness: 0.5, baseG: 0.6, specularG: 0.4 }],
  ['brushed metal', { metalness: 1, roughness: 0.5, anisotropy: 0.8 }],
  ['plastic', { roughness: 0.4, baseR: 0.3, baseG: 0.5, baseB: 0.1 }],
  ['plaster', { roughness: 0.7, diffuseRoughness: 1, baseG: 0.7 }],
  ['half metal', { roughness: 0.5, metalness: 0.5, baseG: 0.7 }],
  ['leaf', { roughness: 0.6, thinWalled: true, translucency: 0.4, translucencyG: 0.6, baseG: 0.4 }],
  ['rough thin glass', { roughness: 0.6, transmission: 1, thinWalled: true, transmissionG: 0.9 }],
  ['rough solid glass', { ...SOLID_GLASS, roughness: 0.6, transmissionG: 0.8 }],
  ['milky glass', { ...SOLID_GLASS, transmission: 0.5, roughness: 0.5, baseG: 0.6 }],
  ['lacquer', { coatWeight: 0.8, coatRoughness: 0.4, coatG: 0.5, roughness: 0.6, baseG: 0.4 }],
  ['lacquered metal', { coatWeight: 1, coatRoughness: 0.4, coatG: 0.7, roughness: 0.5, metalness: 1, baseG: 0.8 }],
  ['velvet', { fuzzWeight: 0.9, fuzzG: 0.8, fuzzRoughness: 0.4, roughness: 0.8, baseG: 0.2 }],
  [
    'fuzz, coat and film at once',
    { fuzzWeight: 0.5, coatWeight: 0.5, coatRoughness: 0.5, filmWeight: 0.7, roughness: 0.5, baseG: 0.5 },
  ],
  ['oxidised metal', { metalness: 1, roughness: 0.5, filmWeight: 1, filmThickness: 0.3, baseG: 0.7 }],
]

describe('sampling, density and value agree', () => {
  for (const [name, given] of CASES)
    it(name, () => {
      const surface = setUp(given)
      for (const cos of surface.transmission > 0 && !surface.thinWalled ? [0.35, 0.8, -0.9] : [0.35, 0.8]) {
        const o = direction(cos, 0.4)
        const whole = integrate(surface, o)
        const scale = surface.thinWalled ? 1 : cos > 0 ? surface.ior ** 2 : 1 / surface.ior ** 2
        surface.prepare(...o)
        const samples = 32_768
        let sum = 0
        let drawn = 0
        for (let i = 0; i < samples; i++)
          if (surface.sample(...o, sobolX(i, 99), sobolX(i, 7), sobolY(i, 7))) {
            sum += surface.weight[1]
            drawn++
          }
        expect(Math.abs(sum / samples - whole.albedo), `albedo at ${cos}`).toBeLessThan(0.008 * Math.max(1, 1 / scale))
        // What is drawn below a horizon is lost: the density integrates to the share that is kept, never to more.
        expect(Math.abs(drawn / samples - whole.density), `density at ${cos}`).toBeLessThan(0.01)
      }
    })
})

describe('reciprocity: light may go either way', () => {
  for (const [name, given] of CASES)
    it(name, () => {
      const surface = setUp(given)
      const random = createRandom(3)
      const goesThrough = surface.thinWalled || surface.transmission > 0
      for (let k = 0; k < 60; k++) {
        const a = direction(random.between(0.1, 1), random.between(0, 6))
        const b = direction(random.between(0.1, 1) * (goesThrough && k % 2 ? -1 : 1), random.between(0, 6))
        surface.prepare(...a)
        surface.evaluate(...a, ...b)
        const there = surface.value[1] / Math.abs(b[2])
        surface.prepare(...b)
        surface.evaluate(...b, ...a)
        // Into a solid, radiance grows by the square of the index; out of it, it shrinks by as much (Veach 1997, 5.3).
        const scale = b[2] < 0 && !surface.thinWalled ? surface.ior ** 2 : 1
        const back = surface.value[1] / Math.abs(a[2])
        expect(Math.abs(there * scale - back) / (back + 1e-3), `${a} and ${b}`).toBeLessThan(1e-3)
      }
    })
})

describe('what the parameters do', () => {
  const reflectance = (given: Partial<Surface>, cos: number): number => albedo(setUp(given), direction(cos))

  it('specular weight 0 leaves the base alone', () => {
    expect(reflectance({ specularWeight: 0, baseG: 0.5 }, 0.2)).toBeCloseTo(0.5, 2)
  })

  it('an edge tint darkens a metal at grazing angles only', () => {
    const plain = { metalness: 1, roughness: 0.1, baseG: 0.7 }
    expect(reflectance({ ...plain, specularG: 0.3 }, 0.99) / reflectance(plain, 0.99)).toBeGreaterThan(0.97)
    expect(reflectance({ ...plain, specularG: 0.3 }, 1 / 7) / reflectance(plain, 1 / 7)).toBeCloseTo(0.3, 1)
  })

  it('a coat darkens what it covers, and its colour tints it', () => {
    const base = { baseG: 0.4, roughness: 0.5 }
    const bare = reflectance(base, 0.95)
    expect(reflectance({ ...base, coatWeight: 1, coatDarkening: 0 }, 0.95)).toBeGreaterThan(
      reflectance({ ...base, coatWeight: 1 }, 0.95),
    )
    expect(reflectance({ ...base, coatWeight: 1, coatG: 0.2 }, 0.95)).toBeLessThan(bare * 0.5)
  })

  it('fuzz brightens the edge of something dark', () => {
    const dark = { baseG: 0.02, roughness: 1, specularWeight: 0, fuzzWeight: 1, fuzzRoughness: 0.5 }
    expect(reflectance(dark, 0.1)).toBeGreaterThan(reflectance(dark, 0.95) * 2)
  })

  it('a film shifts colour with thickness', () => {
    const surface = setUp({ metalness: 1, baseR: 0.5, baseG: 0.5, baseB: 0.5, filmWeight: 1, roughness: 0.2 })
    const hues = [0.25, 0.35, 0.5].map(thickness => {
      surface.filmThickness = thickness
      surface.prepare(0, 0, 1)
      surface.evaluate(0, 0, 1, 0, 0, 1)
      return surface.value[0] / surface.value[2]
    })
    expect(Math.max(...hues) / Math.min(...hues)).toBeGreaterThan(1.5)
  })

  it('anisotropy stretches the highlight along the tangent', () => {
    const surface = setUp({ metalness: 1, roughness: 0.4, anisotropy: 0.9 })
    surface.prepare(0, 0, 1)
    surface.evaluate(0, 0, 1, ...direction(0.85, 0))
    const along = surface.value[1]
    surface.evaluate(0, 0, 1, ...direction(0.85, Math.PI / 2))
    expect(along / surface.value[1]).toBeGreaterThan(5)
  })

  it('clear glass reflects four per cent and lets the rest through', () => {
    const surface = setUp({ ...SOLID_GLASS, roughness: 0.02 })
    const o = direction(0.99)
    surface.prepare(...o)
    let through = 0
    let back = 0
    const n = 8192
    for (let i = 0; i < n; i++)
      if (surface.sample(...o, sobolX(i, 99), sobolX(i, 7), sobolY(i, 7))) {
        if (surface.transmitted) through += surface.weight[1] * 1.5 * 1.5
        else back += surface.weight[1]
      }
    expect(back / n).toBeCloseTo(0.04, 2)
    expect(through / n).toBeCloseTo(0.96, 2)
  })
})
