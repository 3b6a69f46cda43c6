import type { Change } from '../scene/change'
import { isLocked } from '../scene/pieces'
import type { Assignment, Piece, Scene, Spot } from '../scene/scene'
import { spotKey } from '../scene/spots'
import { wornAt } from './assign-parts'
import { keepFinishes, typeAt } from './part-types'
import { putOn } from './variants'

/**
 * How far a material goes: to one part; to everything that wears what this part wears; to all parts of the piece (of a room: all its walls);
 * to this part of every instance of the item; to every part whose name begins with the same word, wherever it is; to every part of its type.
 */
export const REACHES = ['part', 'alike', 'piece', 'instances', 'named', 'type'] as const
export type Reach = (typeof REACHES)[number]

/** What is known of parts beyond the scene. */
export interface PartBook {
  /** Of a piece: names, and what each wears of its own. */
  partsOf: (piece: Piece) => readonly BookedPart[]
  stageParts: readonly BookedPart[]
}

/** A part by its name, and by that of the material it came with. */
export interface BookedPart {
  name: string
  own: string
}

const firstWord = (name: string): string =>
  name
    .trim()
    .toLowerCase()
    .split(/[\s_.-]+/)[0]

/** Every part that a material put on one goes to. What is locked is left out. */
export function listReached(scene: Scene, spot: Spot, reach: Reach, book: PartBook): Spot[] {
  const everywhere = (): Spot[] => [
    ...book.stageParts.map(({ name }) => ({ piece: null, part: name })),
    ...Object.entries(scene.pieces).flatMap(([piece, p]) => book.partsOf(p).map(({ name }) => ({ piece, part: name }))),
  ]
  const isFree = ({ piece }: Spot) => piece === null || (scene.pieces[piece] && !isLocked(scene, scene.pieces[piece]))
  const all = (): Spot[] => {
    switch (reach) {
      case 'part':
        return [spot]
      case 'piece': {
        const own = spot.piece === null ? undefined : scene.pieces[spot.piece]
        if (own) return book.partsOf(own).map(({ name }) => ({ piece: spot.piece, part: name }))
        return everywhere().filter(s => s.piece === null && firstWord(s.part) === firstWord(spot.part))
      }
      case 'instances': {
        const own = spot.piece === null ? undefined : scene.pieces[spot.piece]
        if (!own) return [spot]
        return Object.entries(scene.pieces).flatMap(([piece, p]) =>
          p.item.code === own.item.code && p.item.version === own.item.version ? [{ piece, part: spot.part }] : [],
        )
      }
      case 'named':
        return everywhere().filter(s => firstWord(s.part) === firstWord(spot.part))
      case 'type': {
        // A part of what is not there yet, or is a model of before, is not reached.
        const booked = new Set(everywhere().map(spotKey))
        return typeAt(scene, spot)?.type.spots.filter(s => booked.has(spotKey(s))) ?? [spot]
      }
      case 'alike': {
        const ownOf = ownNames(book)
        const look = lookAt(scene, spot, book, ownOf)
        return everywhere().filter(s => lookAt(scene, s, book, ownOf) === look)
      }
      default:
        return reach satisfies never
    }
  }
  return all().filter(isFree)
}

/** What a part wears, as a text: an item of the library, or what came with its own. */
function lookAt(scene: Scene, spot: Spot, book: PartBook, ownOf: ReadonlyMap<string, string>): string {
  const worn = wornAt(scene, spot, ownOf.get(spot.part))
  if (worn) return worn.material.inputKey
  if (spot.piece === null) return scene.stage.kind === 'model' ? `of the stage ${ownOf.get(spot.part)}` : 'nothing yet'
  const own = scene.pieces[spot.piece]
  const part = own && book.partsOf(own).find(p => p.name === spot.part)
  return part ? `${own.item.inputKey} ${part.own}` : ''
}

/** By names of a stage's parts, those of the materials that they came with. */
export const ownNames = ({ stageParts }: Pick<PartBook, 'stageParts'>): ReadonlyMap<string, string> =>
  new Map(stageParts.map(({ name, own }) => [name, own]))

/**
 * Puts a material on parts; null takes off what was put on, so that they wear their own again. Where they are of a choice, its variant that is
 * shown becomes this one; where they are all parts of a type, it is the type's finish.
 */
export function assignTo(scene: Scene, spots: readonly Spot[], given: Assignment | null): Change {
  const { reached, change } = putOn(scene, spots, given)
  return { ...change, ...keepFinishes(scene, reached, given) }
}
