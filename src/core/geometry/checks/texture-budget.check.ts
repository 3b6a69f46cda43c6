import { createFinding } from '../../findings/finding'
import { MODEL_TEXTURE_BUDGET_PX } from '../../standard/categories'
import type { ModelCheck } from './model-check'

export const checkTextureBudget: ModelCheck = ({ imageSizes }) => {
  const sizesPx = imageSizes.map(size => (size ? Math.max(size.widthPx, size.heightPx) : 0))
  const over = sizesPx.filter(px => px > MODEL_TEXTURE_BUDGET_PX)
  return over.length > 0
    ? [
        createFinding('texturesOverBudget', {
          count: over.length,
          textures: sizesPx.length,
          largestPx: Math.max(...over),
          budgetPx: MODEL_TEXTURE_BUDGET_PX,
        }),
      ]
    : []
}
