import { describe, expect, it } from 'vitest'
import type { ByteImage } from '../image/image'
import { createRandom } from '../math/random'
import { analyseMap } from './analyse-map'
import { cutBox, findStamps, readBox, scaleBox, writeBox } from './cut-out'
import { drawMapSheet } from './draw-map'
import { measureFringe } from './map-checks'
import { bleedColors, dropAlpha, fillRange, toGrey } from './map-fixes'
import { guessMapUse, isGradient, isStandAlone, readMapUse } from './map-use'
import { measureMap } from './measure-map'
import { lengthPx, uncertaintyOf, widthByLine } from './measured-line'

type Paint = (u: number, v: number) => readonly number[]

function paint(width: number, height: number, channels: number, at: Paint): ByteImage {
  const data = new Uint8Array(width * height * channels)
  for (let y = 0, k = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (const value of at((x + 0.5) / width, (y + 0.5) / height)) data[k++] = Math.round(value * 255)
  return { width, height, channels, data }
}

const within = (u: number, v: number, cx: number, cy: number, r: number) => Math.hypot(u - cx, v - cy) < r
const noise = createRandom(5)
const GRAIN = Float64Array.from({ length: 128 * 128 }, () => noise.next())
const grainAt = (u: number, v: number) => GRAIN[Math.floor(v * 128) * 128 + Math.floor(u * 128)]

const analyse = (image: ByteImage, words: string[] = [], widthMm: number | null = null) =>
  analyseMap({
    path: 'a.png',
    image,
    widthPx: image.width,
    heightPx: image.height,
    bitsPerChannel: 8,
    words,
    folderWords: [],
    widthMm,
  })

describe('figures of a map', () => {
  it('are those of what was painted, by alpha where there is one', () => {
    const half = measureMap(paint(64, 64, 4, u => [0.2, 0.2, 0.2, u < 0.5 ? 1 : 0]))
    expect(half).toMatchObject({ isGrey: true, alpha: 'cutOut' })
    expect(half.coverShare).toBeCloseTo(0.5, 6)
    // What is clear has no value.
    expect(half.mean).toBeCloseTo(0.2, 2)
    expect(half.low).toBeCloseTo(0.2, 2)
    const ramp = measureMap(paint(256, 8, 1, u => [u]))
    expect(ramp.mean).toBeCloseTo(0.5, 2)
    expect(ramp.low).toBeLessThan(0.02)
    expect(ramp.high).toBeGreaterThan(0.98)
    expect(Math.max(...ramp.histogram) - Math.min(...ramp.histogram)).toBeLessThan(0.01)
    expect(ramp.histogram.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 6)
  })

  it('tell grey kept as colour from colour, and alpha that says nothing from one that does', () => {
    expect(measureMap(paint(32, 32, 3, u => [u, u, u])).isGrey).toBe(true)
    expect(measureMap(paint(32, 32, 3, u => [u, u * 0.8, 0])).isGrey).toBe(false)
    expect(measureMap(paint(32, 32, 4, u => [u, u, u, 1])).alpha).toBe('unused')
    expect(measureMap(paint(32, 32, 1, u => [u])).alpha).toBe('none')
  })

  it('are the same at 16 bits', () => {
    const bytes = paint(64, 64, 1, (u, v) => [u * v])
    const deep = { ...bytes, data: Uint16Array.from(bytes.data, v => v * 257) }
    expect(measureMap(deep).mean).toBeCloseTo(measureMap(bytes).mean, 6)
    expect(() => measureMap({ ...bytes, data: new Float32Array(64 * 64) })).toThrow(RangeError)
  })
})

describe('what a map is for', () => {
  const mapUseOf = (image: ByteImage) => analyse(image).facts.mapUse
  it('is told by its pixels', () => {
    expect(mapUseOf(paint(128, 128, 1, (u, v) => [within(u, v, 0.4, 0.5, 0.3) ? 1 : 0]))).toBe('mask')
    expect(mapUseOf(paint(128, 128, 1, (u, v) => [0.3 + 0.4 * grainAt(u, v)]))).toBe('grunge')
    expect(mapUseOf(paint(128, 64, 1, u => [u]))).toBe('gradient')
    expect(mapUseOf(paint(128, 128, 4, (u, v) => [0.1, 0.1, 0.1, within(u, v, 0.5, 0.5, 0.3) ? 1 : 0]))).toBe('stamp')
    expect(mapUseOf(paint(128, 128, 4, (u, v) => [0.8, 0.1, 0.1, within(u, v, 0.5, 0.5, 0.3) ? 1 : 0]))).toBe('decal')
    expect(mapUseOf(paint(256, 256, 1, (u, v) => [Math.sin(u * 50.2655) * Math.sin(v * 50.2655) > 0 ? 0.8 : 0.3]))).toBe(
      'pattern',
    )
    expect(mapUseOf(paint(128, 128, 3, (u, v) => [u, grainAt(u, v), v]))).toBe('color')
  })

  it('is told by its name before its pixels, and by its folder where the name is silent', () => {
    expect(readMapUse(['floor', 'smudges'])).toBe('grunge')
    expect(readMapUse(['no', '12'], ['decals'])).toBe('decal')
    expect(readMapUse(['oak'])).toBeNull()
    const ramp = paint(128, 64, 1, u => [u])
    expect(analyse(ramp, ['mask']).facts.mapUse).toBe('mask')
  })

  it('a gradient runs: neither grain, nor an edge, nor an even grey is one', () => {
    expect(isGradient(paint(200, 200, 3, (u, v) => [u, (u + v) / 2, 1 - u]))).toBe(true)
    expect(isGradient(paint(200, 200, 1, (u, v) => [u * 0.6 + 0.3 * grainAt(u, v)]))).toBe(false)
    expect(isGradient(paint(200, 200, 1, u => [u < 0.5 ? 0 : 1]))).toBe(false)
    expect(isGradient(paint(200, 200, 1, () => [0.5]))).toBe(false)
  })

  it('one picture of a surface stays a surface', () => {
    const wood = paint(64, 64, 3, (u, v) => [0.5 + 0.2 * grainAt(u, v), 0.3, 0.2])
    const figures = measureMap(wood)
    const evidence = { figures, guessed: guessMapUse(wood, figures, 0, true), isSurfaceLike: true }
    expect(isStandAlone({ ...evidence, said: null, isNamedSurface: true })).toBe(false)
    expect(isStandAlone({ ...evidence, said: 'grunge', isNamedSurface: true })).toBe(false)
    expect(isStandAlone({ ...evidence, said: 'decal', isNamedSurface: false })).toBe(true)
    expect(isStandAlone({ ...evidence, said: null, isNamedSurface: false })).toBe(false)
  })
})

describe('a sheet of stamps', () => {
  const three: Paint = (u, v) => {
    const isThere = within(u, v, 0.2, 0.3, 0.12) || within(u, v, 0.7, 0.25, 0.18) || within(u, v, 0.5, 0.78, 0.15)
    return [0.2, 0.2, 0.2, isThere ? 1 : 0]
  }
  it('is cut into boxes in reading order, each round its stamp', () => {
    const boxes = findStamps(paint(400, 400, 4, three))
    expect(boxes).toHaveLength(3)
    expect(boxes.map(b => Math.round((b.x + b.width / 2) / 4))).toEqual([20, 70, 50])
    // Radius 0.12 of 400 px and a little air.
    expect(boxes[0].width).toBeGreaterThanOrEqual(96)
    expect(boxes[0].width).toBeLessThan(108)
  })

  it('on white paper is cut as well as one on nothing', () => {
    const onPaper = paint(400, 400, 3, (u, v) => (three(u, v)[3] > 0 ? [0.1, 0.1, 0.1] : [1, 1, 1]))
    expect(findStamps(onPaper)).toHaveLength(3)
  })

  it('letters of a word are one stamp', () => {
    const word = (u: number) => Math.abs(u - 0.12) < 0.02 || Math.abs(u - 0.17) < 0.02 || Math.abs(u - 0.22) < 0.02
    const sheet = paint(400, 400, 4, (u, v) => [
      0,
      0,
      0,
      (word(u) && Math.abs(v - 0.3) < 0.1) || within(u, v, 0.7, 0.7, 0.1) ? 1 : 0,
    ])
    expect(findStamps(sheet)).toHaveLength(2)
  })

  it('one shape, a grid of like dots, grain and a picture to the edge are no sheets', () => {
    expect(findStamps(paint(200, 200, 4, (u, v) => [0, 0, 0, within(u, v, 0.5, 0.5, 0.3) ? 1 : 0]))).toEqual([])
    const dots = paint(400, 400, 3, (u, v) => (within((u * 4) % 1, (v * 4) % 1, 0.5, 0.5, 0.3) ? [0, 0, 0] : [1, 1, 1]))
    expect(findStamps(dots)).toEqual([])
    expect(findStamps(paint(128, 128, 1, (u, v) => [grainAt(u, v)]))).toEqual([])
    expect(findStamps(paint(200, 200, 3, (u, v) => [u, v, 0.5]))).toEqual([])
  })

  it('a box goes through its words and is cut texel for texel', () => {
    const box = { x: 3, y: 2, width: 4, height: 5 }
    expect(readBox(writeBox(box))).toEqual(box)
    expect(readBox('3 2 0 5')).toBeNull()
    expect(readBox('somewhere')).toBeNull()
    const image = paint(10, 10, 1, (u, v) => [(u * 10 + v) / 20])
    const cut = cutBox(image, box)
    expect([cut.width, cut.height]).toEqual([4, 5])
    for (let y = 0; y < 5; y++) for (let x = 0; x < 4; x++) expect(cut.data[y * 4 + x]).toBe(image.data[(y + 2) * 10 + x + 3])
    expect(() => cutBox(image, { ...box, x: 8 })).toThrow(RangeError)
    expect(scaleBox(box, 2.5, 2.5, { width: 25, height: 25 })).toEqual({ x: 7, y: 5, width: 11, height: 13 })
  })
})

describe('findings and their fixes', () => {
  const codesOf = (image: ByteImage, words?: string[]) => analyse(image, words).findings.map(f => f.code)

  it('grey in three channels becomes one, to the code', () => {
    const grey = paint(32, 32, 3, u => [u, u, u])
    expect(codesOf(grey, ['grunge'])).toEqual(['greyInColor'])
    const one = toGrey(grey)
    expect(one.channels).toBe(1)
    expect(one.data[5]).toBe(grey.data[15])
    expect(codesOf(one, ['grunge'])).toEqual([])
  })

  it('alpha that is opaque everywhere is dropped', () => {
    const opaque = paint(32, 32, 4, (u, v) => [u, v, 0.3, 1])
    expect(codesOf(opaque, ['artwork'])).toEqual(['alphaUnused'])
    expect(codesOf(dropAlpha(opaque), ['artwork'])).toEqual([])
  })

  it('a mask that stops short of its ends is stretched to them', () => {
    const short = paint(64, 64, 1, (u, v) => [within(u, v, 0.5, 0.5, 0.3) ? 0.8 : 0.15])
    const [finding] = analyse(short, ['mask']).findings
    expect(finding.code).toBe('rangeNotFull')
    const full = fillRange(short, Number(finding.evidence.low), Number(finding.evidence.high))
    expect(measureMap(full)).toMatchObject({ low: 0, high: 1 })
    expect(codesOf(full, ['mask'])).toEqual([])
    expect(() => fillRange(short, 0.6, 0.6)).toThrow(RangeError)
  })

  it('a pattern that does not wrap is told on the axis where it does not', () => {
    const stripes = paint(256, 256, 3, (u, v) => [0.5 + 0.4 * Math.sin(2 * Math.PI * 7.25 * u), 0.4, Math.abs(v - 0.5)])
    const seams = analyse(stripes, ['pattern']).findings.filter(f => f.code === 'tileSeam')
    expect(seams.map(f => f.evidence.axis)).toEqual(['x'])
    expect(analyse(stripes, ['pattern']).facts.mapTiles).toBe('down')
    // Nothing promises that an artwork repeats.
    expect(codesOf(stripes, ['artwork'])).not.toContain('tileSeam')
  })

  it('colours are carried on under what is clear; what is there, and alpha, stay to the code', () => {
    const cut = paint(65, 40, 4, (u, v) => (within(u, v, 0.5, 0.5, 0.3) ? [0.9, 0.7, 0.2, 1] : [0, 0, 0, 0]))
    expect(codesOf(cut)).toEqual(['edgeFringe'])
    const bled = bleedColors(cut)
    expect(measureFringe(bled)).toBeLessThan(0.01)
    for (let k = 0; k < cut.data.length; k += 4) {
      expect(bled.data[k + 3]).toBe(cut.data[k + 3])
      if (cut.data[k + 3] === 255) expect(bled.data[k]).toBe(cut.data[k])
      else expect(Math.abs(bled.data[k] - 230)).toBeLessThan(2)
    }
  })
})

describe('what repeats', () => {
  const tilesOf = (image: ByteImage) => analyse(image).facts.mapTiles

  it('a chessboard does: where it wraps is an edge as hard as its others', () => {
    expect(tilesOf(paint(200, 200, 1, (u, v) => [(Math.floor(u * 8) + Math.floor(v * 8)) % 2]))).toBe('both ways')
  })

  it('one shape on an even ground does not, though its edges meet; a grid of dots does', () => {
    expect(tilesOf(paint(200, 200, 3, (u, v) => (within(u, v, 0.5, 0.5, 0.3) ? [0.8, 0.4, 0.1] : [1, 1, 1])))).toBe('no')
    const dots = paint(200, 200, 3, (u, v) => (within((u * 4) % 1, (v * 4) % 1, 0.5, 0.5, 0.3) ? [0, 0, 0] : [1, 1, 1]))
    expect(tilesOf(dots)).toBe('both ways')
  })

  it('a grey photograph does not, and is a picture: nobody lays it over a surface', () => {
    const slanted = paint(160, 120, 1, (u, v) => [0.2 + 0.5 * u * u + 0.2 * grainAt(u, v) * v])
    expect(analyse(slanted).facts).toMatchObject({ mapUse: 'color', mapTiles: 'no' })
  })

  it('one clear texel makes no cut-out of a picture', () => {
    const image = paint(100, 100, 4, (u, v) => [u, v, 0.4, 1])
    image.data[4003] = 0
    expect(measureMap(image).alpha).toBe('unused')
  })
})

describe('facts of a map', () => {
  it('of a cut-out have the colour of what is there', () => {
    const { facts } = analyse(paint(96, 96, 4, (u, v) => (within(u, v, 0.5, 0.5, 0.25) ? [1, 0, 0, 1] : [0, 0, 1, 0])))
    expect(facts.meanColor).toBe('#ff0000')
    expect(facts.coverShare).toBeCloseTo(Math.PI * 0.0625, 2)
    expect(facts.mapChannels).toBe('colour, alpha')
  })

  it('have a real height where the width is known', () => {
    expect(
      analyse(
        paint(100, 50, 1, u => [u]),
        [],
        800,
      ).facts,
    ).toMatchObject({ widthMm: 800, heightMm: 400, texelDensityPxM: 125 })
  })
})

describe('a width measured by a line', () => {
  const size = { width: 2000, height: 1000 }
  it('is in proportion, whichever way the line runs', () => {
    const across = { from: { u: 0.25, v: 0.5 }, to: { u: 0.75, v: 0.5 } }
    expect(widthByLine(across, size, 600)).toBeCloseTo(1200, 9)
    const down = { from: { u: 0.1, v: 0.1 }, to: { u: 0.1, v: 0.6 } }
    expect(lengthPx(down, size)).toBe(500)
    expect(widthByLine(down, size, 600)).toBeCloseTo(2400, 9)
    expect(uncertaintyOf(down, size)).toBeCloseTo(0.0014, 4)
  })

  it('is none of a dot, or of no length', () => {
    const dot = { from: { u: 0.5, v: 0.5 }, to: { u: 0.5005, v: 0.5 } }
    expect(widthByLine(dot, size, 600)).toBeNull()
    expect(widthByLine({ ...dot, to: { u: 1, v: 1 } }, size, Number.NaN)).toBeNull()
    expect(widthByLine({ ...dot, to: { u: 1, v: 1 } }, size, 0)).toBeNull()
  })
})

describe('a map laid flat', () => {
  it('shows its own codes, its texels at one to one, and checks where it is clear', () => {
    const image = paint(300, 300, 4, u => [0.2, 0.4, 0.6, u < 0.5 ? 1 : 0])
    const sheet = drawMapSheet(image, { width: 384, aspect: 4 / 3, tiles: false, mount: 120 })
    expect([sheet.width, sheet.height]).toEqual([384, 288])
    const at = (x: number, y: number) => [...sheet.data.subarray((y * 384 + x) * 3, (y * 384 + x) * 3 + 3)]
    expect(at(40, 144)).toEqual([51, 102, 153])
    const grounds = new Set(Array.from({ length: 60 }, (_, k) => at(200 + k, 144).join()))
    expect([...grounds].sort()).toEqual(['158,158,158', '206,206,206'])
    // The edge at one to one stands in the middle of its place, between texels 149 and 150.
    const close = Array.from({ length: 384 - 293 }, (_, k) => at(293 + k, 20)[2] === 153)
    expect(close.lastIndexOf(true)).toBe(close.filter(Boolean).length - 1)
    expect(Math.abs(close.lastIndexOf(true) + 1 - close.length / 2)).toBeLessThanOrEqual(1)
  })

  it('of what tiles shows four times four', () => {
    const image = paint(64, 64, 1, u => [u < 0.5 ? 1 : 0])
    const sheet = drawMapSheet(image, { width: 384, aspect: 4 / 3, tiles: true, mount: 120 })
    const row = Array.from({ length: 288 }, (_, x) => sheet.data[(100 * 384 + x) * 3])
    const edges = row.filter((v, x) => x > 0 && Math.abs(v - row[x - 1]) > 128).length
    expect(edges).toBe(7)
  })
})
