import { useEffect, useRef } from 'react'
import type { Vec3 } from '#core/math/vec3'
import type { Lens } from '#core/mock-up/composing/look-through'

export interface KeyActions {
  undo: () => void
  redo: () => void
  takeOut: () => void
  copy: () => void
  hide: () => void
  lock: () => void
  frame: () => void
  takeShot: () => void
  toShot: (place: number) => void
  letGo: () => void
  /** By a step on the ground, in metres. */
  moveBy: (by: Vec3) => void
  turnBy: (degrees: number) => void
  walk: (forwardM: number, rightM: number) => void
  trace: () => void
  things: () => void
  pictures: () => void
  nextVariant: () => void
  pickUp: () => void
  measure: () => void
}

const STEP_M = 0.05
const WALK_M = 0.4

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) ||
    target.closest('[role=listbox],[role=dialog],[role=menu]') !== null)

/** The axis of the ground nearest to a direction, so that things stay square to each other. */
function nearestAxis(x: number, z: number): [number, number] {
  return Math.abs(x) > Math.abs(z) ? [Math.sign(x), 0] : [0, Math.sign(z) || -1]
}

/** Away from whoever looks, along an axis of the ground, and to their right. */
export function stepsOf({ position, target }: Pick<Lens, 'position' | 'target'>): {
  away: [number, number]
  right: [number, number]
} {
  const away = nearestAxis(target[0] - position[0], target[2] - position[2])
  return { away, right: [-away[1], away[0]] }
}

/** The keys of a mock-up, anywhere but in a field. */
export function useMockUpKeys(lens: Lens, hasChosen: boolean, actions: KeyActions): void {
  const latest = useRef({ lens, hasChosen, actions })
  latest.current = { lens, hasChosen, actions }
  useEffect(() => {
    const onKeyDown = (event: KeyboardEvent) => {
      if (isTyping(event.target) || event.defaultPrevented) return
      if (run(event, latest.current)) event.preventDefault()
    }
    window.addEventListener('keydown', onKeyDown)
    return () => window.removeEventListener('keydown', onKeyDown)
  }, [])
}

function run(
  event: KeyboardEvent,
  { lens, hasChosen, actions }: { lens: Lens; hasChosen: boolean; actions: KeyActions },
): boolean {
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key
  if (event.ctrlKey || event.metaKey) {
    if (key === 'z') (event.shiftKey ? actions.redo : actions.undo)()
    else if (key === 'y') actions.redo()
    else return false
    return true
  }
  if (event.altKey) return false
  const factor = event.shiftKey ? 10 : 1
  const { away, right } = stepsOf(lens)
  const step = (forward: number, aside: number) => {
    if (!hasChosen) return actions.walk(forward * WALK_M * factor, aside * WALK_M * factor)
    const m = STEP_M * factor
    actions.moveBy([(away[0] * forward + right[0] * aside) * m, 0, (away[1] * forward + right[1] * aside) * m])
  }
  const onKeys = new Map<string, () => void>([
    ['ArrowUp', () => step(1, 0)],
    ['ArrowDown', () => step(-1, 0)],
    ['ArrowLeft', () => step(0, -1)],
    ['ArrowRight', () => step(0, 1)],
    ['PageUp', () => actions.moveBy([0, STEP_M * factor, 0])],
    ['PageDown', () => actions.moveBy([0, -STEP_M * factor, 0])],
    ['[', () => actions.turnBy(15)],
    [']', () => actions.turnBy(-15)],
    ['Delete', actions.takeOut],
    ['Backspace', actions.takeOut],
    ['Escape', actions.letGo],
    ['d', actions.copy],
    ['h', actions.hide],
    ['l', actions.lock],
    ['f', actions.frame],
    ['p', actions.takeShot],
    ['t', actions.trace],
    ['o', actions.things],
    ['i', actions.pictures],
    ['v', actions.nextVariant],
    ['m', actions.pickUp],
    ['x', actions.measure],
  ])
  const found = onKeys.get(key)
  if (found) found()
  else if (/^[1-9]$/.test(key)) actions.toShot(Number(key) - 1)
  else return false
  return true
}
