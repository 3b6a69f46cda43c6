import { applyChange, type Change } from '#core/mock-up/scene/change'
import type { Scene } from '#core/mock-up/scene/scene'
import type { MockUpSession } from './mock-up-session'

/** For tests: a session of one page that keeps the scene, and how often something was taken back. */
export function keepSession(scene: Scene): { session: MockUpSession; now: () => Scene; taken: () => number } {
  let [kept, undone] = [scene, 0]
  const session = {
    act: (change: Change) => {
      kept = applyChange(kept, change).scene
    },
    undo: () => {
      undone++
    },
  }
  return { session: session as unknown as MockUpSession, now: () => kept, taken: () => undone }
}
