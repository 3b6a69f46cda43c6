import type { Change } from '../scene/change'
import type { Assignment, ItemRef, Scene } from '../scene/scene'
import { wearsOf } from './assign-parts'

/** How a scene uses an item. */
export interface Use {
  /** Of a model: how many stand there, and the parts of it that were given a material. */
  pieces: number
  assignedParts: string[]
  /** Parts that wear it. */
  parts: number
  isPlanted: boolean
  isSky: boolean
}

/** How a scene uses an item, whatever version of it; null where it does not. */
export function useOf({ stage, pieces, plantings, skies, lights, choices, types }: Scene, code: string): Use | null {
  const own = Object.entries(pieces).filter(([, p]) => p.item.code === code)
  const ids = new Set(own.map(([id]) => id))
  const assigned = [
    ...own.flatMap(([, p]) => Object.keys(p.materials)),
    ...Object.values(choices).flatMap(c => c.spots.flatMap(s => (s.piece !== null && ids.has(s.piece) ? [s.part] : []))),
  ]
  const worn = [
    ...[stage.materials, wearsOf(stage)].flatMap(m => Object.values(m)),
    ...Object.values(pieces).flatMap(p => Object.values(p.materials)),
  ]
  const offered =
    Object.values(choices).some(c => c.variants.some(v => v?.material.code === code)) ||
    Object.values(types).some(t => t.finish?.material.code === code)
  const use: Use = {
    pieces: own.length,
    assignedParts: [...new Set(assigned)].sort(),
    parts: worn.filter(a => a.material.code === code).length,
    isPlanted: Object.values(plantings).some(p => p.species.some(s => s.item.code === code)),
    isSky: [...Object.values(skies), ...Object.values(lights)].some(s => s.item?.code === code),
  }
  return use.pieces + use.parts > 0 || use.isPlanted || use.isSky || offered ? use : null
}

/** Another version of an item, or another item, wherever a scene refers to it. */
export function replaceRef(scene: Scene, code: string, to: ItemRef): Change {
  const swap = <T extends { item: ItemRef | null }>(thing: T): T => (thing.item?.code === code ? { ...thing, item: to } : thing)
  const reassign = <A extends Assignment | null>(worn: A): A =>
    worn && worn.material.code === code ? { ...worn, material: to } : worn
  const reassignAll = (materials: Readonly<Record<string, Assignment>>) => map(materials, reassign)
  const stage = { ...scene.stage, materials: reassignAll(scene.stage.materials) }
  if (stage.kind === 'model') stage.wears = reassignAll(stage.wears)
  const change: Record<string, unknown> = {
    pieces: changed(scene.pieces, p => ({ ...swap(p), materials: reassignAll(p.materials) })),
    plantings: changed(scene.plantings, p => ({ ...p, species: p.species.map(swap) })),
    skies: changed(scene.skies, swap),
    lights: changed(scene.lights, swap),
    choices: changed(scene.choices, c => ({ ...c, variants: c.variants.map(reassign) })),
    types: changed(scene.types, t => ({ ...t, finish: reassign(t.finish) })),
  }
  for (const [table, things] of Object.entries(change)) if (Object.keys(things as object).length === 0) delete change[table]
  return { ...(isSame(stage, scene.stage) ? {} : { stage }), ...change }
}

const map = <T>(things: Readonly<Record<string, T>>, to: (thing: T) => T): Record<string, T> =>
  Object.fromEntries(Object.entries(things).map(([key, thing]) => [key, to(thing)]))

const isSame = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b)

function changed<T>(things: Readonly<Record<string, T>>, to: (thing: T) => T): Record<string, T> {
  return Object.fromEntries(
    Object.entries(things).flatMap(([id, thing]) => {
      const next = to(thing)
      return isSame(next, thing) ? [] : [[id, next]]
    }),
  )
}
