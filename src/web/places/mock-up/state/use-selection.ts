import { useMemo, useState } from 'react'
import type { Scene, Spot } from '#core/mock-up/scene/scene'
import { type Chosen, chosenPieces, stillThere } from './chosen'

export interface Selection {
  chosen: Chosen
  /** Pieces that are chosen. */
  ids: readonly string[]
  /** The one part that is. */
  spot: Spot | null
  choose: (chosen: Chosen) => void
  choosePieces: (ids: readonly string[]) => void
  chooseSpot: (spot: Spot) => void
}

/** What is chosen, as long as it is there. */
export function useSelection(scene: Scene): Selection {
  const [wanted, choose] = useState<Chosen>(null)
  const chosen = stillThere(wanted, scene)
  const spot = useMemo(() => spotOfChosen(chosen), [chosen])
  return {
    chosen,
    ids: chosenPieces(chosen),
    spot,
    choose,
    choosePieces: ids => choose({ kind: 'pieces', ids, part: null }),
    chooseSpot: ({ piece, part }) => choose(piece === null ? { kind: 'stage', part } : { kind: 'pieces', ids: [piece], part }),
  }
}

function spotOfChosen(chosen: Chosen): Spot | null {
  if (chosen?.kind === 'stage') return { piece: null, part: chosen.part }
  return chosen?.kind === 'pieces' && chosen.ids.length === 1 && chosen.part !== null
    ? { piece: chosen.ids[0], part: chosen.part }
    : null
}
