import type { Affine } from '#core/math/affine'
import type { Vec3 } from '#core/math/vec3'
import { placeOfPiece } from '#core/mock-up/placing/placing'
import { around, type Box } from '#core/mock-up/placing/snapping'
import type { Scene, Spot } from '#core/mock-up/scene/scene'
import { boundsOf } from '#core/mock-up/things/resources'
import { type Drawing, linesOf } from '../state/use-drawing'
import type { Selection } from '../state/use-selection'
import type { Staged } from '../state/use-staged'
import { shadowOf } from './ShadowHandle'
import { distanceOf } from './use-pointer'

const AS_IT_IS: Affine = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0]
/** The end of a shadow so near to its piece is kept free of the card beside it. */
const SHORT_SHADOW_M = 2

/** More boxes than that say nothing. */
const MOST_OUTLINED = 200

/**
 * Boxes drawn about what is chosen, and about what a material would go to if it were let go of now.
 * @param reached parts that a material would go to with the one that is chosen
 */
export function outlinesOf(
  scene: Scene,
  staged: Staged,
  { ids }: Pick<Selection, 'ids'>,
  reached: readonly Spot[],
  over: Spot | null,
): { toWorld: Affine; box: Box }[] {
  const outlines = ids.flatMap(id => {
    const own = staged.ownBoxes.get(scene.pieces[id].item.inputKey)
    return own ? [{ toWorld: placeOfPiece(scene.pieces[id]), box: own }] : []
  })
  if (scene.stage.kind === 'model') {
    const names = new Set(reached.slice(0, MOST_OUTLINED).flatMap(s => (s.piece === null ? s.part : [])))
    for (const part of staged.stage) if (names.has(part.name)) outlines.push({ toWorld: AS_IT_IS, box: boundsOf([part]) })
  }
  const overBox = over?.piece ? staged.boxes.get(over.piece) : undefined
  if (overBox) outlines.push({ toWorld: AS_IT_IS, box: overBox })
  return outlines
}

/** What is being drawn; else the outline of the planting that is chosen. */
export function drawnLinesOf(scene: Scene, chosen: Selection['chosen'], drawing: Drawing | null): [Vec3, Vec3][] {
  const planting = chosen?.kind === 'planting' ? scene.plantings[chosen.id] : null
  return linesOf(
    drawing ?? {
      kind: planting?.along ? 'line' : 'area',
      points: planting?.outline.map(([x, z]): Vec3 => [x, planting.heightM, z]) ?? [],
      on: [],
    },
  )
}

/** What the card of what is chosen stands beside; null for the edge of the window. */
export function besideOf(
  scene: Scene,
  boxes: ReadonlyMap<string, Box>,
  { chosen, ids }: Selection,
  sun: { azimuthDeg: number; elevationDeg: number } | null,
): Box | null {
  if (chosen?.kind === 'light') {
    const { position } = scene.lights[chosen.id]
    return { min: position, max: position }
  }
  const found = ids.flatMap(id => boxes.get(id) ?? [])
  if (found.length === 0) return null
  const shadow = found.length === 1 && sun ? shadowOf(found[0], sun.azimuthDeg, sun.elevationDeg)?.end : null
  // The end of a short shadow is left free to be taken hold of.
  const end = shadow && { min: shadow, max: shadow }
  return around(end && distanceOf(end, found[0]) < SHORT_SHADOW_M ? [...found, end] : found)
}
