import { type Change, joinChanges } from '../scene/change'
import type { Assignment, PartType, Scene, Spot } from '../scene/scene'
import { spotKey } from '../scene/spots'
import { wornAt } from './assign-parts'
import { putOn } from './variants'

/** Changes of types: parts that are built alike wherever they are, as all walls of one build-up, and the finish that belongs to it. */

/** The type that a part is of. */
export function typeAt({ types }: Pick<Scene, 'types'>, spot: Spot): { id: string; type: PartType } | null {
  const key = spotKey(spot)
  const found = Object.entries(types).find(([, t]) => t.spots.some(s => spotKey(s) === key))
  return found ? { id: found[0], type: found[1] } : null
}

/**
 * Parts become of a type, leave the one that they were of, and put on its finish. Of a type that is begun with them the finish is what the first
 * of them wears.
 * @param own the name of the material that a stage's part came with
 */
export function putInType(
  scene: Scene,
  spots: readonly Spot[],
  to: { id: string; begun?: Pick<PartType, 'name'> },
  own: (spot: Spot) => string | undefined = () => undefined,
): Change {
  if (spots.length === 0) return {}
  const known: PartType | undefined = to.begun
    ? { name: to.begun.name, spots: [], finish: wornAt(scene, spots[0], own(spots[0])) ?? null }
    : scene.types[to.id]
  if (!known) return {}
  const there = new Set(known.spots.map(spotKey))
  const joined: PartType = { ...known, spots: [...known.spots, ...spots.filter(s => !there.has(spotKey(s)))] }
  const left = leaveType(scene, spots, to.id).types
  const assigned = joined.finish === null ? {} : putOn(scene, spots, joined.finish).change
  return joinChanges(assigned, { types: { ...left, [to.id]: joined } })
}

/** Parts are of no type any more and keep what they wear; a type that has none left is gone. @param except a type that they stay of */
export function leaveType({ types }: Pick<Scene, 'types'>, spots: readonly Spot[], except?: string): Pick<Change, 'types'> {
  const gone = new Set(spots.map(spotKey))
  const changed = Object.entries(types).flatMap(([id, type]): [string, PartType | null][] => {
    const stay = type.spots.filter(s => !gone.has(spotKey(s)))
    if (id === except || stay.length === type.spots.length) return []
    return [[id, stay.length > 0 ? { ...type, spots: stay } : null]]
  })
  return changed.length > 0 ? { types: Object.fromEntries(changed) } : {}
}

export const renameType = ({ types }: Pick<Scene, 'types'>, id: string, name: string): Change =>
  types[id] && name.trim() ? { types: { [id]: { ...types[id], name: name.trim() } } } : {}

/** What putting a material on parts does to types: it is the finish of those all of whose parts are meant; of the others a part has its own. */
export function keepFinishes(
  { types }: Pick<Scene, 'types'>,
  spots: readonly Spot[],
  given: Assignment | null,
): Pick<Change, 'types'> {
  const meant = new Set(spots.map(spotKey))
  const changed = Object.entries(types).filter(([, type]) => type.spots.every(s => meant.has(spotKey(s))))
  return changed.length > 0 ? { types: Object.fromEntries(changed.map(([id, type]) => [id, { ...type, finish: given }])) } : {}
}

/** By parts, the id of their type; for who asks of many. */
export function typesOfParts({ types }: Pick<Scene, 'types'>): (spot: Spot) => string | null {
  const byPart = new Map(Object.entries(types).flatMap(([id, type]) => type.spots.map(s => [spotKey(s), id] as const)))
  return spot => byPart.get(spotKey(spot)) ?? null
}

/**
 * By parts, the name of the type with whose finish each counts: those that wear it. A part with a material of its own counts by its surface.
 * @returns for a part and what it wears the name, or null
 */
export function finishTypes({ types }: Pick<Scene, 'types'>): (spot: Spot, worn: Assignment | undefined) => string | null {
  const idOf = typesOfParts({ types })
  return (spot, worn) => {
    const id = idOf(spot)
    const type = id === null ? null : types[id]
    return type?.finish && worn && type.finish.material.code === worn.material.code ? type.name : null
  }
}

/** Letters and a number, as build-ups are named in drawings: "W3", "EW-02", "F 1.2" is not one. */
const MARK = /(?:^|[^a-z0-9])([a-z]{1,3}[-.]?\d{1,3}[a-z]?)(?=$|[^a-z0-9])/i

/** The mark of a type that the name of a part says, such as W3 of "Wall_W3_012"; null where it says none. */
export function markOf(name: string): string | null {
  const [, mark] = MARK.exec(name) ?? []
  return mark ? mark.toUpperCase() : null
}

/** Parts whose names say the same mark, where there are several of them and none is of a type yet. */
export interface ProposedType {
  name: string
  spots: Spot[]
}

/** The types that the names of parts say: those that are there already get what they lack. @param names of parts of the stage */
export function proposeTypes({ types }: Pick<Scene, 'types'>, names: readonly string[]): ProposedType[] {
  const typeOf = typesOfParts({ types })
  const known = new Set(Object.values(types).map(t => t.name.toUpperCase()))
  const byMark = new Map<string, Spot[]>()
  for (const part of names) {
    const mark = markOf(part)
    const spot: Spot = { piece: null, part }
    if (mark && typeOf(spot) === null) byMark.set(mark, [...(byMark.get(mark) ?? []), spot])
  }
  return [...byMark]
    .filter(([name, spots]) => spots.length > 1 || known.has(name))
    .map(([name, spots]) => ({ name, spots }))
    .sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }))
}

/**
 * Takes proposed types over. Nothing looks different for it: the finish of a new type is what most of its parts wear, and the others keep their own.
 * @param own the name of the material that a stage's part came with
 */
export function takeTypes(
  scene: Scene,
  proposed: readonly ProposedType[],
  newId: () => string,
  own: (spot: Spot) => string | undefined = () => undefined,
): Pick<Change, 'types'> {
  const byName = new Map(Object.entries(scene.types).map(([id, type]) => [type.name.toUpperCase(), { id, type }]))
  const taken = proposed.map(({ name, spots }): [string, PartType] => {
    const known = byName.get(name.toUpperCase())
    if (known) return [known.id, { ...known.type, spots: [...known.type.spots, ...spots] }]
    return [newId(), { name, spots: [...spots], finish: commonest(spots.map(spot => wornAt(scene, spot, own(spot)) ?? null)) }]
  })
  return taken.length > 0 ? { types: Object.fromEntries(taken) } : {}
}

/** By what it is of; of those that are laid differently, the first. */
function commonest(worn: readonly (Assignment | null)[]): Assignment | null {
  const counts = new Map<string, { count: number; first: Assignment | null }>()
  for (const one of worn) {
    const key = one?.material.code ?? ''
    const entry = counts.get(key) ?? { count: 0, first: one }
    entry.count++
    counts.set(key, entry)
  }
  return [...counts.values()].reduce((most, entry) => (entry.count > most.count ? entry : most)).first
}
