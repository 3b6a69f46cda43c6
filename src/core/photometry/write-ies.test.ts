import { describe, expect, it } from 'vitest'
import { writeEulumdat, writeIes as writeIesOfTests } from '../../../tests/formats/photometry'
import { integrateFlux, intensityAt } from './candela-web'
import { readEulumdat } from './read-eulumdat'
import { readIes } from './read-ies'
import { writeIes } from './write-ies'

const steps = (to: number, step: number) => Array.from({ length: to / step + 1 }, (_, i) => i * step)
const rad = (deg: number) => (deg * Math.PI) / 180
const lopsided = {
  planesDeg: steps(345, 15),
  gammaDeg: steps(180, 5),
  intensity: (c: number, g: number) => 200 + 80 * Math.sin(rad(g)) * Math.cos(rad(c)) + 50 * Math.cos(rad(g)),
}

describe('IES written', () => {
  it('from EULUMDAT is the same light with the same words', () => {
    const from = readEulumdat(writeEulumdat(lopsided, 0))
    const back = readIes(writeIes(from))
    expect({ ...back, candela: null, symmetry: null }).toEqual({ ...from, candela: null, symmetry: null })
    for (const [c, g] of [
      [7, 12],
      [200, 60],
      [352, 150],
    ])
      expect(intensityAt(back, c, g)).toBeCloseTo(intensityAt(from, c, g), 1)
  })

  it('keeps one plane one plane, absolute photometry absolute, and no line break of a name', () => {
    const from = readIes(writeIesOfTests({ planesDeg: [0], gammaDeg: steps(90, 5), intensity: (_, g) => 90 - g }, { lumens: -1 }))
    const back = readIes(writeIes({ ...from, name: 'Two\nlines', cctK: null }))
    expect(back).toMatchObject({ cDeg: [0], lampLumens: null, symmetry: 'rotational', name: 'Two lines', cctK: null })
    expect(integrateFlux(back)).toBeCloseTo(integrateFlux(from), 6)
  })
})
