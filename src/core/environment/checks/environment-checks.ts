import { checkAspect } from './aspect.check'
import { checkBadPixels } from './bad-pixels.check'
import type { EnvironmentCheck } from './environment-check'
import { checkFewLevels } from './few-levels.check'
import { checkExposure, checkHeading } from './house.check'
import { checkSeam } from './seam.check'
import { checkSunClipped } from './sun-clipped.check'

/** In the order in which a person would want to read them. */
export const ENVIRONMENT_CHECKS: readonly EnvironmentCheck[] = [
  checkAspect,
  checkBadPixels,
  checkFewLevels,
  checkSeam,
  checkSunClipped,
  checkHeading,
  checkExposure,
]
