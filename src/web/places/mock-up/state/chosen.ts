import type { Scene } from '#core/mock-up/scene/scene'

/** What is chosen in a mock-up: pieces and the part last touched, a part of the stage, a planting, or a light. */
export type Chosen =
  | { kind: 'pieces'; ids: readonly string[]; part: string | null }
  | { kind: 'stage'; part: string }
  | { kind: 'planting'; id: string; plant: number | null }
  | { kind: 'light'; id: string }
  | null

/** Of what is chosen, what is still there. */
export function stillThere(chosen: Chosen, scene: Scene): Chosen {
  if (chosen?.kind === 'pieces') {
    const ids = chosen.ids.filter(id => Object.hasOwn(scene.pieces, id))
    return ids.length === 0 ? null : ids.length === chosen.ids.length ? chosen : { ...chosen, ids }
  }
  if (chosen?.kind === 'light') return Object.hasOwn(scene.lights, chosen.id) ? chosen : null
  return chosen?.kind === 'planting' && !Object.hasOwn(scene.plantings, chosen.id) ? null : chosen
}

export const chosenPieces = (chosen: Chosen): readonly string[] => (chosen?.kind === 'pieces' ? chosen.ids : [])
