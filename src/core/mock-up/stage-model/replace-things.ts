import { type Quaternion, turnAbout } from '../../math/quaternion'
import type { Vec3 } from '../../math/vec3'
import { affineOfTurn } from '../placing/placing'
import type { Box } from '../placing/snapping'
import type { Change } from '../scene/change'
import type { ItemRef, Piece, Scene } from '../scene/scene'
import type { Thing } from './alike-things'

interface Replacement {
  item: ItemRef
  name: string
  /** Of the item in its own space; null where it is not known yet: it stands by its origin then. */
  box: Box | null
  /** As high as what it stands for, or as large as it is made. */
  isFitted: boolean
  group: string | null
}

const UP: Vec3 = [0, 1, 0]

/**
 * A piece of the library in the place of each of several things of the stage's model, turned as they are, standing on their foot; the parts of
 * those are left out from then on. Nothing where the stage is no model.
 * @param idOf of each piece by its place in the list
 */
export function replaceThings(
  { stage }: Pick<Scene, 'stage'>,
  things: readonly Thing[],
  replacement: Replacement,
  idOf: (place: number) => string,
): Change {
  if (stage.kind !== 'model' || things.length === 0) return {}
  return {
    pieces: Object.fromEntries(things.map((thing, k) => [idOf(k), standFor(thing, replacement)])),
    stage: { ...stage, without: [...new Set([...stage.without, ...things.flatMap(t => t.parts)])] },
  }
}

function standFor({ foot, turnDeg, box: place }: Thing, { item, name, box, isFitted, group }: Replacement): Piece {
  const heightM = box ? box.max[1] - box.min[1] : 0
  const scale = isFitted && heightM > 0 ? (place.max[1] - place.min[1]) / heightM : 1
  const turn = turnAbout(UP, turnDeg)
  return {
    ...{ item, name, turn, scale, group, isHidden: false, isLocked: false, materials: {} },
    position: box ? footOn(foot, turn, scale, box) : foot,
  }
}

/** Where the origin of a piece comes to stand when the middle of its foot stands on a point. */
function footOn(point: Vec3, turn: Quaternion, scale: number, { min, max }: Box): Vec3 {
  const a = affineOfTurn([0, 0, 0], turn, scale)
  const [x, y, z] = [(min[0] + max[0]) / 2, min[1], (min[2] + max[2]) / 2]
  return [0, 1, 2].map(k => point[k] - (a[k * 4] * x + a[k * 4 + 1] * y + a[k * 4 + 2] * z)) as Vec3
}

/** All that was left out of the stage's model, shown again; what stands in its place stays. */
export const showAllParts = ({ stage }: Pick<Scene, 'stage'>): Change =>
  stage.kind === 'model' && stage.without.length > 0 ? { stage: { ...stage, without: [] } } : {}
