import type { Change } from './change'
import type { Assignment, Scene, Spot } from './scene'

/** What was put on a part; nothing where it wears what it came with. */
export const wornAt = (scene: Scene, { piece, part }: Spot): Assignment | undefined =>
  piece === null ? scene.stage.materials[part] : scene.pieces[piece]?.materials[part]

/** What parts wear, whatever choice they are of. */
export function dress(scene: Scene, spots: readonly Spot[], given: Assignment | null): Change {
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
