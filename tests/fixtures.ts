import sharp from 'sharp'
import { writeHdr } from '../src/core/codecs/hdr'
import { writeExr } from '../src/core/codecs/write-exr'
import { columnAzimuth, directionOf, rowElevation } from '../src/core/environment/sphere'
import { createBox, createSphere } from '../src/core/geometry/shapes'
import { createFloatImage, type FloatImage } from '../src/core/image/image'
import { dot } from '../src/core/math/vec3'
import { createFileWriter } from '../src/demo/file-writer'
import { encodeMap } from '../src/demo/make-file'
import { writeGlb } from '../src/demo/model-file'
import { makeMaps, type RawMap } from '../src/demo/texture-set'
import { tileFbm } from '../src/demo/tile-noise'

/** Small real files with known truths, made here and nowhere else: nothing in the tests comes from outside. */

/** A bumpy two-tone surface of 600 mm, 128 px. Its normal map's green points up. */
export const makeSurfaceMaps = (sizePx = 128): RawMap[] =>
  makeMaps({
    folder: '',
    stem: 'surface',
    widthMm: 600,
    sizePx,
    texel: (u, v) => {
      const n = tileFbm(7, u, v, 6, 6, 4)
      return { color: [0.2 + 0.3 * n, 0.18 + 0.2 * n, 0.12 + 0.1 * n], roughness: 0.4 + 0.3 * n, heightMm: 12 * n }
    },
  })

/** A sky with a disc of a sun: constant radiance 1 above, 0.2 below the horizon. */
export function makeSunSky(azimuthDeg: number, elevationDeg: number, width = 512, sunRadiance = 20_000): FloatImage {
  const height = width / 2
  const map = createFloatImage(width, height, 3)
  const sun = directionOf((azimuthDeg * Math.PI) / 180, (elevationDeg * Math.PI) / 180)
  for (let j = 0; j < height; j++)
    for (let i = 0; i < width; i++) {
      const elevation = rowElevation(j, height)
      const d = directionOf(columnAzimuth(i, width), elevation)
      const inSun = dot(d, sun) > Math.cos((0.8 * Math.PI) / 180)
      // A little unevenness: a real sky is never of one value, and an 8-bit one in disguise is.
      const sky = elevation > 0 ? 1 + 0.2 * Math.sin(elevation * 3) : 0.2 + 0.02 * Math.sin(i * 0.7) * Math.cos(j * 0.9)
      const at = (j * width + i) * 3
      map.data[at] = inSun ? sunRadiance : sky * 0.5
      map.data[at + 1] = inSun ? sunRadiance * 0.95 : sky * 0.8
      map.data[at + 2] = inSun ? sunRadiance * 0.85 : sky * 1.6
    }
  return map
}

export const makeModelBytes = (scale = 1): Promise<Uint8Array> => {
  const box = createBox(0.5 * scale, 0.45 * scale, 0.5 * scale, 0.01 * scale)
  const ball = createSphere(0.12 * scale, [0, 0.6 * scale, 0], 24)
  return writeGlb({
    folder: '',
    stem: 'Cube_Stool',
    parts: [
      { name: 'seat', mesh: box, finish: { name: 'Painted oak', color: [0.3, 0.2, 0.12], roughness: 0.5 } },
      { name: 'ball', mesh: ball, finish: { name: 'Brass', color: [0.8, 0.6, 0.3], roughness: 0.3, metalness: 1 } },
    ],
  })
}

/** A delivery as the tests take it in: one of each kind, and one of each fault. Returns the relative paths. */
export async function writeDelivery(root: string): Promise<string[]> {
  const { put, written } = createFileWriter(root)
  for (const map of makeSurfaceMaps()) await put(`Timber/Oak_Test/Oak_Test_${map.role}.png`, await encodeMap(map))
  await put('Seating/Cube_Stool.glb', await makeModelBytes())
  await put('Skies/Clear_Test_Sky.exr', writeExr(makeSunSky(40, 35)))
  await put('Skies/Other_Test_Sky.hdr', writeHdr(makeSunSky(-60, 50)))
  const cut = await encodeMap(makeSurfaceMaps()[0])
  await put('Broken/Cut_Off_basecolor.png', cut.subarray(0, Math.floor(cut.length / 2)))
  await put('Broken/Empty_roughness.png', '')
  await put(
    'Broken/Not_A_Sky.hdr',
    await sharp({ create: { width: 8, height: 8, channels: 3, background: '#888' } })
      .png()
      .toBuffer(),
  )
  await put('read me.txt', 'Delivered in spring.\n')
  return written
}
