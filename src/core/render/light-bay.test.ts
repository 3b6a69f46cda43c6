import { describe, expect, it } from 'vitest'
import { createSphere } from '../geometry/shapes'
import { createMaterial } from '../material/open-pbr'
import type { CandelaWeb } from '../photometry/candela-web'
import { brightestReading, lampColor, toPhotometricProfile } from './lights/photometric-profile'
import { renderPreview } from './pictures/preview'
import { HOUSE_RIGS } from './rigs/house-rigs'
import { findLamps } from './scene/find-lamps'
import { createLightBay } from './stages/light-bay'

const GAMMAS = Array.from({ length: 73 }, (_, i) => i * 2.5)
const rad = (deg: number) => (deg * Math.PI) / 180

function webOf(intensity: (gammaDeg: number, cDeg: number) => number, planes = [0]): CandelaWeb {
  return {
    cDeg: planes,
    gammaDeg: GAMMAS,
    candela: Float64Array.from(planes.flatMap(c => GAMMAS.map(g => intensity(g, c)))),
    lampLumens: null,
    watts: null,
    cctK: 3000,
    openingM: [0.1, 0.1, 0],
    maker: '',
    name: '',
    catalogue: '',
    symmetry: planes.length === 1 ? 'rotational' : 'bilateral',
  }
}
const downwards = webOf(g => (g < 90 ? 500 * Math.cos(rad(g)) : 0))
const upwards = webOf(g => (g > 90 ? -500 * Math.cos(rad(g)) : 0))

describe('photometric profiles', () => {
  it('say the share of the peak by direction, straight down at −Y', () => {
    const profile = toPhotometricProfile(downwards)
    for (const deg of [0, 20, 47.5, 70])
      expect(profile(Math.sin(rad(deg)), -Math.cos(rad(deg)), 0)).toBeCloseTo(Math.cos(rad(deg)), 3)
    expect(profile(0, 1, 0)).toBe(0)
    expect(profile(Math.sin(rad(95)), -Math.cos(rad(95)), 0)).toBe(0)
  })

  it('turn the side of the peak to the wall, wherever the file has it', () => {
    const planes = Array.from({ length: 24 }, (_, i) => i * 15)
    for (const side of [0, 90, 255]) {
      const web = webOf((g, c) => 100 * Math.max(0, Math.sin(rad(g))) * (1 + Math.cos(rad(c - side))), planes)
      const profile = toPhotometricProfile(web)
      expect(profile(0, 0, -1)).toBeCloseTo(1, 5)
      expect(profile(0, 0, 1)).toBeCloseTo(0, 5)
    }
  })

  it('read on planes by distance squared and cosine', () => {
    expect(brightestReading(() => 1, [{ towards: [0, 0, -1], distance: 2 }])).toBeCloseTo(0.25, 3)
    const beam = toPhotometricProfile(downwards)
    expect(brightestReading(beam, [{ towards: [0, -1, 0], distance: 0.5 }])).toBeCloseTo(4, 1)
    expect(brightestReading(beam, [{ towards: [0, 1, 0], distance: 0.5 }])).toBe(0)
  })

  it('warm lamps are warmer than cool ones, at one brightness, and an unknown one is white', () => {
    expect(lampColor(null)).toEqual([1, 1, 1])
    const [warm, cool] = [lampColor(2700), lampColor(6500)]
    expect(warm[0] / warm[2]).toBeGreaterThan(1.3)
    expect(cool[0] / cool[2]).toBeLessThan(0.75)
    for (const [r, g, b] of [warm, cool, lampColor(100), lampColor(1e6)])
      expect(0.2126 * r + 0.7152 * g + 0.0722 * b).toBeCloseTo(1, 5)
  })
})

describe('a luminaire on its rig', () => {
  const render = (web: CandelaWeb) =>
    renderPreview(
      { kind: 'light', web },
      { rig: HOUSE_RIGS['light-bay'], quality: { width: 96, noiseTarget: 0.2, maxSamples: 4, denoised: false }, seed: 1 },
    )!.image
  const meanOf = (image: { width: number; data: Float32Array }, from: number, to: number) => {
    const rows = image.data.subarray(from * image.width * 3, to * image.width * 3)
    return rows.reduce((sum, v) => sum + v, 0) / rows.length
  }

  it('lights the floor where it shines down, the ceiling where it shines up, and stands there', () => {
    expect(createLightBay(downwards).lamp.position[1]).toBeGreaterThan(createLightBay(upwards).lamp.position[1])
    const [down, up] = [render(downwards), render(upwards)]
    expect(meanOf(down, 62, 72)).toBeGreaterThan(2 * meanOf(down, 0, 6))
    expect(meanOf(up, 0, 6)).toBeGreaterThan(2 * meanOf(up, 62, 72))
  })

  it('without any light is a dark bay, not a broken picture', () => {
    const dark = render(webOf(() => 0))
    expect(dark.data.every(v => Number.isFinite(v) && v >= 0)).toBe(true)
    expect(meanOf(dark, 0, 72)).toBeLessThan(0.2)
  })

  it('a lamp with a curve throws its light by it, as bright where it falls as one without', () => {
    const bulb = {
      mesh: createSphere(0.02),
      material: createMaterial('bulb', { emissionLuminance: 800 }),
      images: [],
    }
    const [even] = findLamps([bulb], 1)
    const [curved] = findLamps([bulb], 1, downwards)
    expect(even.photometricProfile).toBeNull()
    expect(curved.photometricProfile!(0, -1, 0)).toBeCloseTo(1, 6)
    expect(curved.photometricProfile!(0, 1, 0)).toBe(0)
    expect(curved.intensity[0] / even.intensity[0]).toBeCloseTo(1, 1)
  })
})
