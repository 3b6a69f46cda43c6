import { describe, expect, it } from 'vitest'
import { SRGB_TO_LINEAR } from '../../color/srgb'
import { createClearSky } from '../../environment/clear-sky'
import { createFloatImage, type FloatImage } from '../../image/image'
import { cross, subtract, type Vec3 } from '../../math/vec3'
import { finishRendering } from '../../render/integrator/render'
import { composeStage, skyGroundOf } from '../composing/compose'
import { prepareShot } from '../composing/render-shot'
import { EMPTY_SCENE, type Scene, shotSchema, skySchema } from '../scene/scene'
import { NO_RESOURCES } from '../things/resources'
import { createSkyGround, reflectanceOfGround } from './ground-of-sky'

const KEY = 'a'.repeat(64)

/** White above the horizon, and below it as bright as a ground of this reflectance is under that; its west half darker. */
function overGround(east: number, west: number): FloatImage {
  const map = createFloatImage(256, 128, 3)
  for (let j = 0; j < 128; j++)
    for (let i = 0; i < 256; i++) map.data.fill(j < 64 ? 1 : i >= 128 ? east : west, (j * 256 + i) * 3, (j * 256 + i) * 3 + 3)
  return map
}
const scene = (groundFromM: number | null, turnDeg = 0): Scene => ({
  ...EMPTY_SCENE,
  skies: {
    s: skySchema.parse({ item: { code: 'SKY-1', version: 1, inputKey: KEY }, name: 'sky', groundFromM, turnDeg }),
  },
})
const under = (map: FloatImage) => ({ ...NO_RESOURCES, skies: new Map([[KEY, map]]) })

describe('the ground of a sky', () => {
  it('reflects what it was seen to, and no more than snow does', () => {
    const picture = reflectanceOfGround(overGround(0.3, 0.12))!
    expect([picture.width, picture.height]).toEqual([256, 64])
    const at = (column: number) => SRGB_TO_LINEAR[picture.data[(20 * 256 + column) * 3]]
    expect(at(200)).toBeCloseTo(0.3, 2)
    expect(at(50)).toBeCloseTo(0.12, 2)
    expect(SRGB_TO_LINEAR[Math.max(...reflectanceOfGround(overGround(3, 3))!.data)]).toBeLessThan(0.92)
    // A worked-out sky lies over even ground of 0.2.
    const clear = reflectanceOfGround(createClearSky({ sunAzimuthDeg: 0, sunElevationDeg: 40, turbidity: 2.5 }, 256))!
    expect(SRGB_TO_LINEAR[clear.data[(30 * 256 + 9) * 3 + 1]]).toBeCloseTo(0.2, 1)
  })

  it('is none where a panorama is black below its horizon', () => {
    expect(reflectanceOfGround(overGround(0, 0))).toBeNull()
    expect(skyGroundOf(scene(1.6), { sky: 's' }, under(overGround(0, 0)))!(0)).toBeNull()
  })

  it('lies level, looks up, and is looked at from the height of the camera', () => {
    const { positions, uvs, indices } = createSkyGround(-0.06, 2, 0)
    const point = (k: number): Vec3 => [positions[k * 3], positions[k * 3 + 1], positions[k * 3 + 2]]
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b, c] = [point(indices[i]), point(indices[i + 1]), point(indices[i + 2])]
      expect(cross(subtract(b, a), subtract(c, a))[1]).toBeGreaterThan(0)
      expect(a[1]).toBeCloseTo(-0.06, 6)
    }
    // East is three quarters along a panorama whose middle is north; 45° down is as far out as the camera is high.
    for (let k = 0; k < positions.length / 3; k++) {
      const [x, , z] = point(k)
      const r = Math.hypot(x, z)
      expect(Math.tan((uvs[k * 2 + 1] * Math.PI) / 2) * r).toBeCloseTo(r === 0 ? 0 : 2, 2)
      if (r > 1 && Math.abs(z) < 1e-6 && x > 0) expect(uvs[k * 2]).toBeCloseTo(0.75, 6)
    }
    // Turned to the left by a quarter, what lay north lies west.
    const turned = createSkyGround(0, 2, 90)
    const middle = [...turned.uvs].findIndex((u, k) => k % 2 === 0 && u === 0.5 && Math.hypot(turned.positions[(k / 2) * 3]) > 1)
    expect(turned.positions[(middle / 2) * 3]).toBeLessThan(-1)
  })

  it('takes the place of the stage’s, where it is asked for, and of nothing else', () => {
    const resources = under(overGround(0.3, 0.12))
    const ground = skyGroundOf(scene(1.6), { sky: 's' }, resources)
    expect(composeStage({ kind: 'empty', materials: {} }, resources, ground).map(p => [p.name, p.material.name])).toEqual([
      ['ground', 'ground of the sky'],
    ])
    expect(skyGroundOf(scene(null), { sky: 's' }, resources)).toBeNull()
    expect(skyGroundOf(scene(1.6), { sky: null }, resources)).toBeNull()
    const paved = composeStage({ kind: 'terrace', materials: {}, widthM: 3, depthM: 3 }, resources, ground)
    expect(paved.find(p => p.name === 'ground')!.mesh.positions[1]).toBeCloseTo(-0.06, 6)
    expect(paved.find(p => p.name === 'paving')!.material.name).toBe('paving')
  })

  it('looks as it did in the panorama where nothing shades it', () => {
    const shot = shotSchema.parse({
      ...{ name: 'down', place: 0, position: [0, 1.6, 0], target: [4, 0, -0.001], focalMm: 80, aspect: 1, sky: 's' },
    })
    const settings = { width: 16, seed: 2, maxSamples: 64, noiseTarget: 0, denoised: false }
    const ready = prepareShot(scene(1.6), shot, under(overGround(0.3, 0.12)))
    const rendering = ready.start(settings)
    while (rendering.step());
    const { data } = finishRendering(rendering.tiles, ready.settingsOf(settings), rendering.rays, rendering.clamped).image
    // The sky is exposed so that a white card reads 1: a ground of 0.3 reads 0.3.
    expect(data.reduce((sum, v) => sum + v, 0) / data.length).toBeCloseTo(0.3, 1)
  })
})
