import { useState } from 'react'
import type { Vec3 } from '#core/math/vec3'
import { type Lens, rayThrough } from '#core/mock-up/composing/look-through'
import { around } from '#core/mock-up/placing/snapping'
import type { Scene } from '#core/mock-up/scene/scene'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { useStandIn } from './stage/use-stand-in'
import type { MockUpSession } from './state/mock-up-session'
import type { Assigning } from './state/use-assigning'
import { useFindItems } from './state/use-find-items'
import type { LiveResources } from './state/use-resources'
import type { Selection } from './state/use-selection'
import type { Staged } from './state/use-staged'
import { type Landing, useBringIn } from './use-bring-in'

interface Props {
  scene: Scene
  session: MockUpSession
  selection: Selection
  assigning: Assigning
  staged: Staged
  models: LiveResources['models']
  items: ReadonlyMap<string, MockUpItem>
  addItems: (items: readonly MockUpItem[]) => void
  activeGroup: string | null
  /** As the window shows it. */
  seen: Lens
  onSky: (sky: string) => void
}

/** Something new stands so far beside what is chosen, in metres. */
const BESIDE_M = 0.6

/** What is taken from the shelf, and where it goes: in the place of what is chosen where that was asked for, into a chosen planting, or into the scene. */
export function useFromShelf(props: Props) {
  const { scene, session, selection, assigning, staged, models, items, activeGroup, seen } = props
  const { chosen, ids } = selection
  const [used, setUsed] = useState<readonly number[]>([])
  const find = useFindItems(props.addItems)
  const freePoint = (): Vec3 => {
    const box = ids.length > 0 ? around(ids.flatMap(id => staged.boxes.get(id) ?? [])) : null
    if (box && Number.isFinite(box.min[0])) return [box.max[0] + BESIDE_M, box.min[1], (box.min[2] + box.max[2]) / 2]
    const hit = staged.cast(rayThrough(seen, 0, -0.25))
    return hit?.of.kind === 'stage' && hit.normal[1] > 0.7 ? hit.point : [0, 0, 0]
  }
  const { bring, hang } = useBringIn({
    ...{ scene, session, activeGroup, items, find, freePoint, book: staged.book },
    ...{ reach: assigning.reach, addsVariant: assigning.addsVariant, chosenSpot: selection.spot },
    onPlaced: selection.choosePieces,
    onSky: props.onSky,
    onLight: id => selection.choose({ kind: 'light', id }),
  })
  const standIn = useStandIn({
    ...{ scene, session, chosen, activeGroup, find, models, ownBoxes: staged.ownBoxes },
    onPlaced: selection.choosePieces,
  })

  const joinPlanting = async (list: readonly number[], id: string): Promise<boolean> => {
    const found = (await find(list))?.filter(i => i.kind === 'model') ?? []
    const planting = scene.plantings[id]
    const fresh = found.filter(i => !planting.species.some(s => s.item.inputKey === i.ref.inputKey))
    if (fresh.length === 0) return false
    const species = fresh.map(i => ({ item: i.ref, name: i.name, share: 1, smallest: 0.8, largest: 1.2 }))
    session.act({ plantings: { [id]: { ...planting, species: [...planting.species, ...species] } } })
    return true
  }

  /** @param landing where it was let go of; without it, it goes where there is room */
  const bringIn = async (list: readonly number[], landing?: Landing): Promise<void> => {
    setUsed(before => [...list, ...before.filter(id => !list.includes(id))])
    if (await standIn.take(list)) return
    // A plant chosen while a planting is, joins it.
    const planting = chosen?.kind === 'planting' && scene.plantings[chosen.id] ? chosen.id : null
    if (planting !== null && !landing?.face && (await joinPlanting(list, planting))) return
    await bring(list, landing)
  }
  return { bringIn, hang, standIn, used }
}
