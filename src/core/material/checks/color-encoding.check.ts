import { decodeSrgb } from '../../color/srgb'
import { createFinding } from '../../findings/finding'
import { fullScale, texelSteps } from '../../image/image'
import { type MaterialCheck, mapOf } from '../material-subject'

const LOW = 30
const HIGH = 240
/** Linear values that the encoding makes LOW and HIGH of. */
const LOWEST_SOUND = decodeSrgb((LOW - 0.5) / 255)
const HIGHEST_SOUND = decodeSrgb((HIGH + 0.5) / 255)
/** As it is, half of it is darker than charcoal; with its encoding, nearly all of it is a surface that exists. */
const LEAST_DARK = 0.5
const LEAST_SOUND = 0.9

/** A colour map that was stored linear, as a renderer or a compositing program leaves it, and is read as if it were display-encoded. */
export const checkColorEncoding: MaterialCheck = subject => {
  const map = mapOf(subject, 'baseColor')
  if (!map || map.image.channels < 3) return []
  const { image } = map
  const scale = 1 / fullScale(image.data)
  const { width, height, channels, data } = image
  const [stepX, stepY] = texelSteps(image)
  let [dark, sound, count] = [0, 0, 0]
  for (let y = 0; y < height; y += stepY)
    for (let x = 0; x < width; x += stepX, count++) {
      const at = (y * width + x) * channels
      const peak = Math.max(data[at], data[at + 1], data[at + 2]) * scale
      if (peak * 255 < LOW) dark++
      if (peak >= LOWEST_SOUND && peak <= HIGHEST_SOUND) sound++
    }
  const evidence = { darkShare: dark / count, soundShareEncoded: sound / count }
  return evidence.darkShare > LEAST_DARK && evidence.soundShareEncoded > LEAST_SOUND
    ? [createFinding('colorLooksLinear', evidence, map.path)]
    : []
}
