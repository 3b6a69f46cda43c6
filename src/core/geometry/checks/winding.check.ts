import { createFinding } from '../../findings/finding'
import type { ModelCheck } from './model-check'

/** Of a closed part the enclosed volume tells which way it faces; one with a few gaps still does. */
const MOST_OPEN = 0.02

export const checkWinding: ModelCheck = ({ model, edges }) =>
  edges.flatMap((e, i) => {
    const isClosed = e.edges > 0 && e.open <= e.edges * MOST_OPEN && e.contrary <= e.edges * MOST_OPEN
    return isClosed && e.signedVolume < 0
      ? [createFinding('windingInwards', { volumeM3: -e.signedVolume }, model.parts[i].name)]
      : []
  })
