import { useState } from 'react'
import { toast } from 'sonner'
import { wornAt } from '#core/mock-up/materials/assign-parts'
import { assignTo, listReached, type PartBook, type Reach } from '#core/mock-up/materials/wearing'
import type { Assignment, Scene, Spot } from '#core/mock-up/scene/scene'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import type { MockUpSession } from './mock-up-session'
import type { Selection } from './use-selection'

interface Props {
  scene: Scene
  session: MockUpSession
  book: PartBook
  items: ReadonlyMap<string, MockUpItem>
  selection: Selection
}

/** How a material goes onto parts: how far, in place of what is worn or beside it; and one that is taken up from a part for others. */
export function useAssigning({ scene, session, book, items, selection }: Props) {
  const [reach, setReach] = useState<Reach>('part')
  const [addsVariant, setAddsVariant] = useState(false)
  const [carried, setCarried] = useState<Assignment | null>(null)
  const pickUp = () => {
    const worn = selection.spot && wornAt(scene, selection.spot)
    if (!worn) {
      toast('Choose a part that wears a material first.')
      return
    }
    setCarried(worn)
    selection.choose(null)
    const name = items.get(worn.material.inputKey)?.name ?? worn.material.code
    toast(`${name} is taken up: click the parts it goes to, Escape lays it down.`)
  }
  return {
    reach,
    setReach,
    addsVariant,
    setAddsVariant,
    isCarrying: carried !== null,
    pickUp,
    layDown: () => setCarried(null),
    putCarriedOn: (spot: Spot) => {
      if (carried) session.act(assignTo(scene, listReached(scene, spot, reach, book), carried))
    },
  }
}

export type Assigning = ReturnType<typeof useAssigning>
