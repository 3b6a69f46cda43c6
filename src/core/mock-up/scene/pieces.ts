import { multiply, type Quaternion, rotate, turnAbout } from '../../math/quaternion'
import { add, subtract, type Vec3 } from '../../math/vec3'
import type { Change } from './change'
import type { Group, ItemRef, Piece, Scene, Spot } from './scene'

/** Changes of pieces as a person makes them. What is locked, itself or by its group, stays as it is. */

const UP: Vec3 = [0, 1, 0]

export const isLocked = ({ groups }: Scene, piece: Piece): boolean =>
  piece.isLocked || (piece.group !== null && groups[piece.group]?.isLocked === true)

export const isHidden = ({ groups }: Scene, piece: Piece): boolean =>
  piece.isHidden || (piece.group !== null && groups[piece.group]?.isHidden === true)

function change(scene: Scene, ids: readonly string[], next: (piece: Piece, id: string) => Piece): Change {
  const changed = ids.flatMap(id => {
    const piece = scene.pieces[id]
    return piece && !isLocked(scene, piece) ? [[id, next(piece, id)] as const] : []
  })
  return { pieces: Object.fromEntries(changed) }
}

/** A piece on a point of the stage, upright, at true size, turned about the vertical; in the group that is active. */
export const place = (
  id: string,
  item: ItemRef,
  { name, at, turnDeg = 0, group = null }: { name: string; at: Vec3; turnDeg?: number; group?: string | null },
): Change => ({
  pieces: {
    [id]: {
      item,
      name,
      position: at,
      turn: turnAbout(UP, turnDeg),
      scale: 1,
      group,
      isHidden: false,
      isLocked: false,
      materials: {},
    },
  },
})

export const move = (scene: Scene, ids: readonly string[], by: Vec3): Change =>
  change(scene, ids, piece => ({ ...piece, position: add(piece.position, by) }))

/** About an axis through a pivot, counter-clockwise as seen from its tip; about the vertical unless another is given. */
export function turn(scene: Scene, ids: readonly string[], degrees: number, pivot: Vec3, axis: Vec3 = UP): Change {
  const by = turnAbout(axis, degrees)
  return change(scene, ids, piece => ({
    ...piece,
    position: add(pivot, rotate(by, subtract(piece.position, pivot))),
    turn: multiply(by, piece.turn as Quaternion),
  }))
}

/** Larger or smaller about a pivot. @throws RangeError for a factor that is not positive */
export function scale(scene: Scene, ids: readonly string[], factor: number, pivot: Vec3): Change {
  if (!(factor > 0)) throw new RangeError(`a piece cannot be scaled by ${factor}`)
  return change(scene, ids, piece => {
    const away = subtract(piece.position, pivot)
    return {
      ...piece,
      scale: piece.scale * factor,
      position: add(pivot, [away[0] * factor, away[1] * factor, away[2] * factor]),
    }
  })
}

/** Copies beside the originals: instances of the same items, in the same groups, choices and types. @param idFor the id of each one's copy */
export function duplicate(scene: Scene, ids: readonly string[], by: Vec3, idFor: (id: string) => string): Change {
  const there = ids.filter(id => Object.hasOwn(scene.pieces, id))
  const copyOf = (id: string) => ({ ...scene.pieces[id], position: add(scene.pieces[id].position, by), isLocked: false })
  const joinedBy = <T extends { spots: Spot[] }>(things: Readonly<Record<string, T>>): Record<string, T> =>
    Object.fromEntries(
      Object.entries(things).flatMap(([id, thing]) => {
        const joined = thing.spots.flatMap(({ piece, part }): Spot[] =>
          piece !== null && there.includes(piece) ? [{ piece: idFor(piece), part }] : [],
        )
        return joined.length > 0 ? [[id, { ...thing, spots: [...thing.spots, ...joined] }]] : []
      }),
    )
  const [choices, types] = [joinedBy(scene.choices), joinedBy(scene.types)]
  return {
    pieces: Object.fromEntries(there.map(id => [idFor(id), copyOf(id)])),
    ...(Object.keys(choices).length > 0 ? { choices } : {}),
    ...(Object.keys(types).length > 0 ? { types } : {}),
  }
}

export const remove = (scene: Scene, ids: readonly string[]): Change => ({
  pieces: Object.fromEntries(ids.filter(id => scene.pieces[id] && !isLocked(scene, scene.pieces[id])).map(id => [id, null])),
})

/** Into a group, which may be a new one; out of any by null. */
export const putInGroup = (scene: Scene, ids: readonly string[], group: { id: string; made?: Group } | null): Change => ({
  ...change(scene, ids, piece => ({ ...piece, group: group?.id ?? null })),
  ...(group?.made ? { groups: { [group.id]: group.made } } : {}),
})

export const show = (scene: Scene, ids: readonly string[], isShown: boolean): Change =>
  change(scene, ids, piece => ({ ...piece, isHidden: !isShown }))

/** Locked or free again: the one change that also reaches what is locked by itself. */
export const lock = (scene: Scene, ids: readonly string[], isOn: boolean): Change => ({
  pieces: Object.fromEntries(
    ids.flatMap(id => (scene.pieces[id] ? [[id, { ...scene.pieces[id], isLocked: isOn }] as const] : [])),
  ),
})

/** Where versions of one item differ in a scene, by code: which are used, newest first. */
export function listMixedVersions({ pieces }: Scene): Map<string, number[]> {
  const used = new Map<string, Set<number>>()
  for (const { item } of Object.values(pieces)) used.set(item.code, (used.get(item.code) ?? new Set()).add(item.version))
  return new Map(
    [...used].flatMap(([code, versions]) => (versions.size > 1 ? [[code, [...versions].sort((a, b) => b - a)]] : [])),
  )
}

/**
 * Another item in the place of pieces, at its true size or as large as what it stands for.
 * @param fit largest extents of both, in metres, where it should be fitted
 */
export const replace = (
  scene: Scene,
  ids: readonly string[],
  item: ItemRef,
  { name, fit = null }: { name: string; fit?: { beforeM: number; afterM: number } | null },
): Change =>
  change(scene, ids, piece => ({
    ...piece,
    item,
    name,
    materials: {},
    scale: fit && fit.afterM > 0 ? (piece.scale * fit.beforeM) / fit.afterM : 1,
  }))
