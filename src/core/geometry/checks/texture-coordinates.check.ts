import { createFinding } from '../../findings/finding'
import type { ModelCheck } from './model-check'

/** Below this, all of a part shows one texel. */
const LEAST_CHART = 1e-10

export const checkTextureCoordinates: ModelCheck = ({ model, measures }) =>
  model.parts.flatMap((part, i) => {
    if (Object.keys(model.materials[part.material]?.textures ?? {}).length === 0) return []
    if (!part.hasUvs) return [createFinding('textureCoordinatesMissing', { reason: 'none' }, part.name)]
    const isFlat = measures[i].areaM2 > 0 && !(measures[i].chartArea > LEAST_CHART)
    return isFlat ? [createFinding('textureCoordinatesMissing', { reason: 'noArea' }, part.name)] : []
  })
