import { describe, expect, it } from 'vitest'
import { createSphere } from '../../geometry/shapes'
import { createMaterial } from '../../material/open-pbr'
import { turnAbout } from '../../math/quaternion'
import type { Vec3 } from '../../math/vec3'
import type { CandelaWeb } from '../../photometry/candela-web'
import { finishRendering } from '../../render/integrator/render'
import { composeScene } from '../composing/compose'
import { prepareShot } from '../composing/render-shot'
import { beginLight } from '../scene/begin'
import { applyChange } from '../scene/change'
import { EMPTY_SCENE, type Light, type Scene, shotSchema } from '../scene/scene'
import { NO_RESOURCES, type Resources } from '../things/resources'
import { LUX_OF_WHITE, lampsOfGlowing, lampsOfLights, lumensOf } from './lamps'

/** Straight down 400 cd, none from 60 degrees on. */
const SPOT: CandelaWeb = {
  cDeg: [0],
  gammaDeg: [0, 30, 60, 90, 180],
  candela: Float64Array.from([400, 400, 0, 0, 0]),
  symmetry: 'rotational',
  lampLumens: null,
  watts: null,
  cctK: null,
  openingM: [0.1, 0.1, 0],
  maker: '',
  name: '',
  catalogue: '',
}
const KEY = 'd'.repeat(64)
const resources: Resources = { ...NO_RESOURCES, webs: new Map([[KEY, SPOT]]) }
const lit = (light: Light, ev = 0): Scene =>
  applyChange(EMPTY_SCENE, {
    stage: { kind: 'terrace', materials: {}, widthM: 12, depthM: 12 },
    lights: { lamp: light },
    skies: {},
    shots: {
      top: shotSchema.parse({ name: 'Top', place: 1, position: [0, 8, 0.01], target: [0, 0, 0], focalMm: 60, aspect: 1, ev }),
    },
  }).scene

/** What light alone adds to the middle of the floor, which reflects half. */
function addedBy(light: Light, ev = 0): number {
  const settings = { width: 16, seed: 1, noiseTarget: 0.001, maxSamples: 32, denoised: false }
  const read = (scene: Scene) => {
    const prepared = prepareShot(scene, scene.shots.top, resources)
    const rendering = prepared.start(settings)
    while (rendering.step());
    const { image } = finishRendering(rendering.tiles, prepared.settingsOf(settings), rendering.rays, rendering.clamped)
    return [7, 8].reduce((sum, y) => sum + [7, 8].reduce((s, x) => s + image.data[(y * 16 + x) * 3 + 1], 0), 0) / 4
  }
  return read(lit({ ...light, isSeen: false }, ev)) - read(lit({ ...light, isSeen: false, share: 0 }, ev))
}
/** The floor's sheen adds a little to what its colour sends back. */
const expectAbout = (reading: number, lux: number) => {
  expect(reading / readingOf(lux)).toBeGreaterThan(1)
  expect(reading / readingOf(lux)).toBeLessThan(1.12)
}
const readingOf = (lux: number): number => (lux / LUX_OF_WHITE) * 0.5

describe('the light of a mock-up', () => {
  const at: Vec3 = [0, 2, 0]
  it('of a bulb falls on the floor under it as its flux says: lm over 4 pi and the distance squared', () => {
    const bulb = { ...beginLight('Bulb', at, { kind: 'bulb' }), lumens: 20_000, kelvin: null }
    expectAbout(addedBy(bulb), 20_000 / (4 * Math.PI) / 4)
  })

  it('of a panel gives nearly four times as much straight down, and none upwards', () => {
    const panel: Light = { ...beginLight('Panel', at, { kind: 'panel' }), lumens: 20_000, kelvin: null }
    // A square of 0.6 m at 2 m is nearly a point: lm over pi and the distance squared.
    expectAbout(addedBy(panel), 20_000 / Math.PI / 4)
    expect(addedBy({ ...panel, turn: turnAbout([1, 0, 0], 180) })).toBeCloseTo(0, 3)
  })

  it('of a luminaire is what its curve says, dimmed and exposed', () => {
    const spot: Light = {
      ...beginLight('Spot', at, { kind: 'luminaire', item: { code: 'LUM-0001', version: 1, inputKey: KEY } }),
    }
    const whole = addedBy({ ...spot, lumens: lumensOf(spot, SPOT) * 20 })
    expectAbout(whole, (400 * 20) / 4)
    expect(addedBy({ ...spot, lumens: lumensOf(spot, SPOT) * 20, share: 0.5 }) / whole).toBeCloseTo(0.5, 2)
    expect(addedBy({ ...spot, lumens: lumensOf(spot, SPOT) * 20 }, 1) / whole).toBeCloseTo(2, 1)
  })

  it('is made of a few lamps for a panel, turned as it is turned, and of none for a curve that is not there', () => {
    const scene = lit({ ...beginLight('Panel', [0, 1, 0], { kind: 'panel' }), turn: turnAbout([1, 0, 0], 90), sizeM: [1.2, 0.3] })
    const lamps = lampsOfLights(scene, new Map())
    expect(lamps).toHaveLength(4)
    // Tilted forwards by a quarter, it shines to the north.
    expect(lamps[0].photometricProfile!(0, 0, -1)).toBeCloseTo(1, 6)
    expect(lamps[0].photometricProfile!(0, -1, 0)).toBeCloseTo(0, 6)
    const lost = lit(
      beginLight('Lost', [0, 1, 0], { kind: 'luminaire', item: { code: 'LUM-0009', version: 1, inputKey: 'e'.repeat(64) } }),
    )
    expect(lampsOfLights(lost, new Map())).toEqual([])
    expect(composeScene(lost, NO_RESOURCES).placed).toEqual([])
  })

  it('of what glows in pieces comes from where each of them stands, as much larger as they are scaled', () => {
    const mesh = createSphere(0.1, [0, 1, 0], 32)
    const material = createMaterial('opal', { emissionLuminance: 1000, emissionColor: [1, 1, 1] })
    const lamps = lampsOfGlowing([
      {
        parts: [{ name: 'globe', mesh, material, images: [] }],
        placements: [
          [1, 0, 0, 5, 0, 1, 0, 0, 0, 0, 1, 0],
          [2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 2, 0],
        ],
      },
    ])
    expect(lamps.map(l => l.position)).toEqual([
      [5, 1, 0],
      [0, 2, 0],
    ])
    // Luminance times the disc that is seen: 1000 cd/m² of 0.0314 m².
    expect((lamps[0].intensity[0] * LUX_OF_WHITE) / Math.PI / (1000 * Math.PI * 0.01)).toBeCloseTo(1, 1)
    expect(lamps[1].intensity[0] / lamps[0].intensity[0]).toBeCloseTo(4, 5)
  })
})
