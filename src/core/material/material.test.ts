import { describe, expect, it } from 'vitest'
import { makeSurfaceMaps } from '../../../tests/fixtures'
import type { ByteImage, Image } from '../image/image'
import { analyseMaterial, computeSizeFacts } from './analyse-material'
import { buildMaterialFromMaps } from './build-material'
import { guessRoleByContent } from './content-role'
import type { MaterialMap } from './material-subject'
import { findNormalHandedness } from './normal-map'
import { computeMeanAlbedo, computePalette } from './palette'
import { type MapCandidate, parseMapName, recognizeTextureSets } from './texture-set'

const maps = makeSurfaceMaps(128)
const imageOf = (role: string): Image => maps.find(m => m.role === role)!
const flipGreen = (image: Image): ByteImage => {
  const data = Uint8Array.from(image.data)
  for (let i = 1; i < data.length; i += 3) data[i] = 255 - data[i]
  return { ...image, data } as ByteImage
}

describe('normal map handedness', () => {
  it('is read from the curl, and flips when green flips', () => {
    const normal = imageOf('normal')
    expect(findNormalHandedness(normal).handedness).toBe('openGl')
    expect(findNormalHandedness(flipGreen(normal)).handedness).toBe('directX')
    expect(findNormalHandedness(normal).confidence).toBeGreaterThan(0.9)
  })

  it('is left open for a flat map', () => {
    const flat: ByteImage = { width: 32, height: 32, channels: 3, data: new Uint8Array(32 * 32 * 3) }
    for (let i = 0; i < flat.data.length; i += 3) flat.data.set([128, 128, 255], i)
    expect(findNormalHandedness(flat).handedness).toBe('unsure')
  })
})

describe('map names', () => {
  it.each([
    ['Oak_Plank_BaseColor_2K.png', 'baseColor', 'oak plank', null],
    ['oak-plank-diff-4k.jpg', 'baseColor', 'oak plank', null],
    ['metal_plate_diff.png', 'baseColor', 'metal plate', null],
    ['Brick01_nor_gl_1k.exr', 'normal', 'brick01', 'openGl'],
    ['Brick01_NormalDX.png', 'normal', 'brick01', null],
    ['Brick_nrm_dx.png', 'normal', 'brick', 'directX'],
    ['cloth_ORM.png', 'orm', 'cloth', null],
    ['Wall_AmbientOcclusion.png', 'ambientOcclusion', 'wall', null],
    ['floor_gloss.tif', 'gloss', 'floor', null],
    ['Holiday photo.jpg', null, 'holiday photo', null],
  ])('%s', (path, role, stem, handedness) => {
    const parsed = parseMapName(path)
    expect(parsed.role === 'normal' || parsed.role === role).toBe(true)
    if (path !== 'Brick01_NormalDX.png') {
      expect(parsed.role).toBe(role)
      expect(parsed.stem).toBe(stem)
      expect(parsed.handedness).toBe(handedness)
    }
  })
})

describe('recognizing sets', () => {
  const candidate = (
    path: string,
    widthPx = 1024,
    bitsPerChannel = 8,
    contentRole: MapCandidate['contentRole'] = null,
  ): MapCandidate => ({
    path,
    widthPx,
    heightPx: widthPx,
    bitsPerChannel,
    contentRole,
  })

  it('groups by folder and stem, keeps other resolutions beside', () => {
    const { sets, leftOver } = recognizeTextureSets([
      candidate('a/oak_diff_1k.png'),
      candidate('a/oak_diff_4k.png', 4096),
      candidate('a/oak_rough_1k.png'),
      candidate('a/ash_diff_1k.png'),
      candidate('b/oak_diff_1k.png'),
      candidate('a/holiday.png'),
    ])
    expect(sets.map(s => `${s.folder}/${s.stem}`).sort()).toEqual(['a/ash', 'a/oak', 'b/oak'])
    const oak = sets.find(s => s.folder === 'a' && s.stem === 'oak')!
    expect(oak.maps.map(m => m.path).sort()).toEqual(['a/oak_diff_4k.png', 'a/oak_rough_1k.png'])
    expect(oak.alternates.map(m => m.path)).toEqual(['a/oak_diff_1k.png'])
    expect(leftOver).toEqual(['a/holiday.png'])
  })

  it('prefers a 16-bit height to a larger one of 8 bits', () => {
    const { sets } = recognizeTextureSets([candidate('x_height_4k.png', 4096, 8), candidate('x_height_2k.png', 2048, 16)])
    expect(sets[0].maps[0].path).toBe('x_height_2k.png')
  })

  it('goes by content where the name says nothing, and says so', () => {
    const { sets } = recognizeTextureSets([candidate('x/scan003.png', 512, 8, guessRoleByContent(imageOf('normal')))])
    expect(sets[0].maps[0]).toMatchObject({ role: 'normal', reason: 'content' })
  })
})

describe('content roles', () => {
  it('tells normals, colours and masks, and does not guess at grey', () => {
    expect(guessRoleByContent(imageOf('normal'))?.role).toBe('normal')
    expect(guessRoleByContent(imageOf('basecolor'))?.role).toBe('baseColor')
    expect(guessRoleByContent(imageOf('roughness'))).toBeNull()
    const mask: ByteImage = {
      width: 8,
      height: 8,
      channels: 1,
      data: Uint8Array.from({ length: 64 }, (_, i) => (i % 3 ? 255 : 0)),
    }
    expect(guessRoleByContent(mask)?.role).toBe('opacity')
  })
})

describe('palette and albedo', () => {
  it('finds the colours of a two-coloured picture with their shares', () => {
    const data = new Uint8Array(100 * 100 * 3)
    for (let p = 0; p < 10_000; p++) data.set(p < 7000 ? [200, 30, 30] : [30, 30, 200], p * 3)
    const palette = computePalette({ width: 100, height: 100, channels: 3, data })
    expect(palette[0].share).toBeCloseTo(0.7, 1)
    expect(palette[0].color[0]).toBeGreaterThan(palette[0].color[2] * 5)
    expect(palette.reduce((sum, c) => sum + c.share, 0)).toBeCloseTo(1, 2)
  })

  it('LRV of a mid-grey code 119 is 18.4', () => {
    const data = new Uint8Array(12).fill(119)
    expect(computeMeanAlbedo({ width: 2, height: 2, channels: 3, data }).lrv).toBeCloseTo(18.4, 1)
  })
})

describe('analyseMaterial', () => {
  const toMap = (role: MaterialMap['role'], image: Image, more: Partial<MaterialMap> = {}): MaterialMap => ({
    role,
    path: `${role}.png`,
    image,
    widthPx: image.width,
    heightPx: image.height,
    bitsPerChannel: image.data instanceof Uint16Array ? 16 : 8,
    byContentOnly: false,
    profile: null,
    ...more,
  })
  const sound = [
    toMap('baseColor', imageOf('basecolor')),
    toMap('normal', imageOf('normal')),
    toMap('roughness', imageOf('roughness')),
    toMap('height', imageOf('height')),
  ]
  const codes = (list: MaterialMap[], widthMm: number | null = 600, category = 'surfaces.timber') =>
    analyseMaterial({ maps: list, widthMm, category }).findings.map(f => f.code)

  it('finds nothing wrong with a sound set, and measures it', () => {
    expect(codes(sound)).toEqual([])
    const { facts } = analyseMaterial({ maps: sound, widthMm: 600, category: 'surfaces.timber' })
    expect(facts).toMatchObject({ widthMm: 600, heightMm: 600, widthPx: 128, normalMapHandedness: 'openGl' })
    expect(facts.texelDensityPxM).toBeCloseTo(128 / 0.6, 3)
    expect(facts.meanRoughness!).toBeGreaterThan(0.45)
  })

  const replace = (role: MaterialMap['role'], image: Image, more: Partial<MaterialMap> = {}) =>
    sound.map(m => (m.role === role ? toMap(role, image, more) : m))
  const mapped = (image: Image, change: (v: number, i: number) => number): ByteImage =>
    ({ ...image, data: Uint8Array.from(image.data, change) }) as ByteImage

  it.each<[string, MaterialMap[], number | null]>([
    ['realWorldSizeMissing', sound, null],
    ['baseColorMissing', sound.slice(1), 600],
    ['normalDirectX', replace('normal', flipGreen(imageOf('normal'))), 600],
    [
      'normalNotUnitLength',
      replace(
        'normal',
        mapped(imageOf('normal'), v => 128 + (v - 128) * 0.6),
      ),
      600,
    ],
    [
      'albedoOutOfRange',
      replace(
        'baseColor',
        mapped(imageOf('basecolor'), v => v * 0.1),
      ),
      600,
    ],
    [
      'glossAsRoughness',
      replace(
        'roughness',
        mapped(imageOf('roughness'), v => (255 - v) * 0.3),
      ),
      600,
    ],
    [
      'heightBanding',
      replace(
        'height',
        mapped(imageOf('height'), v => v >> 8),
      ),
      600,
    ],
    ['mapSizesDisagree', replace('roughness', imageOf('roughness'), { widthPx: 64, heightPx: 64 }), 600],
    ['roleByContentOnly', replace('normal', imageOf('normal'), { byContentOnly: true }), 600],
    [
      'metalnessNotBinary',
      [
        ...sound,
        toMap(
          'metalness',
          mapped(imageOf('roughness'), () => 120),
        ),
      ],
      600,
    ],
    [
      'tileSeam',
      replace(
        'baseColor',
        mapped(imageOf('basecolor'), (v, i) => Math.min(255, v + ((i / 3) % 128))),
        {},
      ),
      600,
    ],
  ])('finds %s, and only there', (code, list, widthMm) => {
    expect(codes(list, widthMm)).toContain(code)
  })

  it('polished stone may be as smooth as it likes', () => {
    const polished = replace(
      'roughness',
      mapped(imageOf('roughness'), () => 40),
    )
    expect(codes(polished, 600, 'surfaces.stone')).not.toContain('glossAsRoughness')
  })
})

describe('size facts', () => {
  it('follow from the width alone', () => {
    expect(computeSizeFacts(1200, 2048, 1024)).toEqual({ widthMm: 1200, heightMm: 600, texelDensityPxM: 2048 / 1.2 })
    expect(computeSizeFacts(null, 2048, 1024)).toEqual({})
    expect(computeSizeFacts(300, 0, 0)).toEqual({ widthMm: 300 })
  })
})

describe('building the material', () => {
  it('turns gloss over, and lets a packed map fill what is missing', () => {
    expect(buildMaterialFromMaps('x', [{ role: 'gloss', image: 2 }], null).textures.specularRoughness).toEqual({
      image: 2,
      channel: 0,
      inverted: true,
    })
    const packed = buildMaterialFromMaps(
      'x',
      [
        { role: 'orm', image: 0 },
        { role: 'roughness', image: 1 },
      ],
      [1, 1],
    )
    expect(packed.textures.specularRoughness).toEqual({ image: 1, channel: 0 })
    expect(packed.textures.baseMetalness).toEqual({ image: 0, channel: 2 })
  })
})
