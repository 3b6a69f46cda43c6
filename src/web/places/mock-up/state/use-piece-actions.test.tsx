import { renderHook } from '@testing-library/react'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Box } from '#core/mock-up/placing/snapping'
import { applyChange } from '#core/mock-up/scene/change'
import { place } from '#core/mock-up/scene/pieces'
import { EMPTY_SCENE, type Scene } from '#core/mock-up/scene/scene'
import { makeMockUpItem } from '../../../testing/mock-up-item'
import { keepSession } from './keep-session'
import { usePieceActions } from './use-piece-actions'

const told = vi.hoisted(() => ({ toast: vi.fn() }))
vi.mock('sonner', () => told)

const { ref } = makeMockUpItem({ key: 'stool', kind: 'model' })
const PLACES: Record<string, [number, number, number]> = { a: [0, 0, 0], b: [2, 0, 0], c: [5, 0, 0] }
const scene = Object.entries(PLACES).reduce<Scene>(
  (so, [id, at]) => applyChange(so, place(id, ref, { name: `Stool ${id}`, at })).scene,
  EMPTY_SCENE,
)
/** Half a metre in each direction, standing at its place. */
const boxAt = ([x, y, z]: readonly number[]): Box => ({ min: [x - 0.25, y, z - 0.25], max: [x + 0.25, y + 0.5, z + 0.25] })
const BOXES = new Map(Object.entries(PLACES).map(([id, at]) => [id, boxAt(at)]))

function begin(ids: readonly string[], boxes: ReadonlyMap<string, Box> = BOXES, from = scene) {
  const { session, now } = keepSession(from)
  const chosen: string[][] = []
  const selection = {
    ...{ ids, chosen: null, spot: null, choose: () => {}, chooseSpot: () => {} },
    choosePieces: (list: readonly string[]) => chosen.push([...list]),
  }
  const { result } = renderHook(() => usePieceActions({ scene: from, session, selection, boxes }))
  return { actions: result.current, now, chosen }
}
const lastToast = () => told.toast.mock.calls.at(-1)?.[0]

beforeEach(() => told.toast.mockClear())

describe('what is done with chosen pieces', () => {
  it('is nothing where none is chosen', () => {
    const { actions, now } = begin([])
    for (const act of [actions.copy, actions.takeOut, actions.hide, actions.lock, () => actions.turnBy(15)]) act()
    expect(now()).toBe(scene)
  })

  it('copies them side by side with what they are of, and chooses the copies', () => {
    const { actions, now, chosen } = begin(['a', 'b'])
    actions.copy()
    const fresh = Object.keys(now().pieces).filter(id => !(id in PLACES))
    expect([...chosen[0]].sort()).toEqual(fresh.sort())
    // Both are 2.5 m across.
    expect(chosen[0].map(id => now().pieces[id].position[0])).toEqual([2.55, 4.55].map(v => expect.closeTo(v, 9)))
  })

  it('copies what is not drawn yet all the same', () => {
    const { actions, now } = begin(['a'], new Map())
    actions.copy()
    const [fresh] = Object.keys(now().pieces).filter(id => !(id in PLACES))
    expect(now().pieces[fresh].position).toEqual([0.5, 0, 0])
  })

  it('hides them, and shows them again where all are hidden; locks alike', () => {
    const first = begin(['a', 'b'])
    first.actions.hide()
    expect(['a', 'b', 'c'].map(id => first.now().pieces[id].isHidden)).toEqual([true, true, false])
    const again = begin(['a', 'b'], BOXES, first.now())
    again.actions.hide()
    expect(again.now().pieces.a.isHidden).toBe(false)
    const locked = begin(['a'])
    locked.actions.lock()
    expect(locked.now().pieces.a.isLocked).toBe(true)
  })

  it('turns them about their common middle', () => {
    const { actions, now } = begin(['a', 'b'])
    actions.turnBy(180)
    expect(now().pieces.a.position.map(v => Math.round(v * 1e6) / 1e6 + 0)).toEqual([2, 0, 0])
    expect(now().pieces.b.position.map(v => Math.round(v * 1e6) / 1e6 + 0)).toEqual([0, 0, 0])
  })

  it('says that all stands well, or what does not, and chooses it', () => {
    const well = begin([])
    well.actions.checkPlaces()
    expect(lastToast()).toBe('Nothing floats, sinks or overlaps.')
    const boxes = new Map([...BOXES, ['a', boxAt([0, 0.4, 0])], ['c', boxAt([2.3, 0, 0])]] as [string, Box][])
    const wrong = begin([], boxes)
    wrong.actions.checkPlaces()
    expect(lastToast()).toMatch(/^Stool \w (floats|reaches into).* by \d+ mm; \d+ more\. All are chosen now\.$/)
    expect([...wrong.chosen[0]].sort()).toEqual(expect.arrayContaining(['a']))
  })

  it('leaves what is hidden out of that', () => {
    const hidden = begin(['a'])
    hidden.actions.hide()
    const { actions } = begin([], new Map([...BOXES, ['a', boxAt([0, 0.4, 0])]] as [string, Box][]), hidden.now())
    actions.checkPlaces()
    expect(lastToast()).toBe('Nothing floats, sinks or overlaps.')
  })
})
