import { cleanup, renderHook } from '@testing-library/react'
import { afterEach, describe, expect, it } from 'vitest'
import type { Lens } from '#core/mock-up/composing/look-through'
import { shotSchema } from '#core/mock-up/scene/scene'
import { type KeyActions, stepsOf, useMockUpKeys } from './use-mock-up-keys'

const lens: Lens = shotSchema.parse({ name: 'One', place: 0, position: [5, 2, 0.5], target: [0, 1, 0], focalMm: 35, aspect: 1.6 })

const NAMES = [
  ...['undo', 'redo', 'takeOut', 'copy', 'hide', 'lock', 'frame', 'takeShot', 'toShot', 'letGo', 'moveBy', 'turnBy', 'walk'],
  ...['trace', 'things', 'pictures', 'nextVariant', 'pickUp', 'measure'],
] as const

function begin(hasChosen: boolean) {
  const said: unknown[][] = []
  const actions = Object.fromEntries(
    NAMES.map(name => [name, (...of: unknown[]) => said.push([name, ...of])]),
  ) as unknown as KeyActions
  renderHook(() => useMockUpKeys(lens, hasChosen, actions))
  return said
}
const press = (key: string, how: KeyboardEventInit = {}, on: EventTarget = window): KeyboardEvent => {
  const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...how })
  on.dispatchEvent(event)
  return event
}
afterEach(() => {
  cleanup()
  document.body.innerHTML = ''
})

describe('the keys of a mock-up', () => {
  it('move what is chosen along an axis of the ground, as one looks at it', () => {
    const said = begin(true)
    // From the east: away is to the west, and to the right is north.
    expect(stepsOf(lens)).toEqual({ away: [-1, 0], right: [-0, -1] })
    press('ArrowUp')
    press('ArrowRight', { shiftKey: true })
    press('PageUp')
    const steps = said.map(([name, by]) => [name, (by as number[]).map(v => Math.round(v * 1e6) / 1e6 + 0)])
    expect(steps).toEqual([
      ['moveBy', [-0.05, 0, 0]],
      ['moveBy', [0, 0, -0.5]],
      ['moveBy', [0, 0.05, 0]],
    ])
  })

  it('walk where nothing is chosen', () => {
    const said = begin(false)
    press('ArrowUp')
    press('ArrowLeft', { shiftKey: true })
    expect(said).toEqual([
      ['walk', 0.4, 0],
      ['walk', 0, -4],
    ])
  })

  it('go to a shot by its number, take back and again, and are taken from the page', () => {
    const said = begin(true)
    expect(press('3').defaultPrevented).toBe(true)
    press('z', { ctrlKey: true })
    press('Z', { metaKey: true, shiftKey: true })
    press('y', { ctrlKey: true })
    press('D')
    expect(said).toEqual([['toShot', 2], ['undo'], ['redo'], ['redo'], ['copy']])
  })

  it('leave alone what is for the page or for somebody who types', () => {
    const said = begin(true)
    document.body.innerHTML = '<input /><ul role="menu"><li tabindex="0">line</li></ul><p contenteditable="true">text</p>'
    for (const element of document.querySelectorAll('input, li')) press('d', {}, element)
    press('d', { altKey: true })
    press('c', { ctrlKey: true })
    expect(press('q').defaultPrevented).toBe(false)
    const taken = new KeyboardEvent('keydown', { key: 'd', bubbles: true, cancelable: true })
    taken.preventDefault()
    window.dispatchEvent(taken)
    expect(said).toEqual([])
  })
})
