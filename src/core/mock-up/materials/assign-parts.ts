import type { Change } from '../scene/change'
import type { Assignment, Scene, Spot, Stage } from '../scene/scene'

/** What was decided for the materials that a stage came with, by their names; a stage that is built here came with none. */
export const wearsOf = (stage: Stage): Readonly<Record<string, Assignment>> => (stage.kind === 'model' ? stage.wears : {})

/**
 * What a part wears of the library; nothing where it wears what it came with.
 * @param own the name of the material that a stage's part came with
 */
export const wornAt = ({ stage, pieces }: Scene, { piece, part }: Spot, own?: string): Assignment | undefined =>
  piece !== null
    ? pieces[piece]?.materials[part]
    : (stage.materials[part] ?? (own === undefined ? undefined : wearsOf(stage)[own]))

/** What parts wear, whatever choice they are of. */
export function assignParts(scene: Scene, spots: readonly Spot[], given: Assignment | null): Change {
  const put = (materials: Readonly<Record<string, Assignment>>, parts: readonly string[]) => {
    const next = { ...materials }
    for (const part of parts)
      if (given) next[part] = given
      else delete next[part]
    return next
  }
  const byPiece = new Map<string | null, string[]>()
  for (const { piece, part } of spots) byPiece.set(piece, [...(byPiece.get(piece) ?? []), part])
  const ofStage = byPiece.get(null)
  const pieces = [...byPiece].flatMap(([id, parts]) => {
    const piece = id === null ? undefined : scene.pieces[id]
    return id !== null && piece ? [[id, { ...piece, materials: put(piece.materials, parts) }] as const] : []
  })
  return {
    ...(pieces.length > 0 ? { pieces: Object.fromEntries(pieces) } : {}),
    ...(ofStage ? { stage: { ...scene.stage, materials: put(scene.stage.materials, ofStage) } } : {}),
  }
}
