import { createFinding } from '../../findings/finding'
import type { ModelCheck } from './model-check'

export const checkDuplicates: ModelCheck = ({ edges, triangles }) => {
  const count = edges.reduce((sum, e) => sum + e.duplicates, 0)
  return count > 0 ? [createFinding('duplicateTriangles', { count, triangles })] : []
}
