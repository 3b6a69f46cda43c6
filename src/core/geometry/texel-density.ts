import type { ImageSize } from './checks/model-check'
import type { PartMeasures } from './measure-part'
import type { Model, ModelPart } from './model'

/** Texels per metre of a part's colour texture (else of any it has); null where it has none, no size of it, or no coordinates. */
export function densityOf(
  model: Model,
  part: ModelPart,
  { areaM2, chartArea }: PartMeasures,
  imageSizes: readonly (ImageSize | null)[],
): number | null {
  const { textures } = model.materials[part.material] ?? { textures: {} }
  const binding = textures.baseColor ?? Object.values(textures)[0]
  const size = binding ? imageSizes[binding.image] : null
  if (!size || !part.hasUvs || !(areaM2 > 0) || !(chartArea > 0)) return null
  return Math.sqrt((chartArea * size.widthPx * size.heightPx) / areaM2)
}

/** Of the whole textured surface together: the root of all texels over all area. Undefined where nothing is textured. */
export function meanDensity(
  model: Model,
  measures: readonly PartMeasures[],
  imageSizes: readonly (ImageSize | null)[],
): number | undefined {
  let texels = 0
  let areaM2 = 0
  for (const [i, part] of model.parts.entries()) {
    const density = densityOf(model, part, measures[i], imageSizes)
    if (density === null) continue
    texels += density * density * measures[i].areaM2
    areaM2 += measures[i].areaM2
  }
  return areaM2 > 0 ? Math.sqrt(texels / areaM2) : undefined
}
