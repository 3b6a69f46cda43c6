import type { MaterialCheck } from '../material-subject'
import { checkAlbedoRange } from './albedo-range.check'
import { checkBakedLight } from './baked-light.check'
import { checkBaseColorPresent } from './base-color.check'
import { checkColorEncoding } from './color-encoding.check'
import { checkColorProfile } from './color-profile.check'
import { checkGlossAsRoughness } from './gloss-as-roughness.check'
import { checkHeightBanding } from './height-banding.check'
import { checkMapBudget } from './map-budget.check'
import { checkMapSizes } from './map-sizes.check'
import { checkMetalnessBinary } from './metalness-binary.check'
import { checkNormalHandedness } from './normal-handedness.check'
import { checkNormalLength } from './normal-length.check'
import { checkPacking } from './packed-maps.check'
import { checkRealWorldSize } from './real-world-size.check'
import { checkRoleSource } from './role-source.check'
import { checkTileSeam } from './tile-seam.check'
import { checkVisibleRepeat } from './visible-repeat.check'

/** Must fix first. Adding a check touches this list and its own file. */
export const MATERIAL_CHECKS: readonly MaterialCheck[] = [
  checkRealWorldSize,
  checkBaseColorPresent,
  checkNormalHandedness,
  checkNormalLength,
  checkColorProfile,
  checkColorEncoding,
  checkAlbedoRange,
  checkBakedLight,
  checkGlossAsRoughness,
  checkMetalnessBinary,
  checkTileSeam,
  checkVisibleRepeat,
  checkMapSizes,
  checkMapBudget,
  checkPacking,
  checkHeightBanding,
  checkRoleSource,
]

/** Those that only make sense of what repeats. */
export const REPEAT_CHECKS: ReadonlySet<MaterialCheck> = new Set([checkTileSeam, checkVisibleRepeat, checkBakedLight])
