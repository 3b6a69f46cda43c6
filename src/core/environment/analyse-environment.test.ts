import { describe, expect, it } from 'vitest'
import { makeSunSky } from '../../../tests/fixtures'
import { sourceOfBytes } from '../codecs/byte-source'
import { openHdr, parseHdr, writeHdr } from '../codecs/hdr'
import { createFloatImage } from '../image/image'
import { reduceFloat } from '../image/reduce'
import { analyseEnvironment, analyseEnvironmentRows } from './analyse-environment'
import { computeHorizontalIrradiance } from './irradiance'

const uniform = (value: number, width = 128) => {
  const map = createFloatImage(width, width / 2, 3)
  map.data.fill(value)
  return map
}

/** The whole map turned by a number of columns. */
function roll(map: ReturnType<typeof uniform>, columns: number) {
  const out = createFloatImage(map.width, map.height, 3)
  for (let j = 0; j < map.height; j++)
    for (let i = 0; i < map.width; i++)
      for (let c = 0; c < 3; c++)
        out.data[(j * map.width + ((i + columns) % map.width)) * 3 + c] = map.data[(j * map.width + i) * 3 + c]
  return out
}

describe('analyseEnvironment', () => {
  it('a uniform sphere of radiance L gives a horizontal card pi L, and a white-card gain of 1/L', () => {
    for (const l of [0.2, 1, 7]) {
      expect(computeHorizontalIrradiance(uniform(l))[0] / (Math.PI * l)).toBeCloseTo(1, 3)
      const { facts } = analyseEnvironment(uniform(l))
      expect(facts.whiteCardGain * l).toBeCloseTo(1, 3)
      expect(facts.exposureEv).toBeCloseTo(-Math.log2(l), 2)
      expect(facts.sunPresent).toBe(false)
    }
  })

  for (const [azimuth, elevation] of [
    [0, 45],
    [-120, 20],
    [90, 60],
    [175, 33],
    [-45, 9],
  ])
    it(`finds a sun at azimuth ${azimuth}, elevation ${elevation} within a degree`, () => {
      const { facts } = analyseEnvironment(makeSunSky(azimuth, elevation))
      expect(facts.sunPresent).toBe(true)
      expect(Math.abs(((facts.sunAzimuthDeg! - azimuth + 540) % 360) - 180)).toBeLessThan(1)
      expect(facts.sunElevationDeg!).toBeCloseTo(elevation, 0)
      expect(facts.setting).toBe('exterior')
      expect(facts.shadows).toBe('hard')
      expect(facts.sky).toBe(elevation < 12 ? 'lowSun' : 'clear')
    })

  it('turning the sky turns the sun and leaves the light', () => {
    const map = makeSunSky(10, 40)
    const before = analyseEnvironment(map).facts
    const after = analyseEnvironment(roll(map, map.width / 4)).facts
    expect(after.sunAzimuthDeg! - before.sunAzimuthDeg!).toBeCloseTo(90, 1)
    expect(after.horizontalIrradiance / before.horizontalIrradiance).toBeCloseTo(1, 5)
    expect(after.keyToFill! / before.keyToFill!).toBeCloseTo(1, 2)
  })

  it('the sun share is the light that goes when the sun does', () => {
    const withSun = analyseEnvironment(makeSunSky(0, 50)).facts
    const without = analyseEnvironment(makeSunSky(0, 50, 512, 0.5)).facts
    expect(1 - without.horizontalIrradiance / withSun.horizontalIrradiance).toBeCloseTo(withSun.sunShare!, 1)
  })

  it('smaller tiers carry the same light within half a percent', () => {
    const map = makeSunSky(20, 30, 1024)
    const whole = analyseEnvironment(map).facts.horizontalIrradiance
    for (const width of [512, 256]) {
      const tier = analyseEnvironment(reduceFloat(map, width, width / 2)).facts.horizontalIrradiance
      expect(Math.abs(tier / whole - 1)).toBeLessThan(0.005)
    }
  })

  it('ringing about a bright lamp, as lossy compression leaves it, changes no figure and no class', () => {
    const map = makeSunSky(30, 35)
    const before = analyseEnvironment(map)
    const ringing = { ...map, data: map.data.map((v, i) => (i % 97 === 0 ? -0.3 * v : v)) }
    const after = analyseEnvironment(ringing)
    expect(after.facts.setting).toBe(before.facts.setting)
    expect(after.facts.sky).toBe(before.facts.sky)
    expect(after.facts.sunElevationDeg).toBeCloseTo(before.facts.sunElevationDeg!, 0)
    expect(Object.values(after.facts).every(v => typeof v !== 'number' || Number.isFinite(v))).toBe(true)
    expect(after.findings.map(f => f.code)).toContain('ringingPixels')
  })

  it('a room under a bright lamp is no exterior, whatever the colour of its walls', () => {
    for (const [r, g, b] of [
      [1, 1, 1],
      [1, 0.8, 0.55],
      [0.8, 1, 1.1],
    ]) {
      const room = uniform(0.5, 512)
      for (let j = 0; j < room.height; j++)
        for (let i = 0; i < room.width; i++) {
          const lamp = j > 40 && j < 50 && i % 128 < 12
          const stripe = 1 + 0.4 * Math.sin(i * 0.9) * Math.cos(j * 0.8)
          for (const [c, tint] of [r, g, b].entries()) room.data[(j * room.width + i) * 3 + c] = (lamp ? 60 : 0.5 * stripe) * tint
        }
      const { facts } = analyseEnvironment(room)
      expect([facts.setting, facts.sunPresent]).toEqual(['interior', false])
    }
  })

  it('a map that is read row by row has the figures of one that is held whole, and tiers of the same light', () => {
    const map = makeSunSky(-20, 50, 2048)
    const whole = analyseEnvironment(map)
    const streamed = analyseEnvironmentRows(openHdr(sourceOfBytes(writeHdr(map))), { withTiers: true })
    expect(streamed.facts.sunAzimuthDeg).toBeCloseTo(whole.facts.sunAzimuthDeg!, 1)
    expect(streamed.facts.horizontalIrradiance / whole.facts.horizontalIrradiance).toBeCloseTo(1, 2)
    expect(streamed.tiers.map(t => t.image.width)).toEqual([1024])
    for (const tier of streamed.tiers)
      expect(Math.abs(tier.horizontalIrradiance / streamed.facts.horizontalIrradiance - 1)).toBeLessThan(0.005)
  })

  it('names what is wrong', () => {
    const codes = (map: ReturnType<typeof uniform>) => analyseEnvironment(map).findings.map(f => f.code)
    expect(codes(makeSunSky(0, 40))).not.toContain('notTwoToOne')
    const square = createFloatImage(64, 64, 3)
    square.data.fill(1)
    expect(codes(square)).toContain('notTwoToOne')
    const bad = makeSunSky(0, 40)
    bad.data[30] = Number.NaN
    bad.data[60] = -2
    expect(analyseEnvironment(bad).findings.find(f => f.code === 'badPixels')?.evidence.count).toBe(2)
    expect(Number.isFinite(analyseEnvironment(bad).facts.horizontalIrradiance)).toBe(true)
    // A little below zero beside a lamp is told and no more; a hole, or what is no number, must be fixed.
    const ringing = makeSunSky(0, 40)
    for (let i = 0; i < 60; i++) ringing.data[3 * (ringing.width * 40 + 100 + i)] = -0.004
    const [told] = analyseEnvironment(ringing).findings.filter(f => /pixels/i.test(f.code))
    expect(told).toMatchObject({ code: 'ringingPixels', severity: 'note', evidence: { count: 60 } })
    for (let i = 0; i < 60; i++) ringing.data[3 * (ringing.width * 40 + 100 + i)] = -4000
    expect(codes(ringing)).toContain('badPixels')
    expect(codes(uniform(1))).toContain('fewLevels')
    // A sky kept in bytes of mantissa has few values too, but its sun tells it from a photograph of 8 bits.
    expect(codes(parseHdr(writeHdr(makeSunSky(0, 40))))).not.toContain('fewLevels')
    const seam = makeSunSky(0, 40)
    for (let j = 0; j < seam.height; j++) for (let i = 0; i < 200; i++) seam.data[(j * seam.width + i) * 3 + 1] *= 4
    expect(codes(seam)).toContain('environmentSeam')
    const clipped = makeSunSky(0, 40, 512, 2600)
    expect(codes(clipped)).toContain('sunClipped')
    expect(codes(makeSunSky(0, 40))).not.toContain('sunClipped')
  })

  it('where the brightest was cut off it says unsure of the sky, not another one', () => {
    const whole = makeSunSky(0, 40)
    expect(analyseEnvironment(whole).facts).toMatchObject({ sky: 'clear', setting: 'exterior' })
    const cut = { ...whole, data: whole.data.map(v => Math.min(v, 30)) }
    const { facts, findings } = analyseEnvironment(cut)
    expect(findings.map(f => f.code)).toContain('sunClipped')
    expect(facts).toMatchObject({ setting: 'exterior', sky: 'unsure', skyConfidence: 0 })
  })

  it('a part that was cut off to zero does not hide the range of the rest, and says that it is more', () => {
    const map = createFloatImage(256, 128, 3)
    for (let i = 0; i < 256 * 128; i++) map.data.fill(i % 3 === 0 ? 0 : i % 500 === 1 ? 64 : 0.25, i * 3, i * 3 + 3)
    const { facts } = analyseEnvironment(map)
    expect(facts.dynamicRangeAtLeast).toBe(true)
    expect(facts.dynamicRangeStops).toBeCloseTo(8, 0)
    for (let i = 0; i < map.data.length; i++) map.data[i] = Math.max(map.data[i], 0.25)
    expect(analyseEnvironment(map).facts.dynamicRangeAtLeast).toBeUndefined()
  })

  it('a black map has figures and no sun', () => {
    const { facts } = analyseEnvironment(uniform(0))
    expect(facts.sunPresent).toBe(false)
    expect(facts.whiteCardGain).toBe(1)
  })
})
