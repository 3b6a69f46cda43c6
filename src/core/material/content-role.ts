import { fullScale, type Image } from '../image/image'
import type { MapRole } from './texture-set'

/**
 * What a map's pixels look like, for a file whose name says nothing: unit-length bluish vectors are normals, two
 * values only are a mask, colour is colour. Grey maps are not told apart here: their meaning is not in the pixels.
 */
export function guessRoleByContent(image: Image): { role: MapRole; confidence: number } | null {
  const { channels, data } = image
  if (channels < 3) return isBinary(image) ? { role: 'opacity', confidence: 0.55 } : null
  const scale = 1 / fullScale(data)
  let unit = 0
  const sum = [0, 0, 0]
  let saturation = 0
  const count = image.width * image.height
  for (let p = 0; p < count; p++) {
    const r = data[p * channels] * scale
    const g = data[p * channels + 1] * scale
    const b = data[p * channels + 2] * scale
    const length = Math.hypot(r * 2 - 1, g * 2 - 1, b * 2 - 1)
    // Reduced for a quick look, steep ones have become shorter.
    if (length > 0.6 && length < 1.08) unit++
    sum[0] += r
    sum[1] += g
    sum[2] += b
    saturation += Math.max(r, g, b) - Math.min(r, g, b)
  }
  const unitShare = unit / count
  const [meanR, meanG, meanB] = sum.map(v => v / count)
  const isUpright = Math.abs(meanR - 0.5) < 0.12 && Math.abs(meanG - 0.5) < 0.12 && meanB > 0.7
  if (unitShare > 0.9 && isUpright) return { role: 'normal', confidence: 0.95 * unitShare }
  const meanSaturation = saturation / count
  if (meanSaturation > 0.03) return { role: 'baseColor', confidence: Math.min(0.8, 0.5 + meanSaturation * 2) }
  return isBinary(image) ? { role: 'opacity', confidence: 0.55 } : null
}

function isBinary(image: Image): boolean {
  const top = fullScale(image.data)
  let extreme = 0
  let low = 0
  const count = image.width * image.height
  for (let p = 0; p < count; p++) {
    const v = image.data[p * image.channels] / top
    if (v < 0.03) low++
    if (v < 0.03 || v > 0.97) extreme++
  }
  return extreme / count > 0.97 && low > 0 && low < count
}
