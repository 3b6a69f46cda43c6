import { type Change, compareMaterials, type SceneForm } from './compare-materials'
import type { MaterialPrint } from './material-print'

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
  const narrow = forms.find(form => form !== 'gltf') ?? 'gltf'
  const { changes } = compareMaterials(own.print, other.print, narrow)
  const isLaidOtherwise =
    own.repeatM !== null && other.repeatM !== null && Math.abs(Math.log(own.repeatM / other.repeatM)) > Math.log(REPEAT_STEP)
  return isLaidOtherwise
    ? [...changes, { what: 'repeat', from: sayMetres(other.repeatM!), to: sayMetres(own.repeatM!) }]
    : changes
}

export const sayMetres = (m: number): string => (m < 1 ? `${Math.round(m * 1000)} mm` : `${Math.round(m * 100) / 100} m`)
