import { createFinding } from '../../findings/finding'
import { extractChannel, fullScale, meanOfChannel, rowStride } from '../../image/image'
import { type MaterialCheck, mapOf } from '../material-subject'

/** 8-bit sRGB codes between which the albedo of real, dry, non-metallic surfaces lies (charcoal to fresh snow). */
const DIELECTRIC_LOW = 30
const DIELECTRIC_HIGH = 240

export const checkAlbedoRange: MaterialCheck = subject => {
  const color = mapOf(subject, 'baseColor')
  if (!color || color.image.channels < 3) return []
  const metal = mapOf(subject, 'metalness')
  const { image } = color
  const scale = 255 / fullScale(image.data)
  const metalImage = metal && metal.image.width === image.width && metal.image.height === image.height ? metal.image : null
  let outside = 0
  let dark = 0
  let counted = 0
  const { width, height, channels, data } = image
  const stride = rowStride(image)
  const metalHalf = metalImage ? fullScale(metalImage.data) / 2 : 0
  for (let y = 0; y < height; y += stride)
    for (let i = y * width, p = i * channels; i < (y + 1) * width; i++, p += channels) {
      if (metalImage && metalImage.data[i * metalImage.channels] > metalHalf) continue
      const peak = Math.max(data[p], data[p + 1], data[p + 2]) * scale
      counted++
      if (peak < DIELECTRIC_LOW) dark++
      if (peak < DIELECTRIC_LOW || peak > DIELECTRIC_HIGH) outside++
    }
  const outsideShare = counted > 0 ? outside / counted : 0
  return outsideShare > 0.05
    ? [
        createFinding(
          'albedoOutOfRange',
          { outsideShare, darkShare: dark / counted, low: DIELECTRIC_LOW, high: DIELECTRIC_HIGH },
          color.path,
        ),
      ]
    : []
}

export const checkMetalnessBinary: MaterialCheck = subject => {
  const map = mapOf(subject, 'metalness')
  if (!map) return []
  const values = extractChannel(map.image, 0).data
  let between = 0
  for (const v of values) if (v > 0.1 && v < 0.9) between++
  const betweenShare = between / values.length
  return betweenShare > 0.1 ? [createFinding('metalnessNotBinary', { betweenShare }, map.path)] : []
}

/** Roughness bands by the start of the house category, from measured examples of the trade's usual finishes. */
const EXPECTED_ROUGHNESS: [RegExp, number, number][] = [
  [/^surfaces\.(timber|masonry|plaster)/, 0.3, 1],
  [/^surfaces\.stone/, 0.05, 1],
  [/^surfaces\.textile/, 0.5, 1],
  [/^surfaces\.(glass|water|enamel)/, 0, 0.35],
]

export const checkGlossAsRoughness: MaterialCheck = subject => {
  const map = mapOf(subject, 'roughness')
  const band = EXPECTED_ROUGHNESS.find(([pattern]) => subject.category && pattern.test(subject.category))
  if (!map || !band) return []
  const found = meanOfChannel(map.image, 0)
  const outside = found < band[1] - 0.05 || found > band[2] + 0.05
  const invertedFits = 1 - found >= band[1] && 1 - found <= band[2]
  return outside && invertedFits
    ? [createFinding('glossAsRoughness', { mean: found, low: band[1], high: band[2] }, map.path)]
    : []
}
