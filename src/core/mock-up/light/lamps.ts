import { measurePart } from '../../geometry/measure-part'
import { computeBounds, type Mesh, placeMesh } from '../../geometry/mesh'
import { createBox, createSphere } from '../../geometry/shapes'
import { EMISSION_WHITE_NITS } from '../../material/emission'
import { createMaterial } from '../../material/open-pbr'
import { toRadians } from '../../math/angles'
import { type Quaternion, rotate } from '../../math/quaternion'
import { add, type Vec3 } from '../../math/vec3'
import { angleAbove, type CandelaWeb, findPeak, integrateFlux } from '../../photometry/candela-web'
import { lampColor, type PhotometricProfile, toPhotometricProfile } from '../../render/lights/photometric-profile'
import type { Lamp } from '../../render/scene/lamp'
import { affineOfTurn } from '../placing/placing'
import type { Light, Scene } from '../scene/scene'
import type { Composed, ComposedPart } from '../things/composed'
import type { Resources } from '../things/resources'

/** Illuminance at which a white card reads 1 at an exposure of 0 EV: such a card is as bright as what glows at display white. */
export const LUX_OF_WHITE = Math.PI * EMISSION_WHITE_NITS

/** White of a camera under daylight and lamps together. */
const WHITE_KELVIN = 5000
/** A panel is as many small lamps as this goes into its sides, so that shadows are as soft as it is large. */
const CELL_M = 0.3
const MOST_CELLS = 4
const DEFAULT_RADIUS_M = 0.03
/** Lamps of things that glow, at most: each costs every place that is lit. */
const MOST_GLOWING = 24
const GLOWS_FROM_NITS = 20

export const isLightHidden = ({ groups }: Pick<Scene, 'groups'>, light: Light): boolean =>
  light.isHidden || (light.group !== null && groups[light.group]?.isHidden === true)

/** What a light gives in all directions together, in lm: as it is set, else as its curve says. */
export function lumensOf(light: Pick<Light, 'lumens' | 'share'>, web: CandelaWeb | null): number {
  const whole = light.lumens ?? (web ? integrateFlux(web) : 0)
  return whole * light.share
}

/** Linear Rec.709 at luminance 1. */
export const lightColor = ({ kelvin }: Pick<Light, 'kelvin'>, web: CandelaWeb | null): Vec3 =>
  lampColor(kelvin ?? web?.cctK ?? null, WHITE_KELVIN)

const WIDEST_RAD = 1.45
/** A luminaire that sends this share of its light down is a spot. */
const DOWN_SHARE = 0.8

/** A light as those know it that have points and cones only: half the angle of its cone, null for all round, and its strongest intensity in cd. */
export function beamOf(
  light: Pick<Light, 'kind' | 'lumens' | 'share'>,
  web: CandelaWeb | null,
): { coneRad: number | null; candela: number } {
  const lumens = lumensOf(light, web)
  if (light.kind === 'panel') return { coneRad: WIDEST_RAD, candela: lumens / Math.PI }
  const flux = web ? integrateFlux(web) : 0
  if (!web || flux <= 0 || integrateFlux(web, 90) <= flux * DOWN_SHARE) return { coneRad: null, candela: lumens / (4 * Math.PI) }
  const coneRad = Math.min(WIDEST_RAD, Math.max(0.05, toRadians(angleAbove(web, 0.1) / 2)))
  return { coneRad, candela: (findPeak(web).candela * lumens) / flux }
}

/** Where a light shines from: a share of its flux at a point, and how it is spread. */
interface Source {
  at: Vec3
  radius: number
  nearest: number
  /** In cd, where it is strongest. */
  peakCandela: number
  profile: PhotometricProfile | null
}

const webOf = (light: Light, webs: Resources<unknown>['webs']): CandelaWeb | null =>
  light.kind === 'luminaire' && light.item ? (webs.get(light.item.inputKey) ?? null) : null

/** The lamps of the lights that are shown, in the scene's space. What has no curve yet does not shine. */
export function lampsOfLights(scene: Pick<Scene, 'lights' | 'groups'>, webs: Resources<unknown>['webs']): Lamp[] {
  return Object.values(scene.lights).flatMap(light => {
    if (isLightHidden(scene, light)) return []
    const color = lightColor(light, webOf(light, webs))
    return sourcesOf(light, webs).map(({ at, radius, nearest, peakCandela, profile }): Lamp => {
      const strength = (peakCandela / LUX_OF_WHITE) * Math.PI
      return {
        position: add(light.position, rotate(light.turn as Quaternion, at)),
        radius,
        nearest,
        intensity: [color[0] * strength, color[1] * strength, color[2] * strength],
        photometricProfile: profile && turned(profile, light.turn as Quaternion),
      }
    })
  })
}

function sourcesOf(light: Light, webs: Resources<unknown>['webs']): Source[] {
  switch (light.kind) {
    case 'bulb': {
      const radius = Math.max(0.005, light.sizeM[0] / 2)
      const peakCandela = lumensOf(light, null) / (4 * Math.PI)
      return [{ at: [0, 0, 0], radius: radius * 1.02, nearest: radius * 2, peakCandela, profile: null }]
    }
    case 'panel': {
      const [across, along] = light.sizeM.map(m => Math.min(MOST_CELLS, Math.max(1, Math.round(m / CELL_M))))
      const radius = Math.max(0.004, Math.min(light.sizeM[0] / across, light.sizeM[1] / along) * 0.3)
      // Lambert's law: a flat thing that glows evenly gives a flux of pi times its strongest intensity.
      const peakCandela = lumensOf(light, null) / Math.PI / (across * along)
      return Array.from({ length: across * along }, (_, k) => {
        const [x, z] = [((k % across) + 0.5) / across - 0.5, (Math.floor(k / across) + 0.5) / along - 0.5]
        // Just under the face, so that it does not stand in its own light; much lower it would light more than it does.
        const at: Vec3 = [x * light.sizeM[0], -radius / 4 - 0.002, z * light.sizeM[1]]
        return { at, radius, nearest: radius * 2, peakCandela, profile: DOWNWARDS }
      })
    }
    case 'luminaire': {
      const web = webOf(light, webs)
      if (!web) return []
      const flux = integrateFlux(web)
      const peakCandela = flux > 0 ? (findPeak(web).candela * lumensOf(light, web)) / flux : 0
      const opening = Math.max(web.openingM[0], web.openingM[1])
      const radius = opening > 0 ? Math.min(0.3, opening / 4) : DEFAULT_RADIUS_M
      return [{ at: [0, 0, 0], radius: radius * 1.02, nearest: radius * 2, peakCandela, profile: profileOf(web) }]
    }
    default:
      return light.kind satisfies never
  }
}

const DOWNWARDS: PhotometricProfile = (_x, y) => Math.max(0, -y)

const profiles = new WeakMap<CandelaWeb, PhotometricProfile>()
function profileOf(web: CandelaWeb): PhotometricProfile {
  const profile = profiles.get(web) ?? toPhotometricProfile(web)
  profiles.set(web, profile)
  return profile
}

const turnedProfiles = new WeakMap<PhotometricProfile, Map<string, PhotometricProfile>>()
/** The same profile turned the same way is the same function, so that it is tabulated once. */
function turned(profile: PhotometricProfile, [x, y, z, w]: Quaternion): PhotometricProfile {
  const key = `${x} ${y} ${z} ${w}`
  const known = turnedProfiles.get(profile) ?? new Map<string, PhotometricProfile>()
  turnedProfiles.set(profile, known)
  const made = known.get(key) ?? ((dx: number, dy: number, dz: number) => profile(...rotate([-x, -y, -z, w], [dx, dy, dz])))
  known.set(key, made)
  return made
}

/** What glows in pieces and plants lights what is around it: one lamp in each, of its mean intensity in all directions. */
export function lampsOfGlowing(placed: readonly Pick<Composed, 'parts' | 'placements'>[]): Lamp[] {
  const lamps: Lamp[] = []
  for (const { parts, placements } of placed)
    for (const { mesh, material } of parts) {
      const { emissionLuminance: nits, emissionColor: color } = material.parameters
      if (!(nits >= GLOWS_FROM_NITS) || material.textures.emissionColor || mesh.indices.length === 0) continue
      const { centre, radius, areaM2 } = measureGlow(mesh)
      for (const to of placements) {
        if (lamps.length >= MOST_GLOWING) return lamps
        const scale = Math.hypot(to[0], to[4], to[8])
        // A convex thing shows a quarter of its surface from everywhere.
        const strength = ((nits * areaM2 * scale * scale) / 4 / LUX_OF_WHITE) * Math.PI
        lamps.push({
          position: [0, 1, 2].map(
            k => to[k * 4] * centre[0] + to[k * 4 + 1] * centre[1] + to[k * 4 + 2] * centre[2] + to[k * 4 + 3],
          ) as Vec3,
          radius: radius * scale * 1.02,
          nearest: radius * scale * 2,
          intensity: [color[0] * strength, color[1] * strength, color[2] * strength],
          photometricProfile: null,
        })
      }
    }
  return lamps
}

const glows = new WeakMap<Mesh, { centre: Vec3; radius: number; areaM2: number }>()
function measureGlow(mesh: Mesh) {
  const known = glows.get(mesh)
  if (known) return known
  const { min, max } = computeBounds(mesh.positions)
  const made = {
    centre: [0, 1, 2].map(k => (min[k] + max[k]) / 2) as Vec3,
    radius: Math.max(0.002, ...[0, 1, 2].map(k => (max[k] - min[k]) / 2)),
    areaM2: measurePart(mesh).areaM2,
  }
  glows.set(mesh, made)
  return made
}

/** What is seen of the lights themselves. */
export function composeLights<I>(scene: Pick<Scene, 'lights' | 'groups'>, webs: Resources<unknown>['webs']): Composed<I>[] {
  return Object.entries(scene.lights).flatMap(([id, light]) => {
    const web = webOf(light, webs)
    if (isLightHidden(scene, light) || !light.isSeen || (light.kind === 'luminaire' && !web)) return []
    const key = bodyKey(light, web)
    const body = bodies.get(key) ?? buildBody(light, web)
    bodies.set(key, body)
    const parts = body.map(part => ({ ...part, images: [] }))
    return [{ key, parts, placements: [affineOfTurn(light.position, light.turn as Quaternion, 1)], of: [{ light: id }] }]
  })
}

type Body = Omit<ComposedPart<never>, 'images'>[]
const bodies = new Map<string, Body>()

const radiusOf = (light: Light, web: CandelaWeb | null): number =>
  light.kind === 'bulb'
    ? Math.max(0.005, light.sizeM[0] / 2)
    : Math.max(DEFAULT_RADIUS_M, Math.min(0.3, (web?.openingM[0] ?? 0) / 4))

const bodyKey = (light: Light, web: CandelaWeb | null): string =>
  JSON.stringify([light.kind, light.sizeM, radiusOf(light, web), Math.round(lumensOf(light, web)), light.kelvin ?? web?.cctK])

function buildBody(light: Light, web: CandelaWeb | null): Body {
  const lumens = lumensOf(light, web)
  const [width, depth] = light.sizeM
  const radius = radiusOf(light, web)
  const isFlat = light.kind === 'panel'
  // A flat thing gives pi times its luminance and area, a ball four times that of its disc.
  const nits = isFlat ? lumens / (Math.PI * width * depth) : lumens / (4 * Math.PI * Math.PI * radius * radius)
  const color = lightColor(light, web)
  const peak = Math.max(...color)
  const glowing = createMaterial('light', {
    emissionLuminance: nits * peak,
    emissionColor: [color[0] / peak, color[1] / peak, color[2] / peak],
  })
  if (!isFlat) return [{ name: 'light', mesh: createSphere(radius, [0, 0, 0], 24), material: glowing }]
  return [
    { name: 'light', mesh: createBox(width, 0.002, depth), material: glowing },
    {
      name: 'housing',
      mesh: placeMesh(createBox(width + 0.01, 0.02, depth + 0.01), [0, 0.002, 0]),
      material: createMaterial('housing', { baseColor: [0.8, 0.8, 0.8], specularRoughness: 0.5 }),
    },
  ]
}
