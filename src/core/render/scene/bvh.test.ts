import { describe, expect, it } from 'vitest'
import { mergeMeshes, placeMesh } from '../../geometry/mesh'
import { createSphere } from '../../geometry/shapes'
import { affineOf, movePointInPlace, multiplyAffine } from '../../math/affine'
import { createRandom } from '../../math/random'
import { Bvh } from './bvh'
import { createRayHit as newHit } from './ray-caster'
import { type Placement, SimdCaster } from './simd-caster'

function randomTriangles(count: number, seed: number): Float32Array {
  const random = createRandom(seed)
  const out = new Float32Array(count * 9)
  for (let t = 0; t < count; t++) {
    const centre = [random.between(-5, 5), random.between(-5, 5), random.between(-5, 5)]
    for (let k = 0; k < 9; k++) out[t * 9 + k] = centre[k % 3] + random.between(-0.6, 0.6)
  }
  return out
}

/** Every triangle, in doubles: the slow reference. */
function bruteForce(p: Float32Array, o: number[], d: number[]): { triangle: number; distance: number } {
  let best = { triangle: -1, distance: Number.POSITIVE_INFINITY }
  for (let t = 0; t < p.length / 9; t++) {
    const a = p.subarray(t * 9, t * 9 + 3)
    const e1 = [0, 1, 2].map(c => p[t * 9 + 3 + c] - a[c])
    const e2 = [0, 1, 2].map(c => p[t * 9 + 6 + c] - a[c])
    const cross = (x: number[], y: number[]) => [x[1] * y[2] - x[2] * y[1], x[2] * y[0] - x[0] * y[2], x[0] * y[1] - x[1] * y[0]]
    const dot = (x: number[], y: number[]) => x[0] * y[0] + x[1] * y[1] + x[2] * y[2]
    const h = cross(d, e2)
    const det = dot(e1, h)
    if (det === 0) continue
    const s = [0, 1, 2].map(c => o[c] - a[c])
    const u = dot(s, h) / det
    const q = cross(s, e1)
    const v = dot(d, q) / det
    const distance = dot(e2, q) / det
    if (u < 0 || v < 0 || u + v > 1 || distance <= 0 || distance >= best.distance) continue
    best = { triangle: t, distance }
  }
  return best
}

for (const [name, Caster] of [
  ['Bvh', Bvh],
  ['SimdCaster', SimdCaster],
] as const)
  describe(`${name} against every triangle in turn`, () => {
    for (const seed of [1, 2, 3])
      it(`finds the same nearest hit, seed ${seed}`, () => {
        const triangles = randomTriangles(800, seed)
        const bvh = Caster.build({ positions: triangles })
        const random = createRandom(seed + 100)
        const hit = newHit()
        let hits = 0
        for (let k = 0; k < 600; k++) {
          const o = [random.between(-8, 8), random.between(-8, 8), random.between(-8, 8)]
          const d = [random.between(-1, 1), random.between(-1, 1), random.between(-1, 1)]
          const expected = bruteForce(triangles, o, d)
          const found = bvh.closestHit(o[0], o[1], o[2], d[0], d[1], d[2], 1e30, hit)
          expect(found).toBe(expected.triangle >= 0)
          expect(bvh.isOccluded(o[0], o[1], o[2], d[0], d[1], d[2], 1e30)).toBe(found)
          if (!found) continue
          hits++
          expect(hit.triangle).toBe(expected.triangle)
          expect(hit.distance).toBeCloseTo(expected.distance, 4)
        }
        expect(hits).toBeGreaterThan(50)
      })

    it('answers along the axes, where a direction has zeros', () => {
      const bvh = Caster.build({ positions: new Float32Array([-1, -1, 3, 1, -1, 3, 0, 1, 3]) })
      const hit = newHit()
      expect(bvh.closestHit(0, 0, 0, 0, 0, 1, 1e30, hit)).toBe(true)
      expect(hit.distance).toBeCloseTo(3)
      expect(bvh.closestHit(0, 0, 0, 0, 0, -1, 1e30, hit)).toBe(false)
      expect(bvh.isOccluded(0, 0, 0, 0, 0, 1, 2.9)).toBe(false)
    })

    it('passes through holes, and lets light by what is clear', () => {
      const two = new Float32Array([-1, -1, 1, 1, -1, 1, 0, 1, 1, -1, -1, 2, 1, -1, 2, 0, 1, 2])
      const hit = newHit()
      const withHole = Caster.build({ positions: two, masked: new Uint8Array([1, 0]), accept: () => false })
      expect(withHole.closestHit(0, 0, 0, 0, 0, 1, 1e30, hit)).toBe(true)
      expect(hit.triangle).toBe(1)
      const clear = Caster.build({ positions: two, clear: new Uint8Array([1, 1]) })
      expect(clear.isOccluded(0, 0, 0, 0, 0, 1, 1e30)).toBe(false)
      expect(clear.closestHit(0, 0, 0, 0, 0, 1, 1e30, hit)).toBe(true)
      expect(hit.triangle).toBe(0)
    })

    it('takes nothing at all, a thousand triangles in one place, and degenerate ones', () => {
      const hit = newHit()
      expect(Caster.build({ positions: new Float32Array() }).closestHit(0, 0, 0, 0, 0, 1, 1e30, hit)).toBe(false)
      const same = new Float32Array(9000)
      for (let t = 0; t < 1000; t++) same.set([-1, -1, 1, 1, -1, 1, 0, 1, 1], t * 9)
      expect(Caster.build({ positions: same }).closestHit(0, 0, 0, 0, 0, 1, 1e30, hit)).toBe(true)
      expect(Caster.build({ positions: new Float32Array(90) }).closestHit(0, 0, 0, 0, 0, 1, 1e30, hit)).toBe(false)
      expect(() => Caster.build({ positions: new Float32Array(8) })).toThrow(RangeError)
    })
  })

/** What the kernel answers must be what the reference answers, to the bit. */
function expectEqualAnswers(triangles: Float32Array, rays: readonly (readonly number[])[]): { hits: number; blocked: number } {
  const masked = Uint8Array.from({ length: triangles.length / 9 }, (_, t) => (t % 3 === 0 ? 1 : 0))
  const clear = Uint8Array.from({ length: triangles.length / 9 }, (_, t) => (t % 5 === 0 ? 1 : 0))
  const accept = (triangle: number, u: number, v: number) => Math.floor((u + v) * 8 + triangle) % 2 === 0
  const reference = Bvh.build({ positions: triangles, masked, accept, clear })
  const kernel = SimdCaster.build({ positions: triangles, masked, accept, clear })
  const a = newHit()
  const b = newHit()
  let hits = 0
  let blocked = 0
  for (const [ox, oy, oz, dx, dy, dz, far] of rays) {
    const expected = reference.closestHit(ox, oy, oz, dx, dy, dz, far, a)
    const where = `from ${ox}, ${oy}, ${oz} along ${dx}, ${dy}, ${dz}`
    expect(kernel.closestHit(ox, oy, oz, dx, dy, dz, far, b), where).toBe(expected)
    // Where edges meet, either triangle may win by a last bit.
    if (expected && a.triangle === b.triangle) expect([b.distance, b.u, b.v], where).toEqual([a.distance, a.u, a.v])
    else if (expected) expect(Math.abs(b.distance - a.distance) / a.distance, where).toBeLessThan(1e-12)
    const passed = reference.closestHit(ox, oy, oz, dx, dy, dz, far, a, 'solid')
    expect(kernel.closestHit(ox, oy, oz, dx, dy, dz, far, b, 'solid'), where).toBe(passed)
    if (passed) expect(Math.abs(b.distance - a.distance) / a.distance, where).toBeLessThan(1e-12)
    if (expected) hits++
    const occluded = reference.isOccluded(ox, oy, oz, dx, dy, dz, far)
    expect(kernel.isOccluded(ox, oy, oz, dx, dy, dz, far), where).toBe(occluded)
    if (occluded) blocked++
  }
  return { hits, blocked }
}

describe('the SIMD kernel against its slow reference', () => {
  for (const seed of [11, 12, 13, 14])
    it(`random triangles and rays, with holes and glass, seed ${seed}`, () => {
      const random = createRandom(seed)
      const rays = Array.from({ length: 4000 }, () => [
        ...Array.from({ length: 3 }, () => random.between(-8, 8)),
        ...Array.from({ length: 3 }, () => random.between(-1, 1)),
        random.next() < 0.3 ? random.between(0.1, 6) : 1e30,
      ])
      const { hits, blocked } = expectEqualAnswers(randomTriangles(2500, seed), rays)
      expect(hits).toBeGreaterThan(500)
      expect(blocked).toBeGreaterThan(300)
      expect(blocked).toBeLessThan(hits)
    })

  it('rays that start on a surface, graze it, or come from far away at something small', () => {
    const random = createRandom(77)
    const ball = mergeMeshes([createSphere(0.02, [3, 0, 1], 48), placeMesh(createSphere(0.5, [0, 0, 0], 48), [0, 0.5, 0])])
    const soup = new Float32Array(ball.indices.length * 3)
    for (let i = 0; i < ball.indices.length; i++)
      soup.set(ball.positions.subarray(ball.indices[i] * 3, ball.indices[i] * 3 + 3), i * 3)
    const rays: number[][] = []
    for (let k = 0; k < 4000; k++) {
      const t = random.index(soup.length / 9) * 9
      const on = [0, 1, 2].map(c => (soup[t + c] + soup[t + 3 + c] + soup[t + 6 + c]) / 3)
      const any = [0, 1, 2].map(() => random.between(-1, 1))
      rays.push([...on.map((p, c) => p + any[c] * 1e-7), ...any, 1e30])
      // Not quite within a plane of the boxes, where the reference has no margin for rounding and misses some.
      const edge = [0, 1, 2].map(c => soup[t + 3 + c] - soup[t + c] + any[c] * 1e-4)
      rays.push([...on.map((p, c) => p - edge[c] * 20), ...edge, 1e30])
      const away = any.map(a => a * 400)
      rays.push([...away, ...on.map((p, c) => p - away[c]), 1e30])
    }
    expect(expectEqualAnswers(soup, rays).hits).toBeGreaterThan(6000)
  })

  it('directions with zeros, tiny and huge ones', () => {
    const random = createRandom(5)
    const rays = Array.from({ length: 3000 }, (_, k) => {
      const d = [0, 1, 2].map(c => (k % 3 === c ? random.between(-1, 1) : k % 2 ? 0 : random.between(-1, 1)))
      const scale = [1, 1e-6, 1e6][k % 3]
      return [random.between(-8, 8), random.between(-8, 8), random.between(-8, 8), ...d.map(v => v * scale), 1e30]
    })
    expect(expectEqualAnswers(randomTriangles(1500, 8), rays).hits).toBeGreaterThan(200)
  })
})

describe('shapes that are placed', () => {
  const random = createRandom(21)
  const shapes = [randomTriangles(60, 1), randomTriangles(200, 2)]
  const loose = randomTriangles(40, 3)
  const anywhere = (): Placement => ({
    shape: random.index(2),
    toWorld: multiplyAffine(
      affineOf(
        [random.between(-30, 30), random.between(-5, 5), random.between(-30, 30)],
        random.between(0, 6),
        [0.3, 1, -0.7].map(s => s * random.between(0.5, 1.5)),
      ),
      [1, 0.2, 0, 0, 0, 1, 0.1, 0, 0, 0, 1, 0],
    ),
  })
  const joined = (list: Float32Array[]) => Float32Array.from(list.flatMap(soup => [...soup]))
  const ranges = [
    { first: 40, count: 60 },
    { first: 100, count: 200 },
  ]

  const clearOf = (t: number) => (t % 4 === 0 ? 1 + (t % 2) + (t % 3 === 0 ? 1 : 0) : 0)

  /** Every placed triangle written out, and which of all it is. */
  function writtenOut(placements: readonly Placement[]) {
    const names = [...Array(40).keys()].map(t => [t, -1])
    const soup = placements.map(({ shape, toWorld }, p) => {
      const moved = Float32Array.from(shapes[shape])
      for (let at = 0; at < moved.length; at += 3) movePointInPlace(toWorld, moved, at)
      for (let t = 0; t < moved.length / 9; t++) names.push([ranges[shape].first + t, p])
      return moved
    })
    return { positions: joined([loose, ...soup]), names }
  }

  function expectSame(caster: SimdCaster, placements: readonly Placement[]): number {
    const { positions, names } = writtenOut(placements)
    const reference = Bvh.build({ positions, clear: Uint8Array.from(names, ([t]) => clearOf(t)) })
    const [a, b] = [newHit(), newHit()]
    let [placed, off] = [0, 0]
    for (let k = 0; k < 3000; k++) {
      const o = [random.between(-35, 35), random.between(-8, 8), random.between(-35, 35)]
      const d = [random.between(-1, 1), random.between(-0.3, 0.3), random.between(-1, 1)]
      for (const among of ['everything', 'solid', 'tinted'] as const) {
        const expected = reference.closestHit(o[0], o[1], o[2], d[0], d[1], d[2], 1e30, a, among)
        const found = caster.closestHit(o[0], o[1], o[2], d[0], d[1], d[2], 1e30, b, among)
        if (among === 'solid') expect(caster.isOccluded(o[0], o[1], o[2], d[0], d[1], d[2], 1e30)).toBe(found)
        const isSame =
          expected === found &&
          (!found ||
            (names[a.triangle][0] === b.triangle &&
              names[a.triangle][1] === b.placement &&
              Math.abs(a.distance - b.distance) < 1e-4 * (1 + a.distance)))
        if (!isSame) off++
        if (found && b.placement >= 0) placed++
      }
    }
    // Corners written out are rounded to 32 bits; where edges are grazed the two may differ.
    expect(off).toBeLessThan(10)
    return placed
  }

  const positions = joined([loose, ...shapes])
  const clear = Uint8Array.from({ length: 300 }, (_, t) => clearOf(t))

  it('are met as if every triangle stood in the world, turned, stretched, sheared and mirrored; and anew when they are moved', () => {
    const placements = Array.from({ length: 60 }, anywhere)
    const caster = SimdCaster.build({ positions, clear, shapes: ranges }, placements)
    expect(expectSame(caster, placements)).toBeGreaterThan(500)
    const moved = Array.from({ length: 90 }, anywhere)
    caster.place(moved)
    expect(expectSame(caster, moved)).toBeGreaterThan(500)
    caster.place(moved.slice(0, 1))
    expectSame(caster, moved.slice(0, 1))
    caster.place([])
    expect(expectSame(caster, [])).toBe(0)
  })

  it('one that has lost a direction is not there', () => {
    const flat = { shape: 0, toWorld: affineOf([0, 0, 0], 0, [1, 0, 1]) }
    const caster = SimdCaster.build({ positions, shapes: ranges }, [flat, { shape: 0, toWorld: affineOf([0, 0, 20]) }])
    const hit = newHit()
    let seen = 0
    for (let k = 0; k < 500; k++) {
      const found = caster.closestHit(random.between(-5, 5), random.between(-5, 5), 10, 0, 0, 1, 1e30, hit)
      if (found) expect(hit.placement).toBe(1)
      if (found) seen++
    }
    expect(seen).toBeGreaterThan(20)
  })

  it('ten thousand are put elsewhere in less time than a picture takes to be seen', () => {
    const caster = SimdCaster.build({ positions, shapes: ranges })
    const placements = Array.from({ length: 10_000 }, anywhere)
    // The quickest of several: on a busy machine any one of them may have to wait.
    const times = Array.from({ length: 6 }, () => {
      const start = performance.now()
      caster.place(placements)
      return performance.now() - start
    })
    expect(Math.min(...times)).toBeLessThan(500)
  })
})
