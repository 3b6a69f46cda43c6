import { linearToSrgbByte } from '../../color/srgb'
import { computeHorizontalIrradiance } from '../../environment/irradiance'
import { directionOf } from '../../environment/sphere'
import type { Mesh } from '../../geometry/mesh'
import type { ByteImage, FloatImage } from '../../image/image'
import { createMaterial, type OpenPbrMaterial } from '../../material/open-pbr'
import { toRadians } from '../../math/angles'

/** From the middle outwards, and all around. */
const RINGS = 48
const SECTORS = 72
/** The innermost ring, and how far the ground goes, in heights of the camera; the second at least so many metres. */
const FIRST = 0.05
const FARTHEST = 40
const FARTHEST_M = 60
/** Nothing on a ground is whiter than snow. */
const MOST_REFLECTED = 0.9
/** A panorama that is darker than this below its horizon shows no ground there. */
const LEAST_REFLECTED = 0.004

/** What a panorama shows of the ground that it was taken over. */
export interface GroundOfSky<I = ByteImage> {
  mesh: Mesh
  material: OpenPbrMaterial
  images: readonly I[]
}

const pictures = new WeakMap<FloatImage, ByteImage | null>()

/**
 * The lower half of a panorama as what it reflects: under the light of the upper half it looks as it did. A ground is taken to be matt and
 * level, so that reflectance = π · radiance / irradiance, each channel by itself.
 * @param map equirectangular linear RGB
 * @returns a display-encoded picture, columns as in the map, rows from the horizon down; null where there is no ground in it
 */
export function reflectanceOfGround(map: FloatImage): ByteImage | null {
  const known = pictures.get(map)
  if (known !== undefined) return known
  const { width, height, channels, data } = map
  const irradiance = computeHorizontalIrradiance(map)
  const first = Math.floor(height / 2)
  const picture: ByteImage = { width, height: height - first, channels: 3, data: new Uint8Array(width * (height - first) * 3) }
  let sum = 0
  for (let p = first * width, to = 0; p < width * height; p++)
    for (let c = 0; c < 3; c++, to++) {
      const value = irradiance[c] > 0 ? Math.max(0, (Math.PI * data[p * channels + c]) / irradiance[c]) : 0
      const reflected = Math.min(MOST_REFLECTED, Number.isFinite(value) ? value : 0)
      sum += reflected
      picture.data[to] = linearToSrgbByte(reflected)
    }
  const made = sum / picture.data.length >= LEAST_REFLECTED ? picture : null
  pictures.set(map, made)
  return made
}

/**
 * A level disc around the place that a panorama was taken at, with texture coordinates that look at it from there: rings that lie closer
 * towards the middle. Metres, y up; u 0..1 all around, v 0 at the horizon and 1 below the camera.
 * @param level of the ground
 * @param heightM of the camera over it
 * @param turnDeg of the panorama, counter-clockwise from above
 */
export function createSkyGround(level: number, heightM: number, turnDeg: number): Mesh {
  const farthest = Math.max(FARTHEST_M, FARTHEST * heightM)
  const growth = (farthest / (FIRST * heightM)) ** (1 / (RINGS - 1))
  const columns = SECTORS + 1
  const positions = new Float32Array((RINGS + 1) * columns * 3)
  const normals = new Float32Array(positions.length)
  const uvs = new Float32Array((RINGS + 1) * columns * 2)
  const indices: number[] = []
  for (let ring = 0; ring <= RINGS; ring++) {
    const radius = ring === 0 ? 0 : FIRST * heightM * growth ** (ring - 1)
    for (let sector = 0; sector <= SECTORS; sector++) {
      const k = ring * columns + sector
      const turned = (2 * Math.PI * sector) / SECTORS - Math.PI - toRadians(turnDeg)
      const [x, , z] = directionOf(turned, 0)
      positions.set([x * radius, level, z * radius], k * 3)
      normals[k * 3 + 1] = 1
      uvs.set([sector / SECTORS, Math.atan2(heightM, radius) / (Math.PI / 2)], k * 2)
      if (ring === RINGS || sector === SECTORS) continue
      const [a, b, c, d] = [k, k + 1, k + columns, k + columns + 1]
      if (ring > 0) indices.push(a, b, d)
      indices.push(a, d, c)
    }
  }
  return { positions, normals, uvs, indices: new Uint32Array(indices) }
}

const grounds = new Map<string, Mesh>()
const MOST_KEPT = 8
const materials = new WeakMap<ByteImage, OpenPbrMaterial>()

/** The ground of a sky at a level, the same objects for the same sky; null where the panorama shows none. */
export function groundOfSky(map: FloatImage, level: number, heightM: number, turnDeg: number): GroundOfSky | null {
  const picture = reflectanceOfGround(map)
  if (!picture) return null
  const key = [level, heightM, turnDeg].join()
  let mesh = grounds.get(key)
  if (!mesh) {
    if (grounds.size >= MOST_KEPT) grounds.clear()
    mesh = createSkyGround(level, heightM, turnDeg)
    grounds.set(key, mesh)
  }
  let material = materials.get(picture)
  if (!material) {
    material = createMaterial(
      'ground of the sky',
      { specularWeight: 0, specularRoughness: 1 },
      { textures: { baseColor: { image: 0, channel: 0 } }, tiling: 'once' },
    )
    materials.set(picture, material)
  }
  return { mesh, material, images: [picture] }
}
