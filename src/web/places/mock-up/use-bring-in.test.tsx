import { renderHook } from '@testing-library/react'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { PartBook } from '#core/mock-up/materials/wearing'
import { applyChange } from '#core/mock-up/scene/change'
import { place } from '#core/mock-up/scene/pieces'
import { EMPTY_SCENE, type Scene, type Spot, sceneSchema } from '#core/mock-up/scene/scene'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { keyOf, makeMockUpItem } from '../../testing/mock-up-item'
import { keepSession } from './state/keep-session'
import { type Landing, useBringIn } from './use-bring-in'

const told = vi.hoisted(() => ({ toast: vi.fn() }))
vi.mock('sonner', () => told)

const sofa = makeMockUpItem({ key: 'sofa', id: 1, kind: 'model', sizeM: [2, 0.8, 0.9] })
const newerSofa = makeMockUpItem({
  ...{ key: 'sofa', id: 1, kind: 'model' },
  ref: { code: 'SOFA', version: 2, inputKey: keyOf('sofa2') },
})
const oak = makeMockUpItem({ key: 'oak', id: 2 })
const ash = makeMockUpItem({ key: 'ash', id: 3 })
const sky = makeMockUpItem({ key: 'noon', id: 4, kind: 'environment' })
const lamp = makeMockUpItem({ key: 'spot', id: 5, kind: 'light' })
const mask = makeMockUpItem({ key: 'mask', id: 6, kind: 'map' })
const LIBRARY = [sofa, oak, ash, sky, lamp, mask]
const BOOK: PartBook = { partsOf: () => [{ name: 'seat', own: 'cloth' }], stageParts: [{ name: 'floor', own: 'floor' }] }
const FLOOR: Spot = { piece: null, part: 'floor' }

const withSofa = (): Scene => applyChange(EMPTY_SCENE, place('s', sofa.ref, { name: 'sofa', at: [0, 0, 0] })).scene

interface Given {
  scene?: Scene
  find?: readonly MockUpItem[]
  chosenSpot?: Spot | null
  addsVariant?: boolean
  activeGroup?: string | null
}

function begin({ scene = EMPTY_SCENE, find = LIBRARY, chosenSpot = null, addsVariant = false, activeGroup = null }: Given = {}) {
  const { session, now, taken } = keepSession(scene)
  const heard = { placed: [] as string[], skies: [] as string[], lights: [] as string[] }
  const { result } = renderHook(() =>
    useBringIn({
      ...{ scene, session, book: BOOK, reach: 'part', activeGroup, chosenSpot, addsVariant },
      items: new Map(LIBRARY.map(i => [i.ref.inputKey, i])),
      find: async ids => find.filter(i => ids.includes(i.id!)),
      onPlaced: ids => heard.placed.push(...ids),
      onSky: id => heard.skies.push(id),
      onLight: id => heard.lights.push(id),
      freePoint: () => [7, 0, 0],
    }),
  )
  const bring = async (items: readonly MockUpItem[], landing?: Landing) => {
    await result.current.bring(
      items.map(i => i.id!),
      landing,
    )
    return now()
  }
  return { bring, heard, now, taken }
}
const lastToast = () => told.toast.mock.calls.at(-1)!

beforeEach(() => told.toast.mockClear())

describe('what is brought in from the library', () => {
  it('stands where it was let go of, or where there is room, and is chosen', async () => {
    const { bring, heard } = begin()
    const scene = await bring([sofa], { face: { point: [1, 0, 2], normal: [0, 1, 0] }, spot: FLOOR })
    const [id] = heard.placed
    expect(scene.pieces[id]).toMatchObject({ item: sofa.ref, name: 'sofa', position: [1, 0, 2] })
    const free = begin()
    expect(Object.values((await free.bring([sofa])).pieces)[0].position).toEqual([7, 0, 0])
  })

  it('goes into the group that is active, and says so', async () => {
    const scene = sceneSchema.parse({ ...EMPTY_SCENE, groups: { g: { name: 'Seats' } } })
    const after = await begin({ scene, activeGroup: 'g' }).bring([sofa])
    expect(Object.values(after.pieces)[0].group).toBe('g')
    expect(lastToast()[0]).toBe('Into the group Seats.')
  })

  it('is the version that is here already; the newer one is offered for all', async () => {
    const { bring, now } = begin({ scene: withSofa(), find: [newerSofa] })
    const scene = await bring([newerSofa])
    expect(Object.values(scene.pieces).map(p => p.item.version)).toEqual([1, 1])
    const [sentence, { action }] = lastToast()
    expect(sentence).toContain('is here at version 1')
    expect(action.label).toBe('Version 2 for all')
    action.onClick()
    expect(now().pieces.s.item).toEqual(newerSofa.ref)
  })

  it('as a material goes to the part it was dropped on, else to the one that is chosen, and can be taken back', async () => {
    const dropped = begin()
    expect((await dropped.bring([oak], { face: null, spot: FLOOR })).stage.materials.floor.material).toEqual(oak.ref)
    expect(lastToast()[0]).toBe('oak on floor.')
    lastToast()[1].action.onClick()
    expect(dropped.taken()).toBe(1)
    const chosen = await begin({ scene: withSofa(), chosenSpot: { piece: 's', part: 'seat' } }).bring([oak])
    expect(chosen.pieces.s.materials.seat.material).toEqual(oak.ref)
  })

  it('as a material without a part, or several at once, is put nowhere, and says why', async () => {
    for (const [items, why] of [
      [[oak], 'Choose a part first'],
      [[oak, ash], 'one by one'],
    ] as const) {
      expect(await begin().bring(items)).toEqual(EMPTY_SCENE)
      expect(lastToast()[0]).toContain(why)
    }
  })

  it('becomes one more variant where that is asked for', async () => {
    const scene = await begin({ scene: withSofa(), chosenSpot: { piece: 's', part: 'seat' }, addsVariant: true }).bring([oak])
    const [choice] = Object.values(scene.choices)
    expect(choice.variants.map(v => v?.material.code ?? 'its own')).toEqual(['its own', 'OAK'])
  })

  it('as a sky is put into use, once however often it is brought', async () => {
    const first = begin()
    const scene = await first.bring([sky])
    const [id] = Object.keys(scene.skies)
    expect(first.heard.skies).toEqual([id])
    const again = begin({ scene })
    expect(Object.keys((await again.bring([sky])).skies)).toEqual([id])
    expect(again.heard.skies).toEqual([id])
  })

  it('as a luminaire hangs under the ceiling, or where it was held high up', async () => {
    const open = begin()
    expect(Object.values((await open.bring([lamp])).lights)[0].position).toEqual([7, 2.4, 0])
    const high = await begin().bring([lamp], { face: { point: [1, 2.5, 1], normal: [0, -1, 0] }, spot: null })
    expect(Object.values(high.lights)[0].position[1]).toBeCloseTo(2.45, 9)
  })

  it('says of what cannot stand in a scene, or is not there any more, that it does not', async () => {
    expect(await begin().bring([mask])).toEqual(EMPTY_SCENE)
    expect(lastToast()[0]).toMatch(/^1 of these cannot stand in a scene/)
    await begin({ find: [] }).bring([sofa, oak])
    expect(lastToast()[0]).toMatch(/^2 of these/)
  })
})
