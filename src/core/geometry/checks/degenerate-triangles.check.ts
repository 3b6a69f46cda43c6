import { createFinding } from '../../findings/finding'
import type { ModelCheck } from './model-check'

export const checkDegenerate: ModelCheck = ({ degenerateTriangles, triangles }) =>
  degenerateTriangles > 0 ? [createFinding('degenerateTriangles', { count: degenerateTriangles, triangles })] : []
