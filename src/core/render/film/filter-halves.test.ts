import { describe, expect, it } from 'vitest'
import { luminance } from '../../color/srgb'
import { createRandom } from '../../math/random'
import { mean } from '../../math/statistics'
import { boxMean, filterHalves, type Half } from './filter-halves'

const SIZE = 24
const COUNT = SIZE * SIZE

/** Two halves of a picture by column, with the same base colour as light, a normal towards the camera, and even noise. */
function createHalves(level: (x: number) => number, spread = 0.3, baseColor: (x: number) => number = () => 0.5): [Half, Half] {
  const random = createRandom(4)
  const create = (): Half => {
    const half = { color: new Float32Array(COUNT * 3), features: new Float32Array(COUNT * 7) }
    for (let p = 0; p < COUNT; p++) {
      half.color.fill(level(p % SIZE) * random.between(1 - spread, 1 + spread), p * 3, p * 3 + 3)
      half.features.fill(baseColor(p % SIZE), p * 7, p * 7 + 3)
      half.features.set([0, 0, 1, 2], p * 7 + 3)
    }
    return half
  }
  return [create(), create()]
}

const variance = (value = 0.01) => new Float32Array(COUNT).fill(value)
const deviation = (values: Float32Array) => {
  const about = mean(values)
  return Math.sqrt(mean(values.map(v => (v - about) ** 2)))
}
const column = (data: Float32Array, x: number) => mean(Array.from({ length: SIZE }, (_, y) => data[(y * SIZE + x) * 3]))

describe('filtering a picture by its halves', () => {
  it('calms noise and keeps the mean', () => {
    const halves = createHalves(() => 0.5)
    for (const [k, calm] of filterHalves(halves, variance(), SIZE, SIZE).entries()) {
      expect(deviation(calm)).toBeLessThan(deviation(halves[k].color) * 0.35)
      expect(mean(calm) / mean(halves[k].color)).toBeCloseTo(1, 2)
    }
  })

  it('keeps a texture that its base colour explains, however noisy', () => {
    const stripes = (x: number) => 0.2 + 0.1 * (x % 3)
    const [calm] = filterHalves(createHalves(stripes, 0.3, stripes), variance(), SIZE, SIZE)
    for (let x = 3; x < 20; x++) expect(Math.abs(column(calm, x) - stripes(x))).toBeLessThan(0.025)
  })

  it('keeps an edge where the surface turns', () => {
    const halves = createHalves(x => (x >= SIZE / 2 ? 0.1 : 0.8))
    for (const { features } of halves)
      for (let p = 0; p < COUNT; p++) if (p % SIZE >= SIZE / 2) features.set([1, 0, 0], p * 7 + 3)
    const [calm] = filterHalves(halves, variance(), SIZE, SIZE)
    expect(column(calm, SIZE / 2 - 1)).toBeGreaterThan(0.7)
    expect(column(calm, SIZE / 2)).toBeLessThan(0.15)
  })

  it('keeps an edge that nothing but the light shows, where it is clear of the noise', () => {
    const halves = createHalves(x => (x >= SIZE / 2 ? 0.1 : 0.8), 0.05)
    const [calm] = filterHalves(halves, variance(), SIZE, SIZE)
    expect(column(calm, SIZE / 2 - 1)).toBeGreaterThan(0.75)
    expect(column(calm, SIZE / 2)).toBeLessThan(0.15)
  })

  it('holds a firefly to its neighbours, but not a light that both halves show', () => {
    const halves = createHalves(() => 0.2)
    const p = 10 * SIZE + 10
    halves[0].color.fill(40, p * 3, p * 3 + 3)
    expect(filterHalves(halves, variance(), SIZE, SIZE)[0][p * 3]).toBeLessThan(1)
    halves[1].color.fill(40, p * 3, p * 3 + 3)
    expect(filterHalves(halves, variance(1e-6), SIZE, SIZE)[0][p * 3]).toBeGreaterThan(10)
  })

  it('fits only what is wanted, and that as if it fitted all', () => {
    const halves = createHalves(x => 0.2 + x / 40)
    const wanted = Uint8Array.from({ length: COUNT }, (_, p) => (p % SIZE < 12 ? 1 : 0))
    const [part] = filterHalves(halves, variance(), SIZE, SIZE, wanted)
    const [whole] = filterHalves(halves, variance(), SIZE, SIZE)
    expect(column(part, 14)).toBe(0)
    expect(column(part, 2)).toBeCloseTo(column(whole, 2), 3)
  })

  it('of a single pixel, of no light, of light without bound: numbers', () => {
    const one = (value: number): Half => ({ color: new Float32Array(3).fill(value), features: new Float32Array(7) })
    for (const value of [0, 1, 1e30]) {
      const [a, b] = filterHalves([one(value), one(value)], new Float32Array([0]), 1, 1)
      expect([...a, ...b].every(Number.isFinite)).toBe(true)
      expect(a[0] / Math.max(1, value)).toBeCloseTo(value > 0 ? 1 : 0, 3)
    }
  })

  it('leaves no clouds where a window is too narrow to see them, and the edge as sharp as it was', () => {
    const [width, height] = [160, 96]
    const random = createRandom(8)
    const halves = [0, 1].map(() => {
      const half = { color: new Float32Array(width * height * 3), features: new Float32Array(width * height * 7) }
      for (let p = 0; p < width * height; p++) {
        half.color.fill((p % width < 100 ? 0.5 : 0.1) * random.between(0.4, 1.6), p * 3, p * 3 + 3)
        half.features.set(p % width < 100 ? [0.5, 0.5, 0.5, 0, 0, 1, 2] : [0.5, 0.5, 0.5, 1, 0, 0, 2], p * 7)
      }
      return half
    }) as [Half, Half]
    const noise = new Float32Array(width * height).fill(0.03)
    const flat = (data: Float32Array) =>
      deviation(Float32Array.from({ length: 60 * 60 }, (_, i) => data[((18 + Math.floor(i / 60)) * width + 20 + (i % 60)) * 3]))
    const at = (data: Float32Array, x: number) => mean(Array.from({ length: 60 }, (_, y) => data[((18 + y) * width + x) * 3]))
    const [once] = filterHalves(halves, noise, width, height, null, 1)
    const [thrice] = filterHalves(halves, noise, width, height)
    expect(flat(thrice)).toBeLessThan(flat(once) * 0.6)
    for (const filtered of [once, thrice]) {
      expect(at(filtered, 99)).toBeGreaterThan(0.45)
      expect(at(filtered, 100)).toBeLessThan(0.15)
    }
  })

  it('equals the plain regression, term for term', () => {
    const random = createRandom(9)
    const halves = createHalves(x => 0.3 + 0.2 * Math.sin(x))
    for (const { features } of halves)
      for (let p = 0; p < COUNT; p++) {
        for (let k = 0; k < 6; k++) features[p * 7 + k] += random.between(-0.2, 0.2)
        features[p * 7 + 6] += random.between(0, 0.5)
      }
    const ours = filterHalves(halves, variance(), SIZE, SIZE, null, 1)
    const plain = filterPlainly(halves, variance())
    for (let i = 0; i < COUNT * 3; i++) expect(Math.abs(ours[0][i] - plain[i])).toBeLessThan(2e-3)
  })
})

it('a mean over a box counts only what lies in the picture', () => {
  const values = Float32Array.from({ length: 20 }, (_, i) => i)
  const out = boxMean(values, 5, 4, 1)
  expect(out[0]).toBeCloseTo((0 + 1 + 5 + 6) / 4)
  expect(out[12]).toBeCloseTo(12)
  expect([...boxMean(values, 5, 4, 0)]).toEqual([...values])
})

/** The first half filtered as filter-halves.ts says, in doubles and without haste. */
function filterPlainly([own, other]: [Half, Half], variance: Float32Array): Float32Array {
  const lumOf = ({ color }: Half) =>
    Float32Array.from({ length: COUNT }, (_, p) => Math.min(4, luminance(color[p * 3], color[p * 3 + 1], color[p * 3 + 2])))
  const [a, b] = [lumOf(own), lumOf(other)]
  const seen = boxMean(
    a.map((v, p) => (v - b[p]) ** 2 / 2),
    SIZE,
    SIZE,
    5,
  )
  const told = boxMean(variance, SIZE, SIZE, 5)
  const spread = boxMean(variance, SIZE, SIZE, 1).map((v, p) => (v * seen[p]) / Math.max(told[p], 1e-12))
  const clamp = (v: number) => Math.min(SIZE - 1, Math.max(0, v))
  const at = (plane: Float32Array, x: number, y: number) => plane[clamp(y) * SIZE + clamp(x)]
  const floors = [0.02, 0.02, 0.02, 0.03, 0.03, 0.03]
  const sums = new Float64Array(COUNT * 4)
  const fitAt = (cx: number, cy: number) => {
    const kept: { p: number; w: number; terms: number[] }[] = []
    const middle = (cy * SIZE + cx) * 7
    for (let y = cy - 5; y <= cy + 6; y++)
      for (let x = cx - 5; x <= cx + 6; x++) {
        if (x < 0 || y < 0 || x >= SIZE || y >= SIZE) continue
        let away = 0
        for (let j = -1; j <= 1; j++)
          for (let i = -1; i <= 1; i++) {
            const [vp, vq] = [at(spread, cx + i, cy + j), at(spread, x + i, y + j)]
            const difference = at(b, cx + i, cy + j) - at(b, x + i, y + j)
            away += (difference ** 2 - vp - Math.min(vp, vq)) / (1e-9 + 0.55 ** 2 * (vp + vq))
          }
        const w = Math.min(1, Math.max(0, 1 - away / 72)) ** 8
        if (w < 0.01) continue
        const p = y * SIZE + x
        const terms = [1, ...floors.map((f, k) => (own.features[p * 7 + k] - own.features[middle + k]) / f)]
        terms.push((own.features[p * 7 + 6] - own.features[middle + 6]) / (0.01 * own.features[middle + 6]))
        kept.push({ p, w, terms })
      }
    const whole = kept.reduce((sum, { w }) => sum + w, 0)
    const rows = Array.from({ length: 8 }, (_, k) => [
      ...Array.from(
        { length: 8 },
        (_, n) => kept.reduce((sum, { w, terms }) => sum + w * terms[k] * terms[n], 0) + (k === n && k > 0 ? whole : 0),
      ),
      ...[0, 1, 2].map(c => kept.reduce((sum, { p, w, terms }) => sum + w * terms[k] * own.color[p * 3 + c], 0)),
    ])
    for (let i = 0; i < 8; i++)
      for (let k = 0; k < 8; k++)
        if (k !== i) {
          const factor = rows[k][i] / rows[i][i]
          for (let n = i; n < 11; n++) rows[k][n] -= factor * rows[i][n]
        }
    for (const { p, w, terms } of kept) {
      for (let c = 0; c < 3; c++) sums[p * 4 + c] += w * terms.reduce((sum, t, k) => sum + (t * rows[k][8 + c]) / rows[k][k], 0)
      sums[p * 4 + 3] += w
    }
  }
  for (let y = 0; y < SIZE; y += 2) for (let x = 0; x < SIZE; x += 2) fitAt(x, y)
  for (let p = 0; p < COUNT; p++) if (sums[p * 4 + 3] === 0) fitAt(p % SIZE, Math.floor(p / SIZE))
  return Float32Array.from({ length: COUNT * 3 }, (_, i) => {
    const [p, c] = [Math.floor(i / 3), i % 3]
    return Math.max(0, sums[p * 4 + c] / sums[p * 4 + 3])
  })
}
