import { createFinding } from '../../findings/finding'
import { MAP_BUDGET_PX } from '../../standard/categories'
import type { MaterialCheck } from '../material-subject'

/** Larger than anything here needs: it costs memory and shows nowhere. */
export const checkMapBudget: MaterialCheck = ({ maps, mapBudgetPx }) => {
  const budgetPx = mapBudgetPx ?? MAP_BUDGET_PX
  const widthPx = Math.max(0, ...maps.map(m => Math.max(m.widthPx, m.heightPx)))
  return widthPx > budgetPx ? [createFinding('mapsOverBudget', { widthPx, budgetPx })] : []
}
