import { checkDefaultSurfaces } from './default-surface.check'
import { checkDegenerate } from './degenerate-triangles.check'
import { checkDuplicates } from './duplicate-triangles.check'
import { checkLevels } from './levels.check'
import { checkManifold } from './manifold.check'
import { checkLost, checkMatchedFiles, checkMissingFiles } from './missing-files.check'
import type { ModelCheck } from './model-check'
import { checkNodeScales } from './node-scales.check'
import { checkPartNames } from './part-names.check'
import { checkPivot } from './pivot.check'
import { checkStrays } from './strays.check'
import { checkTexelDensity } from './texel-density.check'
import { checkTextureBudget } from './texture-budget.check'
import { checkTextureCoordinates } from './texture-coordinates.check'
import { checkBudget } from './triangle-budget.check'
import { checkUnit } from './unit.check'
import { checkVertexNormals } from './vertex-normals.check'
import { checkWinding } from './winding.check'

/** Must fix first. Adding a check touches this list and its own file. */
export const MODEL_CHECKS: readonly ModelCheck[] = [
  checkMissingFiles,
  checkLost,
  checkMatchedFiles,
  checkUnit,
  checkDefaultSurfaces,
  checkPivot,
  checkTextureCoordinates,
  checkPartNames,
  checkBudget,
  checkWinding,
  checkVertexNormals,
  checkStrays,
  checkDegenerate,
  checkDuplicates,
  checkManifold,
  checkLevels,
  checkTextureBudget,
  checkTexelDensity,
  checkNodeScales,
]
