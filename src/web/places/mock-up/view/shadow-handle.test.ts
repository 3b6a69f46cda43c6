import { describe, expect, it } from 'vitest'
import { type Lens, seeThrough } from '#core/mock-up/composing/look-through'
import { shotSchema } from '#core/mock-up/scene/scene'
import { holdOf, shadowOf } from './ShadowHandle'

const post = { min: [-0.1, 0, -0.1], max: [0.1, 2, 0.1] } as Parameters<typeof shadowOf>[0]

describe('the shadow of a piece', () => {
  it('ends away from the sun, as far out as the sun is low', () => {
    // From the south: the shadow falls to the north, which is -z.
    const noon = shadowOf(post, 180, 45)!
    const off = noon.end.map((v, k) => v - [0, 0, -2][k])
    expect(Math.hypot(...off)).toBeLessThan(1e-9)
    expect(noon.foot).toEqual([0, 0, 0])
    expect(shadowOf(post, 90, 30)!.end[0]).toBeCloseTo(-2 / Math.tan(Math.PI / 6), 9)
  })

  it('of a very low sun is held near enough; of one at the horizon, and of what lies flat, there is none', () => {
    expect(Math.hypot(...shadowOf(post, 90, 1.5)!.end)).toBeCloseTo(30, 9)
    expect(shadowOf(post, 90, 0.5)).toBeNull()
    expect(shadowOf({ ...post, max: [0.1, 0, 0.1] }, 90, 40)).toBeNull()
  })

  it('is taken hold of at its end, or as far out as is seen', () => {
    const lens: Lens = shotSchema.parse({
      name: 'One',
      place: 0,
      position: [0, 1.6, 8],
      target: [0, 1, 0],
      focalMm: 35,
      aspect: 1.6,
    })
    const near = shadowOf(post, 90, 60)!
    expect(holdOf(near, lens)).toEqual(seeThrough(lens, near.end))
    const far = shadowOf(post, 90, 4)!
    const end = seeThrough(lens, far.end)!
    expect(Math.abs(end.x)).toBeGreaterThan(1)
    const hold = holdOf(far, lens)!
    expect(Math.abs(hold.x)).toBeLessThan(1)
    // On the way there, on the same side.
    expect(Math.sign(hold.x)).toBe(Math.sign(end.x))
    expect(holdOf(far, { ...lens, target: [0, 40, 8] })).toBeNull()
  })
})
