import { describe, expect, it } from 'vitest'
import { computeBounds, mergeMeshes } from '../geometry/mesh'
import { createBox, createSheet } from '../geometry/shapes'
import { type ByteImage, createFloatImage } from '../image/image'
import { createMaterial, type OpenPbrMaterial } from '../material/open-pbr'
import { createRandom } from '../math/random'
import { mean } from '../math/statistics'
import { createCamera, projectPoint } from './film/camera'
import { developForDisplay } from './film/develop'
import { sampleFilter } from './film/pixel-filter'
import { render } from './integrator/render'
import { EnvironmentLight } from './lights/environment-light'
import { createExposedLight, createHouseLightMap } from './lights/house-light'
import { HOUSE_RIGS } from './rigs/house-rigs'
import { createScene, type SceneObject } from './scene/scene'
import { createMipTexture, readTexture } from './scene/texture'
import { stageSubject } from './stages/stage-subject'
import { createMaterialStage, createWallStage, STAGE_WIDTH_M } from './stages/stages'
import { createScaleBar, greyMaterial } from './stages/surroundings'
import { perfectMirrorTable } from './surface/albedo-tables'
import { fresnelDielectric, schlickWeight } from './surface/fresnel'
import { ggxD, sampleVisibleNormal, smithLambda } from './surface/microfacet'

describe('microfacets', () => {
  it('the normal distribution integrates to one over the projected hemisphere', () => {
    for (const alpha of [0.05, 0.2, 0.5, 1]) {
      let sum = 0
      const n = 20_000
      for (let i = 0; i < n; i++) {
        // Uniform in the squared sine would miss a sharp peak; in its fourth root it does not.
        const t = (i + 0.5) / n
        const sin2 = t ** 4
        sum += ggxD(Math.sqrt(sin2), 0, Math.sqrt(1 - sin2), alpha, alpha) * Math.PI * 4 * t ** 3
      }
      expect(sum / n).toBeCloseTo(1, 2)
    }
  })

  it('Fresnel: 4 % at normal incidence on glass, everything at grazing and past the critical angle', () => {
    expect(fresnelDielectric(1, 1.5)).toBeCloseTo(0.04, 6)
    expect(fresnelDielectric(1, 1 / 1.5)).toBeCloseTo(0.04, 6)
    expect(fresnelDielectric(1e-6, 1.5)).toBeCloseTo(1, 3)
    expect(fresnelDielectric(0.7, 1 / 1.5)).toBe(1)
    expect(schlickWeight(0)).toBe(1)
    expect(schlickWeight(1)).toBe(0)
  })

  it('shadowing hides most at grazing angles, and nothing straight on', () => {
    for (const alpha of [0.1, 0.6]) {
      const g1 = (cos: number) => 1 / (1 + smithLambda(Math.sqrt(1 - cos * cos), 0, cos, alpha, alpha))
      expect(g1(1)).toBeCloseTo(1, 6)
      expect(g1(0.05)).toBeLessThan(g1(0.5))
    }
  })

  it('visible normals face the viewer and are unit', () => {
    const random = createRandom(2)
    const n = new Float64Array(3)
    for (let i = 0; i < 2000; i++) {
      sampleVisibleNormal(0.8, 0, 0.6, 0.7, 0.3, random.next(), random.next(), n)
      expect(Math.hypot(n[0], n[1], n[2])).toBeCloseTo(1, 9)
      expect(n[0] * 0.8 + n[2] * 0.6).toBeGreaterThanOrEqual(-1e-9)
    }
  })

  it('the albedo table stays within what a surface can give back', () => {
    const table = perfectMirrorTable()
    for (let roughness = 0; roughness <= 1; roughness += 0.05) {
      for (let cos = 0; cos <= 1; cos += 0.05) {
        expect(table.read(cos, roughness)).toBeGreaterThan(0.3)
        expect(table.read(cos, roughness)).toBeLessThanOrEqual(1.0001)
      }
      expect(table.readMean(roughness)).toBeGreaterThan(0.4)
    }
  })
})

describe('pixel-filter', () => {
  it('the filter is even, within its radius, and tighter than a box of that width', () => {
    const random = createRandom(9)
    const o = new Float64Array(2)
    const xs: number[] = []
    for (let i = 0; i < 20_000; i++) {
      sampleFilter(random.next(), random.next(), o)
      xs.push(o[0])
    }
    expect(mean(xs)).toBeCloseTo(0, 1)
    expect(Math.max(...xs.map(Math.abs))).toBeLessThanOrEqual(1.5)
    expect(Math.sqrt(mean(xs.map(x => x * x)))).toBeLessThan(0.5)
  })

  it('develops mid grey where it belongs, and never past white', () => {
    const image = createFloatImage(3, 1, 3)
    image.data.set([0.18, 0.18, 0.18, 1, 1, 1, 900, 900, 900])
    const { data } = developForDisplay(image)
    expect(Math.abs(data[0] - 104)).toBeLessThanOrEqual(4)
    expect(data[3]).toBeGreaterThan(220)
    expect(data[6]).toBeGreaterThanOrEqual(data[3])
  })
})

describe('textures', () => {
  const image: ByteImage = { width: 4, height: 2, channels: 1, data: Uint8Array.from([0, 255, 0, 255, 255, 0, 255, 0]) }
  const dst = new Float64Array(4)

  it('read texel centres exactly, repeat, and spread grey', () => {
    const texture = createMipTexture(image, 'linear')
    for (const shift of [0, 1, -3]) {
      readTexture(texture, 0.375 + shift, 0.25 + shift, 0, dst)
      expect([...dst]).toEqual([1, 1, 1, 1])
      readTexture(texture, 0.125 + shift, 0.25 + shift, 0, dst)
      expect(dst[0]).toBe(0)
    }
  })

  it('of what stands once draw their edges out instead of repeating', () => {
    const texture = createMipTexture(image, 'linear', false)
    const at = (u: number, v: number) => {
      readTexture(texture, u, v, 0, dst)
      return dst[0]
    }
    expect([at(-3, 0.25), at(0, 0.25), at(7, 0.25)]).toEqual([0, 0, 1])
    expect([at(0.125, -2), at(0.125, 5)]).toEqual([0, 1])
    expect(at(0.375, 0.25)).toBe(1)
  })

  it('read the mean at the smallest level, and between texels in between', () => {
    const texture = createMipTexture(image, 'linear')
    readTexture(texture, 0.2, 0.9, 99, dst)
    expect(dst[0]).toBeCloseTo(0.5, 2)
    readTexture(texture, 0.25, 0.25, 0, dst)
    expect(dst[0]).toBeCloseTo(0.5, 6)
  })

  it('decode colour but not alpha', () => {
    const texture = createMipTexture({ width: 1, height: 1, channels: 4, data: Uint8Array.from([128, 128, 128, 128]) }, 'srgb')
    readTexture(texture, 0.5, 0.5, 0, dst)
    expect(dst[0]).toBeCloseTo(0.2158, 3)
    expect(dst[3]).toBeCloseTo(128 / 255, 6)
  })
})

describe('stages', () => {
  it('carry textures at true scale: an area of surface has the same area of texture', () => {
    for (const mesh of [createMaterialStage(), createWallStage()]) {
      const { positions: p, uvs, indices } = mesh
      let off = 0
      let total = 0
      for (let i = 0; i < indices.length; i += 3) {
        const [a, b, c] = [indices[i], indices[i + 1], indices[i + 2]]
        const e1 = [0, 1, 2].map(k => p[b * 3 + k] - p[a * 3 + k])
        const e2 = [0, 1, 2].map(k => p[c * 3 + k] - p[a * 3 + k])
        const area = Math.hypot(e1[1] * e2[2] - e1[2] * e2[1], e1[2] * e2[0] - e1[0] * e2[2], e1[0] * e2[1] - e1[1] * e2[0])
        const uvArea = Math.abs(
          (uvs[b * 2] - uvs[a * 2]) * (uvs[c * 2 + 1] - uvs[a * 2 + 1]) -
            (uvs[c * 2] - uvs[a * 2]) * (uvs[b * 2 + 1] - uvs[a * 2 + 1]),
        )
        total += area
        if (Math.abs(uvArea / area - 1) > 0.15) off += area
      }
      // The ends of the cup are discs and cannot lie flat; nearly everything else does.
      expect(off / total).toBeLessThan(0.08)
    }
  })

  it.each([
    ['a low wide thing', 3, 0.4, 0.3],
    ['a tall thin thing', 0.2, 1.6, 0.2],
    ['a bush', 1.7, 1, 1.7],
    ['a cup', 0.1, 0.1, 0.1],
  ])('%s has the whole of its scale bar in the frame', (_, w, h, d) => {
    const item = {
      kind: 'model' as const,
      objects: [{ mesh: createBox(w, h, d), material: greyMaterial('grey', 0.5, 0.5), images: [] }],
    }
    for (const rig of [HOUSE_RIGS['model-three-quarter'], HOUSE_RIGS['plant-three-quarter']]) {
      const { extras, camera } = stageSubject(item, rig)
      const { positions } = mergeMeshes(extras.map(o => o.mesh))
      for (let i = 0; i < positions.length; i += 3) {
        const at = projectPoint(camera, [positions[i], positions[i + 1], positions[i + 2]])!
        expect(Math.abs(at.x)).toBeLessThan(camera.aspect)
        expect(Math.abs(at.y)).toBeLessThan(1)
      }
    }
  })

  it('have the size they say, and a scale bar of a metre or a tenth', () => {
    const { min, max } = computeBounds(createMaterialStage().positions)
    expect(max[0] - min[0]).toBeCloseTo(STAGE_WIDTH_M, 2)
    expect(createScaleBar(createBox(2, 1, 1)).lengthM).toBe(1)
    const small = createScaleBar(createBox(0.2, 0.1, 0.1))
    expect(small.lengthM).toBe(0.1)
    const bar = computeBounds(mergeMeshes(small.objects.map(o => o.mesh)).positions)
    expect(bar.max[0] - bar.min[0]).toBeCloseTo(0.1, 5)
  })
})

describe('drawing', () => {
  const floor = () =>
    createSheet(
      1,
      1,
      (s, t) => [(s - 0.5) * 4, 0, (t - 0.5) * 4],
      (s, t) => [s * 4, t * 4],
    )
  const draw = (objects: SceneObject[], size = 32, samples = 32) =>
    render(createScene(objects), createExposedLight(createHouseLightMap(128), 0), createCamera([0, 3, 0.01], [0, 0, 0], 60, 1), {
      width: size,
      height: size,
      seed: 1,
      noiseTarget: 0,
      maxSamples: samples,
      background: null,
      denoised: false,
    })!.image

  it('a normal map of either handedness, named rightly, gives the same picture', () => {
    const random = createRandom(6)
    const normal: ByteImage = { width: 8, height: 8, channels: 3, data: new Uint8Array(192) }
    for (let i = 0; i < 192; i += 3)
      normal.data.set([Math.round(random.between(90, 165)), Math.round(random.between(90, 165)), 230], i)
    const flipped = { ...normal, data: Uint8Array.from(normal.data, (v, i) => (i % 3 === 1 ? 255 - v : v)) }
    const withMap = (image: ByteImage, handedness: 'openGl' | 'directX') =>
      draw([
        {
          mesh: floor(),
          material: createMaterial(
            'bumpy',
            { baseColor: [0.5, 0.5, 0.5] },
            { textures: { geometryNormal: { image: 0, channel: 0, handedness } }, tileSizeM: [2, 2] },
          ),
          images: [image],
        },
      ]).data
    const right = withMap(normal, 'openGl')
    const same = withMap(flipped, 'directX')
    const wrong = withMap(flipped, 'openGl')
    const difference = (a: Float32Array, b: Float32Array) => mean(a.map((v, i) => Math.abs(v - b[i])))
    expect(difference(right, same)).toBeLessThan(0.004)
    expect(difference(right, wrong)).toBeGreaterThan(0.02)
  })

  it('a texture lies with its top away from +v and its left at −u', () => {
    const colors = [
      [255, 0, 0],
      [0, 255, 0],
      [0, 0, 255],
      [255, 255, 255],
    ]
    const quarters: ByteImage = { width: 64, height: 64, channels: 3, data: new Uint8Array(64 * 64 * 3) }
    for (let p = 0; p < 64 * 64; p++) quarters.data.set(colors[(p % 64 < 32 ? 0 : 1) + (p < 64 * 32 ? 0 : 2)], p * 3)
    const material = createMaterial('quarters', {}, { textures: { baseColor: { image: 0, channel: 0 } }, tileSizeM: [4, 4] })
    const mesh = floor()
    const image = draw([{ mesh, material, images: [quarters] }], 16, 8)
    const at = (x: number, y: number) => [...image.data.subarray((y * 16 + x) * 3, (y * 16 + x) * 3 + 3)]
    const [r, g, b] = at(5, 5)
    expect(r).toBeGreaterThan(g * 3)
    expect(r).toBeGreaterThan(b * 3)
    expect(at(10, 5)[1]).toBeGreaterThan(at(10, 5)[0] * 3)
    expect(at(5, 10)[2]).toBeGreaterThan(at(5, 10)[0] * 3)
  })

  it('a height map without a normal map bends the surface by its slopes', () => {
    // A ramp up to the right: the side that faces left is brighter under a light from the left.
    const ramp = {
      width: 64,
      height: 64,
      channels: 1,
      data: Uint8Array.from({ length: 64 * 64 }, (_, p) => {
        const x = p % 64
        return x < 32 ? x * 8 : (63 - x) * 8
      }),
    }
    const light = createFloatImage(64, 32, 3)
    for (let j = 8; j < 16; j++) for (let i = 14; i < 18; i++) light.data.fill(20, (j * 64 + i) * 3, (j * 64 + i) * 3 + 3)
    const draw = (textures: OpenPbrMaterial['textures'], reliefM: number) => {
      const material = {
        ...createMaterial('ramp', { baseColor: [0.5, 0.5, 0.5], specularWeight: 0 }, { textures, tileSizeM: [2, 2] }),
        reliefM,
      }
      const mesh = createSheet(
        1,
        1,
        (s, t) => [(s - 0.5) * 2, 0, (t - 0.5) * 2],
        (s, t) => [s * 2, t * 2],
      )
      const { image } = render(
        createScene([{ mesh, material, images: [ramp] }]),
        new EnvironmentLight(light, 1),
        createCamera([0, 4, 0.01], [0, 0, 0], 50, 1),
        { width: 32, height: 32, seed: 1, noiseTarget: 0, maxSamples: 16, background: null, denoised: false },
      )!
      const half = (from: number) => {
        let sum = 0
        for (let y = 8; y < 24; y++) for (let x = from; x < from + 6; x++) sum += image.data[(y * 32 + x) * 3]
        return sum
      }
      return half(8) / half(18)
    }
    const bumped = draw({ displacement: { image: 0, channel: 0 } }, 0.3)
    expect(draw({}, 0.3)).toBeCloseTo(1, 1)
    expect(Math.abs(Math.log(bumped))).toBeGreaterThan(0.2)
    // Lower relief, smaller slope; turned over, the other side is bright.
    expect(Math.abs(Math.log(draw({ displacement: { image: 0, channel: 0 } }, 0.05)))).toBeLessThan(Math.abs(Math.log(bumped)))
  })

  it('what lies under clear glass is about as bright as without it', () => {
    const grey = greyMaterial('floor', 0.5, 0.9)
    const glass = createMaterial('glass', { transmissionWeight: 1, specularIor: 1.5, specularRoughness: 0.02 })
    const bare = mean(draw([{ mesh: floor(), material: grey, images: [] }]).data)
    const pane = createBox(3.9, 0.02, 3.9)
    const lifted = { ...pane, positions: pane.positions.map((v, i) => (i % 3 === 1 ? v + 0.3 : v)) }
    const covered = mean(
      draw([
        { mesh: floor(), material: grey, images: [] },
        { mesh: lifted, material: glass, images: [] },
      ]).data,
    )
    expect(covered / bare).toBeGreaterThan(0.8)
    expect(covered / bare).toBeLessThan(1.15)
  })

  it('a leaf is cut out by its opacity', () => {
    const half: ByteImage = { width: 2, height: 1, channels: 1, data: Uint8Array.from([255, 0]) }
    const leaf = createMaterial(
      'leaf',
      { baseColor: [0, 0, 0], specularWeight: 0 },
      { textures: { geometryOpacity: { image: 0, channel: 0 } }, tileSizeM: [4, 4] },
    )
    const lifted = floor()
    const raised = { ...lifted, positions: lifted.positions.map((v, i) => (i % 3 === 1 ? v + 0.5 : v)) }
    const image = draw(
      [
        { mesh: floor(), material: greyMaterial('floor', 0.6, 0.9), images: [] },
        { mesh: raised, material: leaf, images: [half] },
      ],
      16,
      16,
    )
    expect(image.data[(8 * 16 + 4) * 3]).toBeLessThan(0.05)
    expect(image.data[(8 * 16 + 11) * 3]).toBeGreaterThan(0.1)
  })
})
