import type { Scene, Shot, Spot } from './scene'

/** What a scene is made of, each thing under an id. */
export const TABLES = ['pieces', 'plantings', 'groups', 'skies', 'shots', 'choices', 'lights', 'types'] as const
export type Table = (typeof TABLES)[number]
export type Entity<T extends Table> = Scene[T][string]

/** Things of a scene as they are to be, by id; null for none. Two changes of different things go together in either order. */
export type Change = { readonly [T in Table]?: Readonly<Record<string, Entity<T> | null>> } & { readonly stage?: Scene['stage'] }

/** A scene after a change, and the change that puts back what it was. Nothing of either is written to; what did not change is shared. */
export function applyChange(scene: Scene, change: Change): { scene: Scene; inverse: Change } {
  const next: Scene = { ...scene }
  const inverse: Record<string, unknown> = {}
  if (change.stage) {
    next.stage = change.stage
    inverse.stage = scene.stage
  }
  for (const table of TABLES) {
    const wanted = change[table]
    if (!wanted || Object.keys(wanted).length === 0) continue
    const { [table]: before } = scene
    const after: Record<string, unknown> = { ...before }
    const back: Record<string, unknown> = {}
    for (const [id, value] of Object.entries(wanted)) {
      back[id] = Object.hasOwn(before, id) ? before[id] : null
      if (value === null) delete after[id]
      else after[id] = value
    }
    ;(next as Record<string, unknown>)[table] = inOrder(after)
    inverse[table] = back
  }
  return { scene: next, inverse: inverse as Change }
}

/** By id, so that the same things are the same bytes however they came about. */
const inOrder = (entries: Record<string, unknown>): Record<string, unknown> =>
  Object.fromEntries(Object.entries(entries).sort(([a], [b]) => (a < b ? -1 : 1)))

/** One change that does what the first and then the second do. */
export function joinChanges(first: Change, second: Change): Change {
  const joined: Record<string, unknown> = { ...first, ...(second.stage ? { stage: second.stage } : {}) }
  for (const table of TABLES) if (second[table]) joined[table] = { ...first[table], ...second[table] }
  return joined as Change
}

export interface Touched {
  table: Table | 'stage'
  id: string
}

export function listTouched(change: Change): Touched[] {
  return [
    ...(change.stage ? [{ table: 'stage' as const, id: '' }] : []),
    ...TABLES.flatMap(table => Object.keys(change[table] ?? {}).map(id => ({ table, id }))),
  ]
}

/** What of an earlier change a later one, made without knowing it, sets otherwise: the later stands, and this is told to who made the earlier. */
export function listOvertaken(earlier: Change, later: Change): Touched[] {
  const wantedOf = (change: Change, { table, id }: Touched) => (table === 'stage' ? change.stage : change[table]?.[id])
  const touched = new Set(listTouched(later).map(t => `${t.table} ${t.id}`))
  return listTouched(earlier).filter(
    t => touched.has(`${t.table} ${t.id}`) && JSON.stringify(wantedOf(earlier, t)) !== JSON.stringify(wantedOf(later, t)),
  )
}

/** What a scene needs to be whole: references to what is not there are let go. Empty where it is whole. */
export function mendReferences(scene: Scene): Change {
  const { pieces, plantings, groups, skies, shots, choices, lights, types } = scene
  const mended = <T extends { group: string | null }>(things: Readonly<Record<string, T>>) =>
    pick(things, thing => (thing.group !== null && !Object.hasOwn(groups, thing.group) ? { ...thing, group: null } : thing))
  const onWhatIsThere = <T extends { spots: Spot[] }>(of: T): T | null => {
    const spots = of.spots.filter(s => s.piece === null || Object.hasOwn(pieces, s.piece))
    return spots.length === 0 ? null : spots.length < of.spots.length ? { ...of, spots } : of
  }
  const loose: { [T in Table]?: Record<string, Entity<T> | null> } = {
    pieces: mended(pieces),
    plantings: mended(plantings),
    lights: mended(lights),
    choices: pick(choices, onWhatIsThere),
    types: pick(types, onWhatIsThere),
  }
  const isThere = ([id, variant]: [string, number]) =>
    Object.hasOwn(choices, id) && loose.choices?.[id] !== null && variant < choices[id].variants.length
  loose.shots = pick(shots, (shot): Shot => {
    const held = Object.entries(shot.variants)
    const isLost = shot.sky !== null && !Object.hasOwn(skies, shot.sky)
    if (!isLost && held.every(isThere)) return shot
    return { ...shot, sky: isLost ? null : shot.sky, variants: Object.fromEntries(held.filter(isThere)) }
  })
  return Object.fromEntries(Object.entries(loose).filter(([, of]) => Object.keys(of).length > 0))
}

/** Of things by id, those that are to be otherwise. */
const pick = <T>(things: Readonly<Record<string, T>>, next: (thing: T) => T | null): Record<string, T | null> =>
  Object.fromEntries(
    Object.entries(things).flatMap(([id, thing]) => {
      const wanted = next(thing)
      return wanted === thing ? [] : [[id, wanted]]
    }),
  )

/** The change that makes one scene the other. */
export function differenceOf(from: Scene, to: Scene): Change {
  const change: Record<string, unknown> = JSON.stringify(from.stage) === JSON.stringify(to.stage) ? {} : { stage: to.stage }
  for (const table of TABLES) {
    const [before, after] = [from[table] as Record<string, unknown>, to[table] as Record<string, unknown>]
    const ids = new Set([...Object.keys(before), ...Object.keys(after)])
    const changed = [...ids].filter(id => JSON.stringify(before[id]) !== JSON.stringify(after[id]))
    if (changed.length > 0) change[table] = Object.fromEntries(changed.map(id => [id, after[id] ?? null]))
  }
  return change as Change
}

export const isNoChange = (change: Change): boolean => listTouched(change).length === 0
