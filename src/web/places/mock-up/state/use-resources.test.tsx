import { act, renderHook } from '@testing-library/react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { EMPTY_SCENE, type Scene, sceneSchema } from '#core/mock-up/scene/scene'
import { keyOf, makeMockUpItem } from '../../../testing/mock-up-item'
import { ToldWorker } from '../../../testing/stand-ins-of-browser'
import type { ItemCommand, ItemNews } from '../../../workers/item.worker'
import { countUnopened, useResources } from './use-resources'

class ItemWorker extends ToldWorker<ItemCommand, ItemNews> {
  static readonly all: ItemWorker[] = []
  constructor() {
    super()
    ItemWorker.all.push(this)
  }
}
const orders = () => ItemWorker.all.flatMap(w => w.orders)
const say = (key: string, opened: ItemNews['opened']) => ItemWorker.all[0].onmessage?.({ data: { key: keyOf(key), opened } })

/** Walls that wear so many materials. */
const sceneOf = (names: readonly string[]): Scene =>
  sceneSchema.parse({
    ...EMPTY_SCENE,
    stage: {
      kind: 'empty',
      materials: Object.fromEntries(names.map(n => [n, { material: { code: n.toUpperCase(), version: 1, inputKey: keyOf(n) } }])),
    },
  })
const itemsOf = (names: readonly string[]) => new Map(names.map(n => [keyOf(n), makeMockUpItem({ key: n })]))
const begin = (names: readonly string[]) =>
  renderHook(({ names }: { names: readonly string[] }) => useResources(sceneOf(names), itemsOf(names)), {
    initialProps: { names },
  })
const look = { kind: 'material', look: { material: {} as never, images: [] } } as const

beforeEach(() => {
  ItemWorker.all.length = 0
  vi.useFakeTimers()
  vi.stubGlobal('Worker', ItemWorker)
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

describe('what a scene shows, as it comes in', () => {
  it('is asked for once, whatever else comes into the scene, of several workers', () => {
    const { rerender } = begin(['oak', 'ash', 'elm'])
    expect(
      orders()
        .map(o => o.key)
        .sort(),
    ).toEqual(['oak', 'ash', 'elm'].map(keyOf).sort())
    expect(ItemWorker.all.filter(w => w.orders.length > 0)).toHaveLength(3)
    rerender({ names: ['oak', 'ash', 'elm', 'yew'] })
    expect(orders()).toHaveLength(4)
  })

  it('is shown together where it comes together, and counted as long as it may still come', () => {
    const scene = sceneOf(['oak', 'ash', 'elm'])
    const { result } = begin(['oak', 'ash', 'elm'])
    expect(countUnopened(scene, result.current)).toBe(3)
    act(() => {
      say('oak', look)
      say('ash', null)
    })
    expect(countUnopened(scene, result.current)).toBe(3)
    act(() => vi.advanceTimersByTime(300))
    expect(result.current.materials.has(keyOf('oak'))).toBe(true)
    expect([...result.current.failed]).toEqual([keyOf('ash')])
    expect(countUnopened(scene, result.current)).toBe(1)
  })

  it('of many materials has maps of half the size', () => {
    begin(['oak'])
    expect(orders().map(o => o.sizes.mapPx)).toEqual([1024])
    begin(Array.from({ length: 30 }, (_, n) => `m${n}`))
    expect(
      orders()
        .slice(1)
        .every(o => o.sizes.mapPx === 512),
    ).toBe(true)
  })

  it('ends with the page', () => {
    const { unmount } = begin(['oak'])
    unmount()
    expect(ItemWorker.all.every(w => w.isGone)).toBe(true)
  })
})
