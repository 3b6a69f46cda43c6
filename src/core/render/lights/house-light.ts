import { luminance } from '../../color/srgb'
import { computeHorizontalIrradiance } from '../../environment/irradiance'
import { columnAzimuth, directionOf, rowElevation } from '../../environment/sphere'
import { createFloatImage, type FloatImage } from '../../image/image'
import { toRadians } from '../../math/angles'
import { dot } from '../../math/vec3'
import { EnvironmentLight } from './environment-light'

interface SoftLight {
  azimuthDeg: number
  elevationDeg: number
  /** Half sizes as seen from the stage. */
  halfWidthDeg: number
  halfHeightDeg: number
  radiance: number
}

/**
 * The house light: a large key at the upper left of the camera, a long fill at the right, an overhead scrim and a low
 * band behind the camera so that glossy things have something to mirror. Neutral by construction. The camera stands
 * at +Z, which is azimuth 180.
 */
const LIGHTS: readonly SoftLight[] = [
  { azimuthDeg: -128, elevationDeg: 42, halfWidthDeg: 20, halfHeightDeg: 24, radiance: 15 },
  { azimuthDeg: 108, elevationDeg: 22, halfWidthDeg: 9, halfHeightDeg: 34, radiance: 4.2 },
  { azimuthDeg: 180, elevationDeg: 84, halfWidthDeg: 34, halfHeightDeg: 16, radiance: 3.4 },
  { azimuthDeg: 168, elevationDeg: 30, halfWidthDeg: 26, halfHeightDeg: 6, radiance: 1.6 },
]

export function createHouseLightMap(width = 256): FloatImage {
  const height = width / 2
  const map = createFloatImage(width, height, 3)
  const lamps = LIGHTS.map(l => {
    const forward = directionOf(toRadians(l.azimuthDeg), toRadians(l.elevationDeg))
    const right = directionOf(toRadians(l.azimuthDeg + 90), 0)
    const up = directionOf(toRadians(l.azimuthDeg), toRadians(l.elevationDeg + 90))
    return { ...l, forward, right, up }
  })
  for (let j = 0; j < height; j++)
    for (let i = 0; i < width; i++) {
      const elevation = rowElevation(j, height)
      const d = directionOf(columnAzimuth(i, width), elevation)
      let value = 0.34 + 0.18 * Math.sin(elevation)
      for (const l of lamps) {
        const depth = dot(d, l.forward)
        if (depth <= 0) continue
        const x = Math.abs(Math.atan2(dot(d, l.right), depth)) / toRadians(l.halfWidthDeg)
        const y = Math.abs(Math.atan2(dot(d, l.up), depth)) / toRadians(l.halfHeightDeg)
        // A soft edge, as light through stretched cloth has.
        value += l.radiance * smooth(1.06 - x) * smooth(1.06 - y)
      }
      map.data.fill(value, (j * width + i) * 3, (j * width + i) * 3 + 3)
    }
  return map
}

const smooth = (distance: number): number => {
  const t = Math.min(Math.max(distance / 0.12, 0), 1)
  return t * t * (3 - 2 * t)
}

let houseMap: FloatImage | null = null
/** Made once: whoever has put it into a memory finds it there again. */
export function houseLightMap(): FloatImage {
  houseMap ??= createHouseLightMap()
  return houseMap
}

const rigLights = new Map<string, EnvironmentLight>()
const KEPT_LIGHTS = 8

/** The house light as a rig has it; made once for each exposure and turn, and kept. */
export function lightOfRig({ exposureEv, lightTurnDeg }: { exposureEv: number; lightTurnDeg: number }): EnvironmentLight {
  const key = `${exposureEv}/${lightTurnDeg}`
  const kept = rigLights.get(key)
  if (kept) return kept
  const light = createExposedLight(houseLightMap(), exposureEv, toRadians(lightTurnDeg))
  if (rigLights.size >= KEPT_LIGHTS) rigLights.clear()
  rigLights.set(key, light)
  return light
}

/** A light of any map, exposed so that a white horizontal card reads 1 at 0 EV. */
export function createExposedLight(map: FloatImage, exposureEv: number, rotationRad = 0): EnvironmentLight {
  const irradiance = luminance(...computeHorizontalIrradiance(map))
  const gain = irradiance > 0 ? Math.PI / irradiance : 1
  return new EnvironmentLight(map, gain * 2 ** exposureEv, rotationRad)
}
