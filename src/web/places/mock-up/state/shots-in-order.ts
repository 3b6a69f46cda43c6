import type { Scene } from '#core/mock-up/scene/scene'

/** Shots with their ids, from the left. */
export const shotsInOrder = (scene: Pick<Scene, 'shots'>) => Object.entries(scene.shots).sort(([, a], [, b]) => a.place - b.place)
