import { createFinding } from '../../findings/finding'
import type { ModelCheck } from './model-check'

export const checkBudget: ModelCheck = ({ triangles, triangleBudget }) =>
  triangleBudget !== null && triangles > triangleBudget
    ? [createFinding('overTriangleBudget', { triangles, budget: triangleBudget })]
    : []
