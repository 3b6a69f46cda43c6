import {
  DataTexture,
  EquirectangularReflectionMapping,
  FloatType,
  LinearFilter,
  LinearSRGBColorSpace,
  RepeatWrapping,
  RGBAFormat,
} from 'three'
import { luminance } from '#core/color/srgb'
import { computeHorizontalIrradiance } from '#core/environment/irradiance'
import type { FloatImage } from '#core/image/image'

/**
 * Pixels in the order that three's equirectangular lookup reads: rows from the bottom, and column 0 a quarter turn on, because
 * there +X is the centre and here −Z is (environment/sphere.ts). RGBA floats, twice as wide as high.
 * @param width in pixels; of a map of another width the nearest are taken
 */
export function toEquirectangularPixels(map: FloatImage, width = map.width): Float32Array<ArrayBuffer> {
  const { channels, data } = map
  const height = width === map.width ? map.height : width / 2
  const out = new Float32Array(width * height * 4)
  const quarter = Math.round(map.width / 4)
  const columns = Int32Array.from({ length: width }, (_, x) => (Math.floor((x * map.width) / width) + quarter) % map.width)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = (Math.floor((y * map.height) / height) * map.width + columns[x]) * channels
      const to = ((height - 1 - y) * width + x) * 4
      for (let c = 0; c < 3; c++) out[to + c] = Math.min(Math.max(data[from + c], 0), 60_000)
      out[to + 3] = 1
    }
  return out
}

/** A map as a light or a background. @param width in pixels, its own where none is said */
export function createEnvironmentTexture(map: FloatImage, width = map.width): DataTexture {
  const pixels = toEquirectangularPixels(map, width)
  const texture = new DataTexture(pixels, width, pixels.length / 4 / width, RGBAFormat, FloatType)
  texture.mapping = EquirectangularReflectionMapping
  texture.colorSpace = LinearSRGBColorSpace
  texture.minFilter = LinearFilter
  texture.magFilter = LinearFilter
  texture.wrapS = RepeatWrapping
  texture.needsUpdate = true
  return texture
}

/** The factor at which a white horizontal card under the map reads 1, times the rig's exposure: as in the preview renderer. */
export function exposureGain(map: FloatImage, exposureEv: number): number {
  const irradiance = luminance(...computeHorizontalIrradiance(map))
  return (irradiance > 0 ? Math.PI / irradiance : 1) * 2 ** exposureEv
}
