import { isSrgbProfile } from '../../codecs/icc'
import { linearToSrgbByte } from '../../color/srgb'
import { createFinding } from '../../findings/finding'
import { fullScale } from '../../image/image'
import { type MaterialCheck, mapOf } from '../material-subject'

const LOW = 30
const HIGH = 240
/** As it is, half of it is darker than charcoal; with its encoding, nearly all of it is a surface that exists. */
const LEAST_DARK = 0.5
const LEAST_SOUND = 0.9

/** A colour map that was stored linear, as a renderer or a compositing program leaves it, and is read as if it were display-encoded. */
export const checkColorEncoding: MaterialCheck = subject => {
  const map = mapOf(subject, 'baseColor')
  if (!map || map.image.channels < 3) return []
  const { image } = map
  const scale = 1 / fullScale(image.data)
  const count = image.width * image.height
  let dark = 0
  let sound = 0
  for (let p = 0; p < count; p++) {
    const at = p * image.channels
    const peak = Math.max(image.data[at], image.data[at + 1], image.data[at + 2]) * scale
    const encoded = linearToSrgbByte(peak)
    if (peak * 255 < LOW) dark++
    if (encoded >= LOW && encoded <= HIGH) sound++
  }
  const evidence = { darkShare: dark / count, soundShareEncoded: sound / count }
  return evidence.darkShare > LEAST_DARK && evidence.soundShareEncoded > LEAST_SOUND
    ? [createFinding('colorLooksLinear', evidence, map.path)]
    : []
}

/** A colour map in another space than sRGB is read wrong by every target. */
export const checkColorProfile: MaterialCheck = ({ maps }) =>
  maps
    .filter(m => m.role === 'baseColor' || m.role === 'emission')
    .flatMap(m =>
      m.profile && !isSrgbProfile(m.profile) ? [createFinding('colorProfileOther', { profile: m.profile }, m.path)] : [],
    )
