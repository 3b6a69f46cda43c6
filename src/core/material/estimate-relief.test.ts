import { describe, expect, it } from 'vitest'
import { TEXTURE_RECIPES } from '#demo/materials'
import { makeMaps } from '#demo/texture-set'
import type { ByteImage } from '../image/image'
import { estimateRelief } from './estimate-relief'

const SIZE = 128
const picture = (channels: number, value: (x: number, y: number, c: number) => number): ByteImage => ({
  width: SIZE,
  height: SIZE,
  channels,
  data: Uint8Array.from({ length: SIZE * SIZE * channels }, (_, i) => {
    const p = Math.floor(i / channels)
    return Math.round(255 * value((p % SIZE) / SIZE, Math.floor(p / SIZE) / SIZE, i % channels))
  }),
})
const TURNS = 2 * Math.PI * 3
const waves = (x: number, y: number) => 0.5 + 0.25 * Math.sin(TURNS * x) + 0.25 * Math.cos(TURNS * y)

/** Normals of a relief so deep on a tile of one metre by two. */
function normalsOf(reliefM: number, green: 1 | -1): ByteImage {
  return picture(3, (x, y, c) => {
    const slopeU = 0.25 * TURNS * Math.cos(TURNS * x) * reliefM
    const slopeDown = (-0.25 * TURNS * Math.sin(TURNS * y) * reliefM) / 2
    const n = [-slopeU, slopeDown * green, 1]
    return 0.5 + (0.5 * n[c]) / Math.hypot(...n)
  })
}

describe('the depth of a height map from the normals beside it', () => {
  const height = { image: picture(1, waves), channel: 0 }
  it('is what the normals were made of, whichever way their green points', () => {
    for (const relief of [0.01, 0.04])
      for (const handedness of ['openGl', 'directX'] as const) {
        const normal = { image: normalsOf(relief, handedness === 'openGl' ? 1 : -1), handedness }
        expect(estimateRelief(height, normal, [1, 2])! / relief).toBeCloseTo(1, 1)
      }
  })

  it('is unknown where the normals are of something else, flat, or of another size', () => {
    const other = picture(3, (x, y, c) => (c === 2 ? 0.95 : 0.5 + 0.2 * Math.sin((c + 5) * 7 * (x - y))))
    const flat = picture(3, (_x, _y, c) => (c === 2 ? 1 : 0.5))
    for (const image of [other, flat, { ...other, width: SIZE / 2, height: SIZE * 2 }])
      expect(estimateRelief(height, { image, handedness: 'openGl' }, [1, 2])).toBeNull()
  })

  it('of a brick wall of the demo world is some millimetres', () => {
    const recipe = TEXTURE_RECIPES.find(r => /Brick/.test(r.stem))!
    const maps = makeMaps({ ...recipe, sizePx: 256 })
    const of = (role: string) => maps.find(m => m.role === role)!
    const image = of('height')
    const bytes = {
      ...image,
      data: Uint8Array.from(image.data, v => (image.data instanceof Uint16Array ? v >> 8 : v)),
    } as ByteImage
    const relief = estimateRelief({ image: bytes, channel: 0 }, { image: of('normal') as ByteImage, handedness: 'openGl' }, [
      recipe.widthMm / 1000,
      (recipe.widthMm / 1000) * (recipe.aspect ?? 1),
    ])
    expect(relief).toBeGreaterThan(0.002)
    expect(relief).toBeLessThan(0.03)
  })
})
