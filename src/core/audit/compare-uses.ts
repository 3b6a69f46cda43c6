import { compareModels } from './audit-model'
import { type Change, compareMaterials, type SceneForm } from './compare-materials'
import type { MaterialPrint } from './material-print'
import type { ModelPrint } from './model-print'

/** A material as a scene uses it. */
export interface MaterialUse {
  print: MaterialPrint
  /** Side of one repeat as it lies there, in metres; null where nothing says it. */
  repeatM: number | null
}

/** A repeat that is laid larger or smaller than this many times is seen. */
export const REPEAT_STEP = 1.03

/**
 * What makes one item look otherwise in two scenes: parameters and maps, from the other to this one, and how large it is laid.
 * @param forms in which the scenes came: what one of them cannot hold is no difference
 */
export function compareUses(own: MaterialUse, other: MaterialUse, forms: readonly [SceneForm, SceneForm]): Change[] {
  const narrow = forms[0] === 'gltf' ? 1 : 0
  const { changes } = compareMaterials(own.print, other.print, forms[narrow], [own, other][narrow].print)
  const isLaidOtherwise =
    own.repeatM !== null && other.repeatM !== null && Math.abs(Math.log(own.repeatM / other.repeatM)) > Math.log(REPEAT_STEP)
  return isLaidOtherwise
    ? [...changes, { what: 'repeat', from: sayMetres(other.repeatM!), to: sayMetres(own.repeatM!) }]
    : changes
}

/** A model as a scene uses it: as it stands at each of its places, in their order, and how many there are, instances included. */
export interface ModelUse {
  prints: readonly ModelPrint[]
  count: number
}

/** What stands larger or smaller than this many times is another size. */
const SIZE_STEP = 1.005

/**
 * What makes one model another in two scenes, from the other to this one: of itself and its size, where it differs most, and how many there
 * are.
 */
export function compareModelUses(own: ModelUse, other: ModelUse): Change[] {
  let most: Change[] = []
  for (const [k, print] of own.prints.entries()) {
    // Where one has more of them than the other, those are held against the last.
    const { changes, scale } = compareModels(print, other.prints[Math.min(k, other.prints.length - 1)])
    const found = [...changes]
    if (Math.abs(Math.log(scale)) > Math.log(SIZE_STEP))
      found.push({ what: 'size', from: '100 %', to: `${Math.round(scale * 1000) / 10} %` })
    if (found.length > most.length) most = found
  }
  return own.count === other.count ? most : [...most, { what: 'count', from: other.count, to: own.count }]
}

export const sayMetres = (m: number): string => (m < 1 ? `${Math.round(m * 1000)} mm` : `${Math.round(m * 100) / 100} m`)
