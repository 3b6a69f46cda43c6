import { act, renderHook } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'
import type { Box } from '#core/mock-up/placing/snapping'
import { applyChange } from '#core/mock-up/scene/change'
import { lock, place } from '#core/mock-up/scene/pieces'
import { EMPTY_SCENE, type Scene } from '#core/mock-up/scene/scene'
import { makeMockUpItem } from '../../../testing/mock-up-item'
import type { Chosen } from '../state/chosen'
import { keepSession } from '../state/keep-session'
import { useStandIn } from './use-stand-in'

const told = vi.hoisted(() => ({ toast: vi.fn() }))
vi.mock('sonner', () => told)

const block = makeMockUpItem({ key: 'block', id: 1, kind: 'model' })
const chair = makeMockUpItem({ key: 'chair', id: 2, kind: 'model', sizeM: [0.5, 0.8, 0.5] })
const oak = makeMockUpItem({ key: 'oak', id: 3 })
const all = ['a', 'b', 'c', 'd'].reduce<Scene>(
  (so, id, n) => applyChange(so, place(id, (id === 'd' ? chair : block).ref, { name: id, at: [n, 0, 0] })).scene,
  EMPTY_SCENE,
)
const scene = applyChange(all, lock(all, ['c'], true)).scene
const BOXES = new Map<string, Box>([[block.ref.inputKey, { min: [-0.2, 0, -0.2], max: [0.2, 0.4, 0.2] }]])

function begin(chosen: Chosen = { kind: 'pieces', ids: ['a'], part: null }) {
  const { session, now, taken } = keepSession(scene)
  const placed: string[][] = []
  const { result, rerender } = renderHook(
    ({ chosen }: { chosen: Chosen }) =>
      useStandIn({
        ...{ scene, session, models: new Map(), ownBoxes: BOXES, chosen, activeGroup: null },
        find: async ids => [block, chair, oak].filter(i => ids.includes(i.id!)),
        onPlaced: ids => placed.push([...ids]),
      }),
    { initialProps: { chosen } },
  )
  const wish = (isForAll: boolean, isFitted: boolean) => act(() => result.current.setWish({ isForAll, isFitted }))
  const take = async (id: number) => {
    let isTaken = false
    await act(async () => {
      isTaken = await result.current.take([id])
    })
    return isTaken
  }
  const codes = () => ['a', 'b', 'c', 'd'].map(id => now().pieces[id].item.code)
  return { result, rerender, wish, take, codes, now, taken, placed }
}

describe('another model in the place of what is chosen', () => {
  it('is not put anywhere unless it was asked for', async () => {
    const { take, now } = begin()
    expect(await take(2)).toBe(false)
    expect(now()).toBe(scene)
  })

  it('stands where one was, or all of its kind that are not locked', async () => {
    const one = begin()
    one.wish(false, false)
    // Those of the same item: itself, and the one that is free.
    expect(one.result.current.alike).toBe(2)
    expect(await one.take(2)).toBe(true)
    expect(one.codes()).toEqual(['CHAIR', 'BLOCK', 'BLOCK', 'CHAIR'])
    const kind = begin()
    kind.wish(true, false)
    await kind.take(2)
    expect(kind.codes()).toEqual(['CHAIR', 'CHAIR', 'BLOCK', 'CHAIR'])
    expect(kind.placed).toEqual([['a', 'b']])
    expect(told.toast.mock.lastCall![0]).toBe('chair in the place of 2 things.')
    told.toast.mock.lastCall![1].action.onClick()
    expect(kind.taken()).toBe(1)
  })

  it('is as high as what it stands for where that is asked for, else at its true size', async () => {
    const fitted = begin()
    fitted.wish(false, true)
    await fitted.take(2)
    expect(fitted.now().pieces.a.scale).toBeCloseTo(0.5, 9)
    const own = begin()
    own.wish(false, false)
    await own.take(2)
    expect(own.now().pieces.a.scale).toBe(1)
  })

  it('is no material, and the wish is for what was chosen then', async () => {
    const { wish, take, rerender, result, now } = begin()
    wish(false, false)
    expect(await take(3)).toBe(false)
    expect(result.current.wish).not.toBeNull()
    rerender({ chosen: { kind: 'pieces', ids: ['b'], part: null } })
    expect(result.current.wish).toBeNull()
    expect(await take(2)).toBe(false)
    expect(now()).toBe(scene)
  })
})
