import { applyChange, type Change, joinChanges } from '../scene/change'
import type { Assignment, Choice, Scene, Shot, Spot } from '../scene/scene'
import { isSameSpot } from '../scene/spots'
import { assignParts, wornAt } from './assign-parts'

/** Changes of choices: several materials that the same parts may carry, one of them shown. */

const holds = (spots: readonly Spot[], spot: Spot): boolean => spots.some(s => isSameSpot(s, spot))

/** The choice that a part is of. */
export function choiceAt({ choices }: Pick<Scene, 'choices'>, spot: Spot): { id: string; choice: Choice } | null {
  const found = Object.entries(choices).find(([, c]) => holds(c.spots, spot))
  return found ? { id: found[0], choice: found[1] } : null
}

/**
 * One more material for parts, which is shown then. Parts of a choice bring it along with all its parts; others begin one, whose first
 * variant is what they wear now.
 * @param fresh id and name of a choice that has to be begun
 */
export function addVariant(scene: Scene, spots: readonly Spot[], given: Assignment, fresh: { id: string; name: string }): Change {
  if (spots.length === 0) return {}
  const known = choiceAt(scene, spots[0])
  if (known) {
    const { id, choice } = known
    const variants = [...choice.variants, given]
    return { ...assignParts(scene, choice.spots, given), choices: { [id]: { ...choice, variants, shown: variants.length - 1 } } }
  }
  const free = spots.filter(spot => !choiceAt(scene, spot))
  const before = wornAt(scene, spots[0]) ?? null
  const made: Choice = { name: fresh.name, spots: free, variants: [before, given], shown: 1 }
  return { ...assignParts(scene, free, given), choices: { [fresh.id]: made } }
}

/** Shows another variant of a choice, counted round from either end. */
export function showVariant(scene: Scene, id: string, variant: number): Change {
  const choice = scene.choices[id]
  if (!choice) return {}
  const { variants, spots } = choice
  const shown = ((variant % variants.length) + variants.length) % variants.length
  return { ...assignParts(scene, spots, variants[shown]), choices: { [id]: { ...choice, shown } } }
}

/** Takes a variant out. Of the last but one the other is what the parts wear, and there is no choice any more. */
export function dropVariant(scene: Scene, id: string, variant: number): Change {
  const choice = scene.choices[id]
  if (!choice) return {}
  const variants = choice.variants.filter((_, k) => k !== variant)
  const shown = Math.min(choice.shown > variant ? choice.shown - 1 : choice.shown, Math.max(0, variants.length - 1))
  const shots = Object.entries(scene.shots).flatMap(([shotId, shot]) => {
    const held = shot.variants[id]
    if (held === undefined || held < variant) return []
    const { [id]: _, ...rest } = shot.variants
    return [[shotId, { ...shot, variants: held === variant ? rest : { ...rest, [id]: held - 1 } }] as const]
  })
  return {
    ...assignParts(scene, choice.spots, variants[shown] ?? null),
    choices: { [id]: variants.length > 1 ? { ...choice, variants, shown } : null },
    ...(shots.length > 0 ? { shots: Object.fromEntries(shots) } : {}),
  }
}

/**
 * Puts a material on parts; null takes off what was put on. Where they are of a choice, its variant that is shown becomes this one.
 * @returns with every part that is reached
 */
export function putOn(
  scene: Scene,
  spots: readonly Spot[],
  given: Assignment | null,
): { reached: readonly Spot[]; change: Change } {
  const { reached, choices } = keepChoices(scene, spots, given)
  return { reached, change: { ...assignParts(scene, reached, given), ...choices } }
}

/**
 * What putting a material on parts does to the choices they are of: where all parts of one are meant, or its shown material is only laid
 * otherwise, the shown variant is set anew on all of them; else the parts that are meant leave it.
 * @returns with every part that is reached
 */
function keepChoices(
  scene: Scene,
  spots: readonly Spot[],
  given: Assignment | null,
): { reached: readonly Spot[]; choices: Pick<Change, 'choices'> } {
  const reached = [...spots]
  const choices: Record<string, Choice | null> = {}
  for (const [id, choice] of Object.entries(scene.choices)) {
    const meant = choice.spots.filter(s => holds(spots, s))
    if (meant.length === 0) continue
    const shown = choice.variants[choice.shown]
    const isLaidOtherwise = shown !== null && given !== null && shown.material.inputKey === given.material.inputKey
    if (isLaidOtherwise || meant.length === choice.spots.length) {
      choices[id] = { ...choice, variants: choice.variants.map((v, k) => (k === choice.shown ? given : v)) }
      reached.push(...choice.spots.filter(s => !holds(reached, s)))
    } else choices[id] = { ...choice, spots: choice.spots.filter(s => !holds(spots, s)) }
  }
  return { reached, choices: Object.keys(choices).length > 0 ? { choices } : {} }
}

/** What a shot shows of each choice. */
export const listShown = ({ choices }: Pick<Scene, 'choices'>, { variants }: Pick<Shot, 'variants'>) =>
  Object.entries(choices).map(([id, choice]) => {
    const variant = variants[id] ?? choice.shown
    return { id, name: choice.name, variant, worn: choice.variants[variant] ?? null }
  })

const known = new WeakMap<Scene, Map<string, Scene>>()

/** A scene with the variants that a shot shows; the same scene where it shows none of its own. */
export function sceneOfShot(scene: Scene, { variants }: Pick<Shot, 'variants'>): Scene {
  const own = Object.entries(variants).filter(([id, variant]) => scene.choices[id] && scene.choices[id].shown !== variant)
  if (own.length === 0) return scene
  const key = JSON.stringify(own)
  const made = known.get(scene)?.get(key)
  if (made) return made
  const change = own.reduce<Change>(
    (whole, [id, variant]) => joinChanges(whole, showVariant(applyChange(scene, whole).scene, id, variant)),
    {},
  )
  const shown = applyChange(scene, change).scene
  known.set(scene, (known.get(scene) ?? new Map<string, Scene>()).set(key, shown))
  return shown
}
