import { createFinding } from '../../findings/finding'
import { fullScale, texelSteps } from '../../image/image'
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
  const [stepX, stepY] = texelSteps(image)
  const metalHalf = metalImage ? fullScale(metalImage.data) / 2 : 0
  for (let y = 0; y < height; y += stepY)
    for (let x = 0; x < width; x += stepX) {
      const i = y * width + x
      const p = i * channels
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
