import { act, renderHook } from '@testing-library/react'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Vec3 } from '#core/math/vec3'
import { applyChange } from '#core/mock-up/scene/change'
import { place } from '#core/mock-up/scene/pieces'
import { EMPTY_SCENE, type Planting, type Scene } from '#core/mock-up/scene/scene'
import { makeMockUpItem } from '../../../testing/mock-up-item'
import type { MockUpSession } from './mock-up-session'
import { isEnough, linesOf, useDrawing } from './use-drawing'

const told = vi.hoisted(() => ({ toast: vi.fn() }))
vi.mock('sonner', () => told)

const shrub = makeMockUpItem({ key: 'shrub', kind: 'model', category: 'vegetation.shrubs', sizeM: [0.84, 1, 0.6] })
const stool = makeMockUpItem({ key: 'stool', kind: 'model', category: 'furniture.seating' })
const items = new Map([shrub, stool].map(i => [i.ref.inputKey, i]))
const sceneOf = (...shown: (typeof shrub)[]): Scene =>
  shown.reduce(
    (scene, item, n) => applyChange(scene, place(`p${n}`, item.ref, { name: item.name, at: [n, 0, 0] })).scene,
    EMPTY_SCENE,
  )

function begin(scene: Scene) {
  const act = vi.fn()
  const onPlanted = vi.fn()
  const session = { act } as unknown as MockUpSession
  const hook = renderHook(() => useDrawing({ scene, session, items, ids: [], activeGroup: 'beds', onPlanted }))
  const plantings = (): Planting[] => act.mock.calls.flatMap(([change]) => Object.values(change.plantings) as Planting[])
  return { ...hook, onPlanted, plantings }
}
const draw = (hook: ReturnType<typeof begin>, kind: 'area' | 'line' | 'distance', points: readonly Vec3[]) => {
  act(() => hook.result.current.begin(kind))
  for (const point of points) act(() => hook.result.current.add(point, null))
}
const SQUARE: Vec3[] = [
  [0, -0.06, 0],
  [4, 0, 0],
  [4, 0, 3],
  [0, 0, 3.00049],
]

beforeEach(() => told.toast.mockClear())

describe('drawing on the ground', () => {
  it('makes a planting of the plant that is in the scene, in the group that is active', () => {
    const hook = begin(sceneOf(stool, shrub))
    draw(hook, 'area', SQUARE)
    act(() => hook.result.current.finish())
    const [planting] = hook.plantings()
    expect(planting).toMatchObject({ name: 'Planting 1', group: 'beds', species: [{ item: shrub.ref, share: 1 }] })
    // To the millimetre, and as high as most of its corners.
    expect(planting.outline).toEqual([
      [0, 0],
      [4, 0],
      [4, 3],
      [0, 3],
    ])
    expect(planting.heightM).toBe(0)
    expect(planting.along).toBeUndefined()
    expect(hook.onPlanted).toHaveBeenCalledTimes(1)
    expect(hook.result.current.drawing).toBeNull()
  })

  it('along a line sets plants side by side at their widest', () => {
    const hook = begin(sceneOf(shrub))
    draw(hook, 'line', SQUARE.slice(0, 2))
    act(() => hook.result.current.finish())
    expect(hook.plantings()[0].along).toEqual({ spacingM: 0.8, strayM: 0 })
  })

  it('says what is missing where no plant is there', () => {
    const hook = begin(sceneOf(stool))
    draw(hook, 'area', SQUARE)
    act(() => hook.result.current.finish())
    expect(told.toast).toHaveBeenCalledWith(expect.stringContaining('Put one plant'))
    expect(hook.plantings()).toEqual([])
  })

  it('makes nothing of too few corners, or after it was left', () => {
    const hook = begin(sceneOf(shrub))
    draw(hook, 'area', SQUARE.slice(0, 2))
    expect(isEnough(hook.result.current.drawing!)).toBe(false)
    act(() => hook.result.current.finish())
    draw(hook, 'area', SQUARE)
    act(() => hook.result.current.cancel())
    act(() => hook.result.current.finish())
    expect(hook.plantings()).toEqual([])
  })

  it('measures between two points, and begins another distance with the third', () => {
    const hook = begin(sceneOf())
    draw(hook, 'distance', SQUARE.slice(0, 3))
    expect(hook.result.current.drawing?.points).toEqual([SQUARE[2]])
    act(() => hook.result.current.finish())
    expect(hook.plantings()).toEqual([])
  })

  it('shows an area closed, a little above the ground, and a distance where it is', () => {
    const lines = linesOf({ kind: 'area', points: SQUARE, on: [] })
    expect(lines).toHaveLength(4)
    expect(lines[3][1]).toEqual(lines[0][0])
    expect(lines[1][0][1]).toBeCloseTo(0.02, 9)
    expect(linesOf({ kind: 'distance', points: SQUARE.slice(0, 2), on: [] })).toEqual([[SQUARE[0], SQUARE[1]]])
  })
})
