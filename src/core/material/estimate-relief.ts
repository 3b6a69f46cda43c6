import type { ByteImage } from '../image/image'
import { halveBytes } from '../image/reduce'
import type { OpenPbrMaterial, TextureBinding } from './open-pbr'

/** Slopes of smaller pictures than that say what the large one's do, with less noise. */
const WORKING_SIZE = 256
/** Below it the two maps are of different things. */
const LEAST_CORRELATION = 0.5

/**
 * How deep a height map is, from the normal map beside it: the depth at which the slopes of the heights are those of the normals, by least
 * squares. Normals know their scale, heights as a rule do not.
 * @param height of any depth, read in its channel; its darkest and lightest value lie `reliefM` apart
 * @param tileM width and height of a repeat
 * @returns metres; null where the two do not agree
 */
export function estimateRelief(
  height: { image: ByteImage; channel: number },
  normal: { image: ByteImage; handedness: TextureBinding['handedness'] },
  tileM: readonly [number, number],
): number | null {
  const [heights, normals] = [shrink(height.image), shrink(normal.image)]
  const { width, height: rows } = heights
  if (normals.width !== width || normals.height !== rows || normals.channels < 3 || width < 4 || rows < 4) return null
  const at = (x: number, y: number) =>
    heights.data[
      (((y + rows) % rows) * width + ((x + width) % width)) * heights.channels + Math.min(height.channel, heights.channels - 1)
    ] / 255
  const flip = normal.handedness === 'directX' ? -1 : 1
  let [both, ofHeight, ofNormal] = [0, 0, 0]
  for (let y = 0; y < rows; y++)
    for (let x = 0; x < width; x++) {
      const p = (y * width + x) * normals.channels
      const [nx, ny, nz] = [0, 1, 2].map(k => (normals.data[p + k] / 255) * 2 - 1)
      if (!(nz > 0.05)) continue
      // Rise towards +u and towards −v, for each metre.
      const [a, b] = [
        (((at(x + 1, y) - at(x - 1, y)) / 2) * width) / tileM[0],
        (((at(x, y - 1) - at(x, y + 1)) / 2) * rows) / tileM[1],
      ]
      const [p1, q1] = [-nx / nz, (-ny * flip) / nz]
      both += a * p1 + b * q1
      ofHeight += a * a + b * b
      ofNormal += p1 * p1 + q1 * q1
    }
  const correlation = both / Math.sqrt(ofHeight * ofNormal)
  return correlation >= LEAST_CORRELATION ? both / ofHeight : null
}

/** The material with the depth of its heights, where its normals tell it and nobody else did. */
export function withEstimatedRelief(material: OpenPbrMaterial, images: readonly ByteImage[]): OpenPbrMaterial {
  const { textures, tileSizeM, reliefM } = material
  const { displacement, geometryNormal } = textures
  if (reliefM != null || !displacement || !geometryNormal || !tileSizeM) return material
  const relief = estimateRelief(
    { image: images[displacement.image], channel: displacement.channel },
    { image: images[geometryNormal.image], handedness: geometryNormal.handedness },
    tileSizeM,
  )
  return relief === null ? material : { ...material, reliefM: relief }
}

function shrink(image: ByteImage): ByteImage {
  let small = image
  while (Math.max(small.width, small.height) > WORKING_SIZE) small = halveBytes(small, 'linear')
  return small
}
