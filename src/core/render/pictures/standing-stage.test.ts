import { describe, expect, it } from 'vitest'
import { createBox } from '../../geometry/shapes'
import { createMaterial, type OpenPbrMaterial } from '../../material/open-pbr'
import { NO_ORBIT, orbitCamera } from '../film/camera'
import { assembleTiles, type Rendering } from '../integrator/render'
import { HOUSE_RIGS } from '../rigs/house-rigs'
import { findRelief } from '../stages/find-relief'
import type { StageableSubject } from '../stages/stage-subject'
import { preparePreview } from './preview'
import { type Look, StandingStage } from './standing-stage'

const RIG = HOUSE_RIGS['material-stage']
const MODEL_RIG = HOUSE_RIGS['model-three-quarter']
const [width, height] = [64, 48]
const settings = { width, height, seed: 1, maxSamples: 4, noiseTarget: 0, denoised: false, background: null }
const red = createMaterial('red', { baseColor: [0.7, 0.05, 0.05] })
const blue = createMaterial('blue', { baseColor: [0.05, 0.05, 0.7] })
const ofMaterial = (material: OpenPbrMaterial): StageableSubject => ({ kind: 'material', material, images: [] })

function trace(rendering: Rendering): Float32Array {
  while (rendering.step());
  return assembleTiles(rendering.tiles, settings).data
}
const draw = (stage: StandingStage, look: Look) => trace(stage.start(settings, look))
const meanOf = (data: Float32Array, c: number) =>
  data.filter((_, i) => i % 3 === c).reduce((a, b) => a + b, 0) / (data.length / 3)
const difference = (a: Float32Array, b: Float32Array) => a.reduce((sum, v, i) => sum + Math.abs(v - b[i]), 0) / a.length

describe('a stage that stands', () => {
  it('shows without a turn what the preview shows', () => {
    const quality = { width, maxSamples: 4, noiseTarget: 0, denoised: false }
    const prepared = preparePreview(ofMaterial(red), { rig: RIG, quality, seed: 1, backdropAlbedo: 0.5 })
    const preview = trace(prepared.start())
    const stage = new StandingStage(ofMaterial(red), RIG, 0.5)
    expect(difference(draw(stage, {}), preview)).toBeLessThan(1e-4)
  })

  it('has the relief of a material, as the preview has', () => {
    const data = Uint8Array.from({ length: 64 * 64 }, (_, i) => (i % 32 < 14 ? 0 : 255))
    const heights = { width: 64, height: 64, channels: 1 as const, data }
    const textures = { displacement: { image: 0, channel: 0 as const } }
    const material = { ...createMaterial('grooved', {}, { tileSizeM: [0.2, 0.2], textures }), reliefM: 0.006 }
    const subject: StageableSubject = {
      kind: 'material',
      material,
      images: [heights],
      relief: findRelief(material, [heights], null),
    }
    // Large enough that a preview shows the grooves; the stage is as fine as shows in a view that is larger still. The rest is noise.
    const size = { width: 192, height: 144, maxSamples: 4, noiseTarget: 0, denoised: false }
    const drawLarge = (rendering: Rendering) => {
      while (rendering.step());
      return assembleTiles(rendering.tiles, { ...settings, ...size }).data
    }
    const stand = (given: StageableSubject) => drawLarge(new StandingStage(given, RIG, 0.5).start({ ...settings, ...size }, {}))
    const standing = stand(subject)
    const preview = drawLarge(preparePreview(subject, { rig: RIG, quality: size, seed: 1, backdropAlbedo: 0.5 }).start())
    const smooth = stand({ ...subject, relief: null })
    expect(difference(standing, preview)).toBeLessThan(0.8 * difference(standing, smooth))
  })

  it('wears another material as if it had been staged in it, and the first one again', () => {
    const stage = new StandingStage(ofMaterial(red), RIG, 0.5)
    const asRed = draw(stage, {})
    const asBlue = draw(stage, { material: blue })
    expect(meanOf(asBlue, 2)).toBeGreaterThan(meanOf(asBlue, 0))
    expect(difference(asBlue, draw(new StandingStage(ofMaterial(blue), RIG, 0.5), {}))).toBeLessThan(1e-6)
    expect(difference(asRed, draw(stage, { material: red }))).toBeLessThan(1e-6)
    // What lets light through stands on other trees.
    const glass = createMaterial('glass', { transmissionWeight: 1 })
    expect(difference(draw(stage, { material: glass }), draw(new StandingStage(ofMaterial(glass), RIG, 0.5), {}))).toBeLessThan(
      1e-4,
    )
  })

  it('is gone round, the backdrop always behind it', () => {
    const objects = [
      { mesh: createBox(0.4, 0.4, 0.05), material: red, images: [] },
      { mesh: createBox(0.05, 0.2, 0.6), material: blue, images: [] },
    ]
    const stage = new StandingStage({ kind: 'model', objects }, MODEL_RIG, 0.5)
    const front = draw(stage, {})
    const behind = draw(stage, { orbit: { ...NO_ORBIT, yawRad: Math.PI } })
    expect(difference(front, behind)).toBeGreaterThan(0.01)
    // From behind, a corner of the picture still shows the backdrop, as light as from the front.
    expect(behind[0] / front[0]).toBeGreaterThan(0.4)
    expect(difference(front, draw(stage, { orbit: NO_ORBIT }))).toBeLessThan(1e-6)
  })

  it('neither goes over the top nor under the floor', () => {
    const { camera, pivot } = new StandingStage(ofMaterial(red), RIG, 0.5)
    const heightAt = (pitchRad: number) => orbitCamera(camera, pivot, { ...NO_ORBIT, pitchRad }).position[1] - pivot[1]
    expect(heightAt(9)).toBeGreaterThan(heightAt(0.2))
    expect(heightAt(-9)).toBeGreaterThan(-0.1)
    const near = orbitCamera(camera, pivot, { ...NO_ORBIT, distance: 0.5 })
    expect(Math.hypot(...near.position.map((v, k) => v - pivot[k]))).toBeCloseTo(
      Math.hypot(...camera.position.map((v, k) => v - pivot[k])) / 2,
      6,
    )
    const same = orbitCamera(camera, pivot, NO_ORBIT)
    for (let k = 0; k < 3; k++) expect(same.forward[k]).toBeCloseTo(camera.forward[k], 9)
  })
})
