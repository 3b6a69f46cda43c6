import { describe, expect, it } from 'vitest'
import { makeSunSky } from '../../../../tests/fixtures'
import { analyseEnvironment } from '../analyse-environment'
import { closeSeam, repairPixels, rollPanorama } from './environment-fixes'

const codesOf = (map: ReturnType<typeof makeSunSky>) => analyseEnvironment(map).findings.map(f => f.code)

describe('environment fixes', () => {
  it('bad pixels take the value of those about them; sound ones stay to the bit', () => {
    const sky = makeSunSky(40, 35, 256)
    const broken = { ...sky, data: sky.data.slice() }
    const bad = [0, 255, 128 * 60 + 5, 256 * 100 + 255]
    bad.forEach((p, k) => {
      broken.data[p * 3 + (k % 3)] = [Number.NaN, Number.POSITIVE_INFINITY, -1, Number.NaN][k]
    })
    expect(codesOf(broken)).toContain('badPixels')
    const fixed = repairPixels(broken)
    expect(codesOf(fixed)).not.toContain('badPixels')
    for (let i = 0; i < sky.data.length; i++)
      if (bad.includes(Math.floor(i / 3))) expect(Math.abs(fixed.data[i] / sky.data[i] - 1)).toBeLessThan(0.2)
      else expect(fixed.data[i]).toBe(sky.data[i])
    const all = { ...sky, data: new Float32Array(sky.data.length).fill(Number.NaN) }
    expect(repairPixels(all).data.every(v => v === 0)).toBe(true)
  })

  it('a seam is closed, within eight per cent of the width', () => {
    const sky = makeSunSky(40, 35, 256)
    const cut = { ...sky, data: sky.data.map((v, i) => v * (1 + 0.8 * ((Math.floor(i / 3) % 256) / 256))) }
    expect(codesOf(cut)).toContain('environmentSeam')
    const fixed = closeSeam(cut)
    expect(codesOf(fixed)).not.toContain('environmentSeam')
    for (let y = 0; y < 128; y++)
      for (let x = 21; x < 235; x++) expect(fixed.data[(y * 256 + x) * 3]).toBe(cut.data[(y * 256 + x) * 3])
    expect(fixed.data.every(v => v >= 0)).toBe(true)
  })

  it('a roll moves the sun by as much, and back again without a trace', () => {
    const sky = makeSunSky(40, 35, 256)
    const turned = rollPanorama(sky, 64)
    expect(analyseEnvironment(turned).facts.sunAzimuthDeg).toBeCloseTo(130, 0)
    expect(rollPanorama(turned, -64).data).toEqual(sky.data)
    expect(rollPanorama(sky, 256).data).toEqual(sky.data)
  })
})
