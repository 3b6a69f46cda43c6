import { describe, expect, it } from 'vitest'
import { makeSunSky, makeSurfaceMaps } from '../../../tests/fixtures'
import { createFinding, type Evidence, type FindingCode } from '../findings/finding'
import { placeMesh } from '../geometry/mesh'
import type { Model } from '../geometry/model'
import { createBox, createSphere } from '../geometry/shapes'
import type { ByteImage } from '../image/image'
import type { MaterialSubject } from '../material/material-subject'
import { createMaterial } from '../material/open-pbr'
import { EVIDENCE_HEIGHT, EVIDENCE_WIDTH, INK, MARK, PAPER } from './canvas'
import { drawMapEvidence } from './draw-maps'
import { drawModelEvidence } from './draw-model'
import { drawPanoramaEvidence, viewPanorama } from './draw-panorama'

const maps = makeSurfaceMaps(128)
const image = (role: string) => maps.find(m => m.role === role)! as unknown as ByteImage
const subject: MaterialSubject = {
  maps: (['basecolor', 'normal', 'roughness'] as const).map(role => ({
    role: role === 'basecolor' ? 'baseColor' : role,
    path: `${role}.png`,
    image: image(role),
    widthPx: 128,
    heightPx: 128,
    bitsPerChannel: 8,
    byContentOnly: false,
    profile: null,
  })),
  widthMm: 500,
  category: null,
}
const draw = (code: FindingCode, path: string, evidence: Evidence = {}) =>
  drawMapEvidence(createFinding(code, evidence, path), subject)
const countOf = (picture: ByteImage, color: readonly number[]): number => {
  let count = 0
  for (let p = 0; p < picture.data.length; p += 3) if (color.every((v, c) => picture.data[p + c] === v)) count++
  return count
}

describe('levels of detail', () => {
  const model = (segments: number): Model => ({
    parts: [{ name: 'ball', mesh: createSphere(0.5, [0, 0.5, 0], segments), material: 0, hasUvs: true }],
    materials: [createMaterial('Chalk', {})],
    images: [],
    missingFiles: [],
    strays: { cameras: 0, lights: 0, emptyNodes: 0, animations: 0 },
  })
  /** Widths of the dark runs in the lowest rows, left to right: one for each thing that stands there. */
  const widths = (picture: ByteImage): number[] => {
    const columns = Array.from({ length: picture.width }, (_, x) =>
      Array.from({ length: picture.height }, (_, y) => (y * picture.width + x) * 3).some(p => picture.data[p] !== PAPER[0]),
    )
    return columns
      .map(c => (c ? '#' : ' '))
      .join('')
      .split(/ +/)
      .filter(Boolean)
      .map(run => run.length)
  }

  it('stand side by side, each as tall as it is meant to be seen', () => {
    const levels = [16, 8].map(segments => ({ mesh: createSphere(0.5, [0, 0.5, 0], segments), heightPx: null }))
    const { before, after } = drawModelEvidence(createFinding('levelsMissing', {}), model(32), {
      made: [{ mesh: levels[0].mesh, heightPx: 90 }],
    })!
    expect(widths(before)).toHaveLength(1)
    const [whole, made] = widths(after!)
    expect(made / whole).toBeCloseTo(90 / (EVIDENCE_HEIGHT - 36), 1)
    const delivered = widths(drawModelEvidence(createFinding('levelNotLighter', {}), model(32), { levels })!.before)
    // A quarter of the triangles is as dense at half the height.
    expect(delivered).toHaveLength(3)
    expect(delivered[1] / delivered[0]).toBeCloseTo(0.5, 1)
    expect(delivered[2] / delivered[0]).toBeCloseTo(0.25, 1)
  })
})

describe('pictures of findings', () => {
  it.each<[FindingCode, string, Evidence]>([
    ['tileSeam', 'basecolor.png', { axis: 'x' }],
    ['tileSeam', 'basecolor.png', { axis: 'y' }],
    ['normalDirectX', 'normal.png', {}],
    ['bakedLight', 'basecolor.png', {}],
    ['colorLooksLinear', 'basecolor.png', {}],
    ['glossAsRoughness', 'roughness.png', { low: 0.3, high: 1 }],
  ])('%s shows what is and what would be', (code, path, evidence) => {
    const { before, after } = draw(code, path, evidence)!
    for (const picture of [before, after!]) {
      expect([picture.width, picture.height]).toEqual([EVIDENCE_WIDTH, EVIDENCE_HEIGHT])
      expect(new Set(picture.data).size).toBeGreaterThan(2)
    }
    expect(before.data).not.toEqual(after!.data)
  })

  it('a map that is not there, and a finding that has no picture, give none', () => {
    expect(draw('tileSeam', 'gone.png', { axis: 'x' })).toBeNull()
    expect(draw('mapNotPowerOfTwo', 'basecolor.png')).toBeNull()
  })

  it('values outside the house band are marked, those inside are not', () => {
    const inside = draw('glossAsRoughness', 'roughness.png', { low: 0, high: 1 })!.before
    expect(countOf(inside, MARK)).toBe(0)
    expect(countOf(inside, INK)).toBeGreaterThan(500)
    const outside = draw('glossAsRoughness', 'roughness.png', { low: 0.999, high: 1 })!.before
    expect(countOf(outside, MARK)).toBeGreaterThan(500)
  })

  const model = (scale: number, lift = 0): Model => ({
    parts: [
      { name: 'seat', mesh: placeMesh(createBox(0.5, 0.9, 0.5), [0, lift, 0], 0, scale), material: -1, hasUvs: true },
      { name: 'knob', mesh: createSphere(0.05 * scale, [0, 0.4 * scale, 0], 12), material: 0, hasUvs: true },
    ],
    materials: [createMaterial('oak')],
    images: [],
    missingFiles: [],
    strays: { cameras: 0, lights: 0, emptyNodes: 0, animations: 0 },
  })

  it('a model stands beside a figure: in millimetres it dwarfs it, fixed it does not', () => {
    const { before, after } = drawModelEvidence(createFinding('unitSuspect', { factor: 0.001 }), model(1000))!
    const share = (picture: ByteImage) => countOf(picture, PAPER)
    // The figure is a speck beside a stool of 900 metres, and most of the frame beside one of 0.9.
    const marked = (picture: ByteImage) => {
      let count = 0
      for (let p = 0; p < picture.data.length; p += 3) if (picture.data[p] > picture.data[p + 2] + 40) count++
      return count
    }
    expect(marked(before)).toBeLessThan(60)
    expect(marked(after!)).toBeGreaterThan(2000)
    expect(share(after!)).toBeGreaterThan(20_000)
    expect(drawModelEvidence(createFinding('unitSuspect', { factor: 1 }), model(1))!.after).toBeNull()
  })

  it('a part inside others is drawn over them; the origin is a cross on a line', () => {
    const { before } = drawModelEvidence(createFinding('defaultSurface', {}, 'knob'), model(1))!
    const plain = drawModelEvidence(createFinding('unnamedParts', {}), model(1))!.before
    expect(before.data).not.toEqual(plain.data)
    const off = drawModelEvidence(createFinding('pivotOffBase', {}), model(1, 2))!
    expect(countOf(off.before, MARK)).toBeGreaterThan(40)
    expect(off.before.data).not.toEqual(off.after!.data)
    expect(drawModelEvidence(createFinding('unitSuspect', { factor: 1 }), { ...model(1), parts: [] })).toBeNull()
  })

  it('a part turned inside out shows its back marked, and fixed it does not', () => {
    const sound = model(1)
    const inwards = {
      ...sound,
      parts: sound.parts.map(p => ({ ...p, mesh: { ...p.mesh, indices: p.mesh.indices.slice().reverse() } })),
    }
    const { before, after } = drawModelEvidence(createFinding('windingInwards', {}, 'knob'), inwards, { fixed: sound })!
    /** Texels that are drawn warmer than grey. */
    const marked = ({ data }: ByteImage) => data.reduce((sum, v, i) => sum + (i % 3 === 0 && v > data[i + 2] + 20 ? 1 : 0), 0)
    expect(marked(before)).toBeGreaterThan(5000)
    expect(marked(after!)).toBe(0)
  })

  it('vertex normals that point inwards leave a part dark, and fixed it is lit', () => {
    const sound = model(1)
    const dark = {
      ...sound,
      parts: sound.parts.map(p => ({ ...p, mesh: { ...p.mesh, normals: p.mesh.normals.map(v => -v) } })),
    }
    const finding = createFinding('vertexNormalsOff', { reason: 'against', againstShare: 1 }, 'knob')
    const { before, after } = drawModelEvidence(finding, dark, { fixed: sound })!
    const brightest = ({ data }: ByteImage) => data.reduce((most, v) => (v < PAPER[0] ? Math.max(most, v) : most), 0)
    expect(brightest(before)).toBeLessThan(100)
    expect(brightest(after!)).toBeGreaterThan(125)
    const reduced = { ...sound, parts: [{ ...sound.parts[1], mesh: createSphere(0.05, [0, 0.4, 0], 6) }] }
    const budget = drawModelEvidence(createFinding('overTriangleBudget', {}), sound, { fixed: reduced })!
    expect(budget.before.data).not.toEqual(budget.after!.data)
  })

  it('bad pixels are marked on the panorama and gone when it is fixed; a seam is shown joined', () => {
    const sky = makeSunSky(40, 35, 512)
    const broken = { ...sky, data: sky.data.slice() }
    broken.data[(100 * 512 + 200) * 3] = Number.NaN
    const bad = drawPanoramaEvidence(createFinding('badPixels', { count: 1 }), viewPanorama(broken), null)!
    expect(countOf(bad.before, MARK)).toBeGreaterThanOrEqual(20)
    expect(countOf(bad.after!, MARK)).toBe(0)
    const seam = drawPanoramaEvidence(createFinding('environmentSeam', {}), viewPanorama(sky), null)!
    expect([seam.before.width, seam.after!.height]).toEqual([EVIDENCE_WIDTH, EVIDENCE_HEIGHT])
    const clipped = drawPanoramaEvidence(createFinding('sunClipped', {}), viewPanorama(sky), {
      azimuthDeg: 40,
      elevationDeg: 35,
    })!
    expect(countOf(clipped.before, MARK)).toBeGreaterThan(80)
    const black = { ...sky, data: new Float32Array(sky.data.length) }
    expect(drawPanoramaEvidence(createFinding('fewLevels', {}), viewPanorama(black), null)!.after).toBeNull()
    expect(drawPanoramaEvidence(createFinding('tileSeam', {}), viewPanorama(sky), null)).toBeNull()
  })
})
