import { applyChange, type Change, joinChanges, mendReferences } from './change'
import type { Scene } from './scene'

/** A scene with the way back and the way on. */
export interface History {
  scene: Scene
  /** Changes that put back, the last made last; and those that were taken back. */
  past: readonly Step[]
  future: readonly Step[]
}

interface Step {
  change: Change
  /** What belongs to one gesture is taken back as one. */
  gesture: string | null
}

/** So many steps are remembered. */
const DEEPEST = 500

export const beginHistory = (scene: Scene): History => ({ scene, past: [], future: [] })

/**
 * Does something to a scene.
 * @param gesture a name of what is under way, such as one drag: its many changes are one step
 */
export function act(history: History, change: Change, gesture: string | null = null): History {
  const done = applyWhole(history.scene, change)
  const last = history.past.at(-1)
  if (gesture !== null && last?.gesture === gesture) {
    // What the gesture began from is what goes back.
    const back = joinChanges(done.inverse, last.change)
    return { scene: done.scene, past: [...history.past.slice(0, -1), { change: back, gesture }], future: [] }
  }
  return { scene: done.scene, past: [...history.past, { change: done.inverse, gesture }].slice(-DEEPEST), future: [] }
}

/** The change with what it makes necessary elsewhere. */
function applyWhole(scene: Scene, change: Change): { scene: Scene; inverse: Change } {
  const first = applyChange(scene, change)
  const second = applyChange(first.scene, mendReferences(first.scene))
  return { scene: second.scene, inverse: joinChanges(second.inverse, first.inverse) }
}

export function undo({ scene, past, future }: History): History {
  const last = past.at(-1)
  if (!last) return { scene, past, future }
  const done = applyChange(scene, last.change)
  return { scene: done.scene, past: past.slice(0, -1), future: [...future, { ...last, change: done.inverse }] }
}

export function redo({ scene, past, future }: History): History {
  const next = future.at(-1)
  if (!next) return { scene, past, future }
  const done = applyChange(scene, next.change)
  return { scene: done.scene, past: [...past, { ...next, change: done.inverse, gesture: null }], future: future.slice(0, -1) }
}

/**
 * Somebody else's change, which is not one's own to take back. One's own way back keeps to what one did: of what they changed since it puts
 * back the whole thing as it was.
 */
export const takeIn = (history: History, change: Change): History => ({
  ...history,
  scene: applyWhole(history.scene, change).scene,
})
