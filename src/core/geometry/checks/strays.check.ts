import { createFinding } from '../../findings/finding'
import type { ModelCheck } from './model-check'

export const checkStrays: ModelCheck = ({ model }) => {
  const { cameras, lights, emptyNodes, animations } = model.strays
  return cameras + lights + emptyNodes + animations > 0
    ? [createFinding('strayObjects', { cameras, lights, emptyNodes, animations })]
    : []
}
