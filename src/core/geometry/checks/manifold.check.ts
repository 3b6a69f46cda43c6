import { createFinding } from '../../findings/finding'
import type { ModelCheck } from './model-check'

export const checkManifold: ModelCheck = ({ edges }) => {
  const nonManifold = edges.reduce((sum, e) => sum + e.nonManifold, 0)
  const all = edges.reduce((sum, e) => sum + e.edges, 0)
  return nonManifold > all * 0.001 ? [createFinding('nonManifoldEdges', { nonManifold, edges: all })] : []
}
