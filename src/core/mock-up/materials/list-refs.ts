import type { Assignment, ItemRef, Scene } from '../scene/scene'
import { wearsOf } from './assign-parts'

const assigned = (materials: Readonly<Record<string, Assignment>>): ItemRef[] => Object.values(materials).map(a => a.material)

/** Every version of an item that a scene shows, each once. */
export function listRefs({
  stage,
  pieces,
  plantings,
  skies,
  choices,
  lights,
  types,
}: Pick<Scene, 'stage' | 'pieces' | 'plantings' | 'skies' | 'choices' | 'lights' | 'types'>): ItemRef[] {
  const all = [
    ...assigned(stage.materials),
    ...assigned(wearsOf(stage)),
    ...Object.values(pieces).flatMap(p => [p.item, ...assigned(p.materials)]),
    ...Object.values(plantings).flatMap(p => p.species.map(s => s.item)),
    ...[...Object.values(skies), ...Object.values(lights)].flatMap(s => s.item ?? []),
    ...Object.values(choices).flatMap(c => c.variants.flatMap(v => v?.material ?? [])),
    ...Object.values(types).flatMap(t => t.finish?.material ?? []),
  ]
  return [...new Map(all.map(ref => [refKey(ref), ref])).values()]
}

/** Keys of everything that is opened to show a scene: its items, and the model that is its stage. */
export function listKeys(scene: Scene): readonly string[] {
  let keys = known.get(scene)
  if (!keys) {
    keys = [...listRefs(scene).map(ref => ref.inputKey), ...(scene.stage.kind === 'model' ? [scene.stage.model.key] : [])]
    known.set(scene, keys)
  }
  return keys
}
/** Several ask for it at each edit. */
const known = new WeakMap<Scene, readonly string[]>()

export const refKey = ({ code, version, inputKey }: ItemRef): string => `${code} ${version} ${inputKey}`
