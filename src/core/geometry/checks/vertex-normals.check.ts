import { createFinding } from '../../findings/finding'
import type { ModelCheck } from './model-check'

/** Of a part's area that may be shaded as if seen from behind: slivers at the ends of what was turned or bent. */
const MOST_AGAINST = 0.05

/**
 * Shading normals that are not there, or that look away from their own faces. A part that faces inwards as a whole is another check's;
 * thin walls and cut-out leaves are bent on purpose.
 */
export const checkVertexNormals: ModelCheck = ({ model, measures, edges }) =>
  model.parts.flatMap((part, i) => {
    if (part.mesh.indices.length === 0) return []
    if (part.hasNormals === false) return [createFinding('vertexNormalsOff', { reason: 'missing' }, part.name)]
    const thin = model.materials[part.material]?.parameters.geometryThinWalled === true
    const { againstShare } = measures[i]
    const isInsideOut = edges[i].signedVolume < 0 && againstShare > 0.5
    return !thin && !isInsideOut && againstShare > MOST_AGAINST
      ? [createFinding('vertexNormalsOff', { reason: 'against', againstShare }, part.name)]
      : []
  })
