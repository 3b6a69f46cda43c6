import type { Assignment, Stage } from '../scene/scene'
import type { ResourcePart } from '../things/resources'

/** A stage that is a model of one's own. */
export type ModelStage = Extract<Stage, { kind: 'model' }>

/** Its parts that are shown; none as long as the model is not there. */
export function listStageParts<P extends { name: string }>(
  { model, without }: ModelStage,
  models: ReadonlyMap<string, readonly P[]>,
): readonly P[] {
  const parts = models.get(model.key) ?? []
  if (without.length === 0) return parts
  const left = new Set(without)
  return parts.filter(part => !left.has(part.name))
}

/** What a part wears: what was put on it, else what its own material is in the house. */
export const wornOfModel = (
  { materials, wears }: ModelStage,
  { name, material }: Pick<ResourcePart<unknown>, 'name' | 'material'>,
): Assignment | undefined =>
  Object.hasOwn(materials, name) ? materials[name] : Object.hasOwn(wears, material.name) ? wears[material.name] : undefined
