import { useMemo, useState } from 'react'
import { toast } from 'sonner'
import type { Box } from '#core/mock-up/placing/snapping'
import type { Change } from '#core/mock-up/scene/change'
import { isLocked, replace } from '#core/mock-up/scene/pieces'
import type { Scene } from '#core/mock-up/scene/scene'
import { listAlikeThings } from '#core/mock-up/stage-model/alike-things'
import { replaceThings } from '#core/mock-up/stage-model/replace-things'
import { listStageParts } from '#core/mock-up/stage-model/stage-of-model'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { plural } from '../../../words/states'
import type { Chosen } from '../state/chosen'
import type { MockUpSession } from '../state/mock-up-session'
import { newId } from '../state/new-id'
import type { LiveResources } from '../state/use-resources'
import type { StandInWish } from './StandIn'

interface Props {
  scene: Scene
  session: MockUpSession
  models: LiveResources['models']
  /** Of models, in their own space, by the keys of their inputs. */
  ownBoxes: ReadonlyMap<string, Box>
  chosen: Chosen
  activeGroup: string | null
  find: (ids: readonly number[]) => Promise<readonly MockUpItem[] | null>
  onPlaced: (ids: readonly string[]) => void
}

/** Another model in the place of what is chosen: of a piece, or of things of the stage's model; for one, or for all of its kind. */
export function useStandIn({ scene, session, models, ownBoxes, chosen, activeGroup, find, onPlaced }: Props) {
  const [wish, setWish] = useState<(StandInWish & { of: string }) | null>(null)
  const { stage } = scene
  const part = chosen?.kind === 'stage' ? chosen.part : null
  const things = useMemo(
    () => (stage.kind === 'model' && part !== null ? listAlikeThings(listStageParts(stage, models), part) : []),
    [stage, models, part],
  )
  const one = chosen?.kind === 'pieces' && chosen.ids.length === 1 ? chosen.ids[0] : null
  const ofItem = useMemo(
    () =>
      one === null
        ? []
        : [
            one,
            ...Object.keys(scene.pieces).filter(
              id =>
                id !== one && scene.pieces[id].item.code === scene.pieces[one].item.code && !isLocked(scene, scene.pieces[id]),
            ),
          ],
    [scene, one],
  )
  /** The wish is for what was chosen when it was made. */
  const key = part ?? one
  const current = wish !== null && wish.of === key ? wish : null

  const take = async (ids: readonly number[]): Promise<boolean> => {
    if (!current) return false
    const item = (await find(ids))?.find(i => i.kind === 'model')
    if (!item) return false
    const placed: string[] = []
    const idOf = (place: number) => {
      placed[place] ??= newId()
      return placed[place]
    }
    const change =
      one === null
        ? replaceThings(scene, current.isForAll ? things : things.slice(0, 1), replacementOf(item, current, activeGroup), idOf)
        : swap(current.isForAll ? ofItem : [one], item, current, placed)
    session.act(change)
    setWish(null)
    onPlaced(placed)
    toast(`${item.name} in the place of ${plural(placed.length, 'thing')}.`, {
      action: { label: 'Undo', onClick: () => session.undo() },
    })
    return true
  }

  const swap = (ids: readonly string[], item: MockUpItem, { isFitted }: StandInWish, placed: string[]): Change => {
    placed.push(...ids)
    const box = ownBoxes.get(scene.pieces[ids[0]].item.inputKey)
    const fit = isFitted && box && item.sizeM ? { beforeM: box.max[1] - box.min[1], afterM: item.sizeM[1] } : null
    return replace(scene, ids, item.ref, { name: item.name, fit })
  }

  return {
    wish: current,
    setWish: (next: StandInWish | null) => setWish(next && key !== null ? { ...next, of: key } : null),
    alike: one === null ? things.length : ofItem.length,
    take,
  }
}

/** House models stand on the middle of their foot. */
const replacementOf = ({ ref, name, sizeM }: MockUpItem, { isFitted }: StandInWish, group: string | null) => ({
  item: ref,
  name,
  box: sizeM ? boxOn(sizeM) : null,
  isFitted,
  group,
})

const boxOn = ([width, height, depth]: readonly [number, number, number]): Box => ({
  min: [-width / 2, 0, -depth / 2],
  max: [width / 2, height, depth / 2],
})
