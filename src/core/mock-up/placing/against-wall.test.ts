import { describe, expect, it } from 'vitest'
import { rotate, turnAbout } from '../../math/quaternion'
import type { Vec3 } from '../../math/vec3'
import { standAt } from './against-wall'

const LAMP: Vec3 = [0.2, 0.3, 0.16]
const CABINET: Vec3 = [1.2, 0.8, 0.5]
const near = (a: readonly number[], b: readonly number[]) => {
  expect(a).toEqual(b.map(v => expect.closeTo(v, 9)))
}

describe('what is put on a face', () => {
  it('stands where it is put on what is level, and beside its neighbours', () => {
    const [one, two, three] = standAt({ point: [1, 0.7, 2], normal: [0, 1, 0] }, [LAMP, CABINET, null])
    expect(one).toEqual({ at: [1, 0.7, 2], turnDeg: 0 })
    near(two.at, [1 + 0.1 + 0.1 + 0.6, 0.7, 2])
    near(three.at, [1 + 0.1 + 0.1 + 1.2 + 0.1 + 0.35, 0.7, 2])
    // Under something it is put there as well: that is for the eye to judge.
    expect(standAt({ point: [0, 2.5, 0], normal: [0, -1, 0] }, [LAMP])[0]).toEqual({ at: [0, 2.5, 0], turnDeg: 0 })
  })

  it('has its back to the wall whichever way that faces, the shallow hung by its middle, the deep on the floor', () => {
    for (const [normal, turnDeg] of [
      [[0, 0, 1], 0],
      [[1, 0, 0], 90],
      [[0, 0, -1], 180],
      [[-1, 0, 0], -90],
      [[Math.SQRT1_2, 0, Math.SQRT1_2], 45],
    ] as [Vec3, number][]) {
      const point: Vec3 = [3, 1.5, -2]
      const [lamp] = standAt({ point, normal }, [LAMP])
      expect(lamp.turnDeg).toBeCloseTo(turnDeg, 9)
      near(lamp.at, [3 + normal[0] * 0.08, 1.35, -2 + normal[2] * 0.08])
      // Its front looks away from the wall, and its back lies on it.
      near(rotate(turnAbout([0, 1, 0], lamp.turnDeg), [0, 0, 1]), normal)
      const [cabinet] = standAt({ point, normal }, [CABINET])
      near(cabinet.at, [3 + normal[0] * 0.25, 0, -2 + normal[2] * 0.25])
      // Neighbours go along the wall, to the right of who looks at it.
      const [, next] = standAt({ point, normal }, [LAMP, LAMP])
      near(
        next.at.map((v, k) => v - lamp.at[k]),
        [0.3 * normal[2], 0, -0.3 * normal[0]],
      )
    }
  })

  it('that would hang just above the floor stands on it; of unknown size it is put at the point', () => {
    expect(standAt({ point: [0, 0.35, 0], normal: [0, 0, 1] }, [LAMP])[0].at[1]).toBe(0)
    expect(standAt({ point: [0, 1.35, 0], normal: [0, 0, 1] }, [LAMP], 1)[0].at[1]).toBe(1)
    expect(standAt({ point: [0, 1.2, 0], normal: [1, 0, 0] }, [null])[0]).toMatchObject({ at: [0, 1.2, 0], turnDeg: 90 })
    // A bookcase is as shallow as what hangs, and stands.
    expect(standAt({ point: [0, 2.2, 0], normal: [0, 0, 1] }, [[0.9, 2, 0.3]])[0].at[1]).toBe(0)
    // A leaning wall is one, a ramp is not.
    expect(standAt({ point: [0, 1, 0], normal: [0.9, 0.43, 0] }, [LAMP])[0].turnDeg).toBeCloseTo(90, 9)
    expect(standAt({ point: [0, 1, 0], normal: [0.6, 0.8, 0] }, [LAMP])[0].turnDeg).toBe(0)
  })
})
