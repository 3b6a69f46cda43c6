import { act, renderHook } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'
import type { Lens } from '#core/mock-up/composing/look-through'
import { EMPTY_SCENE, type Scene, sceneSchema } from '#core/mock-up/scene/scene'
import { keyOf } from '../../../testing/mock-up-item'
import { keepSession } from './keep-session'
import { useShots } from './use-shots'

vi.mock('sonner', () => ({ toast: () => {} }))

const shot = (place: number, more: object = {}) => ({
  ...{ name: `Shot ${place}`, place, position: [0, 1.6, 4 + place], target: [0, 1, 0], focalMm: 35, aspect: 1.5 },
  ...more,
})
const SKY = { name: 'Noon', item: { code: 'SKY-0001', version: 1, inputKey: keyOf('sky') }, turnDeg: 40, ev: 1 }
const sceneWith = (shots: Record<string, object>, skies: Record<string, object> = {}): Scene =>
  sceneSchema.parse({ ...EMPTY_SCENE, shots, skies })

function begin(scene: Scene) {
  const kept = keepSession(scene)
  const size = { width: 1280, height: 640 }
  const { result, rerender } = renderHook(() => useShots(kept.now(), kept.session, new Map(), size))
  const does = (what: (shown: typeof result.current) => void) => {
    act(() => what(result.current))
    rerender()
    return result.current
  }
  return { does, shown: () => result.current, now: kept.now }
}
const ELSEWHERE: Lens = { position: [3, 2, 3], target: [0, 1, 0], focalMm: 90, aspect: 1, isUpright: true }

describe('the shots of a mock-up', () => {
  it('begin with the first from the left, and go to another', () => {
    const { does, shown } = begin(sceneWith({ b: shot(2), a: shot(1) }))
    expect([shown().shotId, shown().shots.map(([id]) => id)]).toEqual(['a', ['a', 'b']])
    expect(does(s => s.toShot('b')).lens.position).toEqual([0, 1.6, 6])
    expect(shown().isAway).toBe(false)
  })

  it('are looked away from with their own focal length and proportions, come back to, or set to where one looks from', () => {
    const { does, now } = begin(sceneWith({ a: shot(1) }))
    const away = does(s => s.look(ELSEWHERE))
    expect(away.lens).toMatchObject({ position: [3, 2, 3], focalMm: 35, aspect: 1.5 })
    expect(away.isAway).toBe(true)
    expect(does(s => s.goBack()).isAway).toBe(false)
    does(s => s.look(ELSEWHERE))
    expect(does(s => s.setHere()).isAway).toBe(false)
    expect(now().shots.a.position).toEqual([3, 2, 3])
  })

  it('are taken where one looks from, to the right of the others, under the sky in use', () => {
    const { does, now } = begin(sceneWith({ a: shot(1) }, { noon: SKY }))
    does(s => s.setSky('noon'))
    does(s => s.look(ELSEWHERE))
    const after = does(s => s.take())
    const made = now().shots[after.shotId!]
    expect(after.shotId).not.toBe('a')
    expect(made).toMatchObject({ name: 'Shot 2', place: 2, position: [3, 2, 3], focalMm: 35, sky: 'noon' })
    expect(now().shots.a.sky).toBe('noon')
  })

  it('without one there is a view all the same, with a sky of its own, and none is changed by it', () => {
    const { does, shown, now } = begin(sceneWith({}, { noon: SKY }))
    expect([shown().shotId, shown().skyId, shown().isAway]).toEqual([null, 'noon', false])
    const before = now()
    expect(does(s => s.setSky(null)).skyId).toBeNull()
    does(s => {
      s.setHere()
      s.goBack()
    })
    expect(now()).toBe(before)
  })

  it('add the brightness of their sky to their own, turned as it is', () => {
    const { shown } = begin(sceneWith({ a: shot(1, { sky: 'noon', ev: 0.5 }) }, { noon: SKY }))
    expect(shown().light).toMatchObject({ turnDeg: 40, ev: 1.5, share: 1 })
    // A sky that was taken out is none.
    expect(begin(sceneWith({ a: shot(1, { sky: 'gone' }) })).shown()).toMatchObject({
      skyId: null,
      light: { ev: 0, background: 'plain' },
    })
  })
})
