import { describe, expect, it } from 'vitest'
import { type Curve, writeEulumdat, writeIes } from '../../../tests/formats/photometry'
import { attack } from '../../../tests/hostile'
import { analysePhotometry } from './analyse-photometry'
import { angleAbove, integrateFlux, intensityAt, readPlane } from './candela-web'
import { readEulumdat } from './read-eulumdat'
import { readIes } from './read-ies'

const steps = (from: number, to: number, step: number) =>
  Array.from({ length: Math.round((to - from) / step) + 1 }, (_, i) => from + i * step)
const rad = (deg: number) => (deg * Math.PI) / 180

const uniform: Curve = { planesDeg: [0], gammaDeg: steps(0, 180, 5), intensity: () => 100 }
const lambert: Curve = { planesDeg: [0], gammaDeg: steps(0, 90, 2.5), intensity: (_, g) => 500 * Math.max(0, Math.cos(rad(g))) }
/** Different in every direction, and smooth. */
const lopsided: Curve = {
  planesDeg: steps(0, 345, 15),
  gammaDeg: steps(0, 180, 5),
  intensity: (c, g) =>
    200 + 80 * Math.sin(rad(g)) * Math.cos(rad(c)) + 30 * Math.sin(rad(g)) * Math.sin(rad(c)) + 50 * Math.cos(rad(g)),
}

describe('light curves', () => {
  it('a uniform source of 100 cd gives 400π lm, a Lambertian one of 500 cd 500π lm', () => {
    expect(integrateFlux(readIes(writeIes(uniform)))).toBeCloseTo(400 * Math.PI, 6)
    expect(integrateFlux(readIes(writeIes(lambert))) / (500 * Math.PI)).toBeCloseTo(1, 2)
    const web = readIes(writeIes({ ...lopsided, planesDeg: steps(0, 360, 15) }))
    expect(integrateFlux(web) / (800 * Math.PI)).toBeCloseTo(1, 2)
  })

  it('beam and field are where the curve falls to a half and to a tenth', () => {
    const web = readIes(writeIes(lambert))
    expect(angleAbove(web, 0.5)).toBeCloseTo(120, 0)
    expect(angleAbove(web, 0.1)).toBeCloseTo((2 * 180 * Math.acos(0.1)) / Math.PI, 0)
    const spot = { ...lambert, gammaDeg: steps(0, 90, 1), intensity: (_: number, g: number) => 9000 * Math.cos(rad(g)) ** 100 }
    expect(angleAbove(readIes(writeIes(spot)), 0.5)).toBeCloseTo((2 * 180 * Math.acos(0.5 ** 0.01)) / Math.PI, 0)
    expect(angleAbove(readIes(writeIes(uniform)), 0.5)).toBe(360)
    // A peak to one side: its beam lies about the peak.
    const aside: Curve = {
      planesDeg: steps(0, 360, 90),
      gammaDeg: steps(0, 90, 1),
      intensity: (c, g) => (c % 360 === 0 ? Math.max(0, 100 - 5 * Math.abs(g - 30)) : 0),
    }
    expect(angleAbove(readIes(writeIes(aside)), 0.5)).toBeCloseTo(20, 0)
  })

  it('are dark outside of the angles that were measured, and go straight between them', () => {
    const web = readIes(writeIes(lambert))
    expect(intensityAt(web, 77, 91)).toBe(0)
    expect(intensityAt(web, 0, 1.25)).toBeCloseTo((500 + 500 * Math.cos(rad(2.5))) / 2, 3)
    expect(readPlane(web, 0, 45).map(p => Math.round(p.candela))).toEqual(
      [0, 0, 0, 354, 500, 354, 0, 0, 0].map((v, i) => (i === 2 || i === 6 ? 0 : v)),
    )
  })
})

describe('IES files', () => {
  it('say who made it, what it draws and how warm it is; round openings, metres', () => {
    expect(readIes(writeIes(lambert))).toMatchObject({
      maker: 'Oddmere Lamps',
      name: 'Harbour pendant small',
      catalogue: 'OL-7',
      cctK: 3000,
      watts: 12.5,
      lampLumens: 1000,
      openingM: [0.2, 0.2, 0.05],
      symmetry: 'rotational',
    })
  })

  it('of every year, with tilt, multiplier and absolute photometry, hold the same light', () => {
    const wanted = integrateFlux(readIes(writeIes(lambert)))
    for (const form of [{ year: '1986' as const }, { tilt: 'INCLUDE' }, { multiplier: 2.5 }, { lumens: -1 }])
      expect(integrateFlux(readIes(writeIes(lambert, form)))).toBeCloseTo(wanted, 0)
    expect(readIes(writeIes(lambert, { lumens: -1 })).lampLumens).toBeNull()
  })

  it('of a quarter or a half of the circle are continued round it', () => {
    const both = (c: number, g: number) => 100 + 40 * Math.sin(rad(g)) * Math.cos(2 * rad(c))
    const quarter = readIes(writeIes({ planesDeg: steps(0, 90, 15), gammaDeg: steps(0, 180, 5), intensity: both }))
    expect(quarter.symmetry).toBe('quadrant')
    for (const c of [20, 100, 200, 340]) expect(intensityAt(quarter, c, 60) / both(c, 60)).toBeCloseTo(1, 1)
    const one = (c: number, g: number) => 100 + 40 * Math.sin(rad(g)) * Math.cos(rad(c))
    const half = readIes(writeIes({ planesDeg: steps(0, 180, 15), gammaDeg: steps(0, 180, 5), intensity: one }))
    for (const c of [20, 100, 200, 340]) expect(intensityAt(half, c, 60)).toBeCloseTo(one(c, 60), 0)
    const other = (c: number, g: number) => 100 + 40 * Math.sin(rad(g)) * Math.sin(rad(c))
    const turned = readIes(writeIes({ planesDeg: steps(90, 270, 15), gammaDeg: steps(0, 180, 5), intensity: other }))
    for (const c of [20, 100, 200, 340]) expect(intensityAt(turned, c, 60)).toBeCloseTo(other(c, 60), 0)
  })

  it('of another kind of photometry, without a tilt, or cut off are refused by name', () => {
    expect(() => readIes(writeIes(lambert, { type: 2 }))).toThrow(/type A or B/)
    expect(() => readIes('IESNA:LM-63-2002\n1 2 3')).toThrow(/TILT=/)
    const whole = writeIes(lambert)
    expect(() => readIes(whole.slice(0, whole.length - 20))).toThrow(/ends before|number belongs/)
    expect(() => readIes(writeIes({ ...lambert, gammaDeg: [0, 90, 45] }))).toThrow(/do not ascend/)
  })
})

describe('EULUMDAT files', () => {
  for (const [symmetry, curve] of [
    [0, lopsided],
    [1, { ...lopsided, intensity: (_: number, g: number) => 200 + 50 * Math.cos(rad(g)) }],
    [2, { ...lopsided, intensity: (c: number, g: number) => 200 + 80 * Math.sin(rad(g)) * Math.cos(rad(c)) }],
    [3, { ...lopsided, intensity: (c: number, g: number) => 200 + 80 * Math.sin(rad(g)) * Math.sin(rad(c)) }],
    [4, { ...lopsided, intensity: (c: number, g: number) => 200 + 80 * Math.sin(rad(g)) * Math.cos(2 * rad(c)) }],
  ] as [number, Curve][])
    it(`of symmetry ${symmetry} hold the light of every direction, for their lamps`, () => {
      const web = readEulumdat(writeEulumdat(curve, symmetry))
      for (const c of [7, 100, 200, 340])
        for (const g of [12, 60, 150]) expect(intensityAt(web, c, g) / curve.intensity(c, g)).toBeCloseTo(1, 1)
      expect(web).toMatchObject({
        maker: 'Oddmere Lamps',
        name: 'Harbour pendant',
        cctK: 3000,
        watts: 12.5,
        lampLumens: 2000,
        openingM: [0.2, 0.2, 0.05],
      })
    })

  it('that are cut off or name no angles are refused', () => {
    const whole = writeEulumdat(lopsided, 0)
    expect(() => readEulumdat(whole.slice(0, whole.length - 400))).toThrow(/ends before|no number/)
    expect(() => readEulumdat('x\n1\n0\nmany\n')).toThrow(/no number/)
  })
})

describe('checks', () => {
  it('the sum of the curve is held against the lamps', () => {
    const flux = 500 * Math.PI
    expect(analysePhotometry(readIes(writeIes(lambert, { lumens: flux * 1.2 })), 'a.ies').findings).toEqual([])
    for (const lumens of [flux / 2, flux * 20]) {
      const { findings } = analysePhotometry(readIes(writeIes(lambert, { lumens })), 'a.ies')
      expect(findings).toMatchObject([
        { code: 'fluxDisagrees', subject: 'a.ies', evidence: { statedLm: expect.closeTo(lumens, 0) } },
      ])
    }
    expect(analysePhotometry(readIes(writeIes(lambert, { lumens: -1 })), 'a.ies').findings).toEqual([])
  })

  it('steps that are too wide, and angles that are missing, are told', () => {
    const coarse = { ...lambert, gammaDeg: steps(0, 90, 15) }
    expect(analysePhotometry(readIes(writeIes(coarse, { lumens: -1 })), 'a.ies').findings).toMatchObject([
      { code: 'photometryCoarse', evidence: { stepDeg: 15 } },
    ])
    const short = { ...lambert, gammaDeg: steps(0, 45, 5) }
    expect(analysePhotometry(readIes(writeIes(short, { lumens: -1 })), 'a.ies').findings).toMatchObject([
      { code: 'photometryCoarse' },
    ])
  })
})

describe('damaged photometric files', () => {
  const text = (bytes: Uint8Array) => Buffer.from(bytes).toString('latin1')
  it('IES', () => attack('ies', Buffer.from(writeIes(lopsided)), 300, bytes => readIes(text(bytes))), 60_000)
  it('EULUMDAT', () => attack('ldt', Buffer.from(writeEulumdat(lopsided, 0)), 300, bytes => readEulumdat(text(bytes))), 60_000)
})
