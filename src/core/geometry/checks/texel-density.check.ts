import { createFinding } from '../../findings/finding'
import { densityOf } from '../texel-density'
import type { ModelCheck } from './model-check'

/** Beside each other, one looks blurred or the other wastes its texels. */
const MOST_SPREAD = 4
/** A part of less than this share of the textured surface is a detail that nobody compares. */
const LEAST_AREA_SHARE = 0.02

/** How evenly the parts of a model are textured, in texels per metre. */
export const checkTexelDensity: ModelCheck = ({ model, measures, imageSizes }) => {
  const textured = model.parts.flatMap((part, i) => {
    const density = densityOf(model, part, measures[i], imageSizes)
    return density === null ? [] : [{ name: part.name, density, areaM2: measures[i].areaM2 }]
  })
  const whole = textured.reduce((sum, t) => sum + t.areaM2, 0)
  const compared = textured.filter(t => t.areaM2 >= whole * LEAST_AREA_SHARE).sort((a, b) => a.density - b.density)
  const [lowest, highest] = [compared[0], compared.at(-1)]
  if (!lowest || !highest || highest.density <= lowest.density * MOST_SPREAD) return []
  return [
    createFinding('texelDensityUneven', {
      lowPart: lowest.name,
      lowPxM: lowest.density,
      highPart: highest.name,
      highPxM: highest.density,
    }),
  ]
}
