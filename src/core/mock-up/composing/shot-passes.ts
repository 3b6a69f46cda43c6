import { IDENTITY } from '../../math/affine'
import { type Passes, tracePasses } from '../../render/integrator/trace-passes'
import { createScene } from '../../render/scene/scene'
import { wearsOf } from '../materials/assign-parts'
import { typesOfParts } from '../materials/part-types'
import { sceneOfShot } from '../materials/variants'
import type { Scene, Shot, Spot } from '../scene/scene'
import type { Composed, ComposedPart } from '../things/composed'
import type { Resources } from '../things/resources'
import { composeScene, toPlacedObjects } from './compose'
import { heightOfShot } from './render-shot'
import { cameraOfShot } from './shot-camera'

/** What masks tell apart: things that stand there, items of the library, what parts wear, groups, and types of parts. */
export const MASK_SETS = ['things', 'items', 'materials', 'groups', 'types'] as const
export type MaskSet = (typeof MASK_SETS)[number]

export type ShotPasses = Omit<Passes, 'masks'> & {
  /** Of each set by name the share of each pixel, in steps of 1/255. */
  masks: Record<MaskSet, Map<string, Uint8Array>>
}

/**
 * What is where in a shot: base colour, normal, depth, and masks by the names of things, items, materials, groups and types. It lies under the rendering of
 * the same width and seed.
 * @returns null when `onProgress` returned false
 */
export function traceShotPasses(
  whole: Scene,
  shot: Shot,
  resources: Resources,
  { width, seed }: { width: number; seed: number },
  onProgress?: (share: number) => boolean,
): ShotPasses | null {
  const scene = sceneOfShot(whole, shot)
  const { loose, placed } = composeScene(scene, resources, shot)
  const built = createScene(loose, new Map(), [], placed.map(toPlacedObjects))
  const view = { width, height: heightOfShot(shot, width), seed }
  const found = tracePasses(built, cameraOfShot(shot), view, nameHits(scene, loose, placed, resources), onProgress)
  if (!found) return null
  const masks = Object.fromEntries(MASK_SETS.map(set => [set, new Map<string, Uint8Array>()])) as ShotPasses['masks']
  for (const [key, mask] of found.masks) {
    const cut = key.indexOf('/')
    masks[key.slice(0, cut) as MaskSet].set(key.slice(cut + 1), mask)
  }
  return { ...found, masks }
}

/** Of what a ray met, the masks that it counts for, each after its set. */
function nameHits(
  scene: Scene,
  loose: readonly ComposedPart[],
  placed: readonly Composed[],
  { models }: Resources,
): (object: number, placement: number) => readonly string[] {
  const { pieces, plantings, lights } = scene
  const names = number([...Object.entries(pieces), ...Object.entries(plantings), ...Object.entries(lights)])
  const groups = number(Object.entries(scene.groups))
  const types = number(Object.entries(scene.types))
  const typeOf = typesOfParts(scene)
  const ofType = (spot: Spot): string[] => {
    const id = typeOf(spot)
    return id === null ? [] : [`types/${types.get(id)}`]
  }
  const firsts: number[] = []
  let count = loose.length
  for (const { parts } of placed) {
    firsts.push(count)
    count += parts.length
  }
  const placements = placed.flatMap((thing, shape) => thing.placements.map((_, k) => ({ shape, k })))
  const { stage } = scene
  const ownOf = new Map(stage.kind === 'model' ? models.get(stage.model.key)?.map(p => [p.name, p.material.name]) : [])
  const ofStage = (part: string): string[] => {
    const own = ownOf.get(part)
    const worn = stage.materials[part] ?? (own === undefined ? undefined : wearsOf(stage)[own])
    return [`things/${part}`, `materials/${worn?.material.code ?? own ?? 'undecided'}`, ...ofType({ piece: null, part })]
  }
  return (object, placement) => {
    if (object < loose.length) return ofStage(loose[object].name)
    // What stands as it was made has no placement in a hit: of its shape it is the one that moves nothing.
    const at = placement >= 0 ? placements[placement] : null
    const shape = at ? at.shape : firsts.findLastIndex(first => first <= object)
    const thing = placed[shape]
    const of =
      thing.of[
        at
          ? at.k
          : Math.max(
              0,
              thing.placements.findIndex(p => p.every((v, i) => v === IDENTITY[i])),
            )
      ]
    const part = thing.parts[object - firsts[shape]]
    const { group } =
      of.piece !== undefined ? pieces[of.piece] : of.light !== undefined ? lights[of.light] : plantings[of.planting]
    const ofGroup = group === null ? [] : [`groups/${groups.get(group)}`]
    if (of.light !== undefined) return [`things/${names.get(of.light) ?? of.light}`, ...ofGroup]
    const item = of.piece !== undefined ? pieces[of.piece].item : plantOf(scene, of.planting, thing.key)
    const worn = of.piece === undefined ? undefined : pieces[of.piece].materials[part.name]
    return [
      `things/${names.get(of.piece ?? of.planting)}`,
      ...(item ? [`items/${item.code}`] : []),
      `materials/${worn?.material.code ?? (item ? `${item.code} ${part.material.name}` : part.material.name)}`,
      ...ofGroup,
      ...(of.piece === undefined ? [] : ofType({ piece: of.piece, part: part.name })),
    ]
  }
}

/** The species of what grows, by the key of its look. */
const plantOf = ({ plantings }: Scene, planting: string, key: string) =>
  plantings[planting]?.species.find(({ item }) => key.endsWith(item.inputKey))?.item

/** Names, each its own: several of one name are numbered. */
function number(things: readonly (readonly [id: string, thing: { name: string }])[]): Map<string, string> {
  const names = new Map<string, string>()
  const counts = new Map<string, number>()
  for (const [id, { name }] of things) {
    const count = (counts.get(name) ?? 0) + 1
    counts.set(name, count)
    names.set(id, count === 1 ? name : `${name} ${count}`)
  }
  return names
}
