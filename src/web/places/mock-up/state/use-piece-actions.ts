import { toast } from 'sonner'
import type { Vec3 } from '#core/math/vec3'
import { findMisplaced } from '#core/mock-up/placing/placing'
import { around, type Box } from '#core/mock-up/placing/snapping'
import { duplicate, isLocked, lock, move, remove, show, turn } from '#core/mock-up/scene/pieces'
import type { Scene } from '#core/mock-up/scene/scene'
import type { MockUpSession } from './mock-up-session'
import { newId } from './new-id'
import type { Selection } from './use-selection'

interface Props {
  scene: Scene
  session: MockUpSession
  selection: Selection
  /** Of pieces, in the scene. */
  boxes: ReadonlyMap<string, Box>
}

/** A copy stands so far beside what it is of, in metres. */
const BESIDE_M = 0.05
/** A terrace lies that much below its own ground. */
const TERRACE_M = -0.06

/** What is done with the pieces that are chosen; with none of them nothing. */
export function usePieceActions({ scene, session, selection: { ids, choosePieces }, boxes }: Props) {
  /** Null where nothing of it is drawn yet. */
  const boxOf = (list: readonly string[]): Box | null => {
    const box = around(list.flatMap(id => boxes.get(id) ?? []))
    return Number.isFinite(box.min[0]) ? box : null
  }
  const middle = (): Vec3 => {
    const box = boxOf(ids)
    return box ? [(box.min[0] + box.max[0]) / 2, box.min[1], (box.min[2] + box.max[2]) / 2] : [0, 0, 0]
  }
  const copy = () => {
    const copies = new Map(ids.map(id => [id, newId()]))
    const box = boxOf(ids)
    const by: Vec3 = [box ? box.max[0] - box.min[0] + BESIDE_M : 0.5, 0, 0]
    session.act(duplicate(scene, ids, by, id => copies.get(id)!))
    choosePieces([...copies.values()])
  }
  const checkPlaces = () => {
    const shown = new Map([...boxes].filter(([id]) => !scene.pieces[id].isHidden))
    const wrong = findMisplaced(shown, scene.stage.kind === 'terrace' ? TERRACE_M : 0)
    if (wrong.length === 0) {
      toast('Nothing floats, sinks or overlaps.')
      return
    }
    choosePieces([...new Set(wrong.map(w => w.id))])
    const [first] = wrong
    const name = scene.pieces[first.id].name
    const what = first.kind === 'overlaps' ? `reaches into ${scene.pieces[first.other!].name}` : first.kind
    toast(
      `${name} ${what} by ${Math.round(first.byM * 1000)} mm${wrong.length > 1 ? `; ${wrong.length - 1} more. All are chosen now.` : '.'}`,
    )
  }
  const withChosen = (act: () => void) => () => {
    if (ids.length > 0) act()
  }
  return {
    boxOf,
    checkPlaces,
    copy: withChosen(copy),
    takeOut: withChosen(() => session.act(remove(scene, ids))),
    hide: withChosen(() => {
      const areHidden = ids.every(id => scene.pieces[id].isHidden)
      session.act(show(scene, ids, areHidden))
    }),
    lock: withChosen(() => {
      const areLocked = ids.every(id => isLocked(scene, scene.pieces[id]))
      session.act(lock(scene, ids, !areLocked))
    }),
    moveBy: (by: Vec3) => session.act(move(scene, ids, by), `keys ${ids.join()}`),
    turnBy: (degrees: number) => withChosen(() => session.act(turn(scene, ids, degrees, middle()), `turn ${ids.join()}`))(),
  }
}
