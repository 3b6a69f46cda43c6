import { createFinding } from '../../findings/finding'
import type { ModelCheck } from './model-check'

/** Rounding in a file's matrices is below this. */
const EVEN_STRETCH = 1.01

export const checkNodeScales: ModelCheck = ({ model }) => {
  const stretches = model.parts.map(p => p.nodeStretch ?? 1)
  const mirrored = stretches.filter(s => s < 0).length
  const stretched = stretches.filter(s => Math.abs(s) > EVEN_STRETCH).length
  const mostStretch = Math.max(1, ...stretches.map(Math.abs))
  return mirrored + stretched > 0 ? [createFinding('nodeScaleOdd', { mirrored, stretched, mostStretch })] : []
}
