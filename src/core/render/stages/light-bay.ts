import { mergeMeshes, placeMesh } from '../../geometry/mesh'
import { createBox, createSphere } from '../../geometry/shapes'
import { createMaterial } from '../../material/open-pbr'
import { type CandelaWeb, integrateFlux } from '../../photometry/candela-web'
import { brightestReading, lampColor, toPhotometricProfile } from '../lights/photometric-profile'
import type { Lamp } from '../scene/lamp'
import type { SceneObject } from '../scene/scene'
import { greyMaterial } from './surroundings'

/** The bay in metres: a wall, a floor and a ceiling that reach past the frame, with a line at each metre. */
const HEIGHT_M = 2.7
const HALF_WIDTH_M = 7
const DEPTH_M = 8
const LINE_M = 0.012
/** The part of it that is framed. */
const SEEN_WIDTH_M = 4.6
const SEEN_DEPTH_M = 1.2

const FROM_WALL_M = 0.85
const HUNG_AT_M = 2.3
const STANDING_AT_M = 0.9
const LEAST_RADIUS_M = 0.025
const MOST_RADIUS_M = 0.12
/** What a white card reads at the brightest spot. */
const BRIGHTEST = 2

/** A luminaire that sends this share of its light up stands; the others hang. */
const STANDS_FROM = 0.5

/**
 * A luminaire in a bay, exposed by the brightest spot that it lights, so that curves are compared and not wattages: hung from the ceiling, or
 * standing where it sends its light up, the side of its peak to the wall.
 */
export function createLightBay(web: CandelaWeb): {
  bay: SceneObject[]
  luminaire: SceneObject
  lamp: Lamp
  framed: Float32Array
} {
  const flux = integrateFlux(web)
  const stands = flux > 0 && 1 - integrateFlux(web, 90) / flux >= STANDS_FROM
  const height = stands ? STANDING_AT_M : HUNG_AT_M
  const radius = Math.min(MOST_RADIUS_M, Math.max(LEAST_RADIUS_M, Math.max(web.openingM[0], web.openingM[1]) / 4))
  const position: [number, number, number] = [0, height, FROM_WALL_M]
  const photometricProfile = toPhotometricProfile(web)
  const reading = brightestReading(photometricProfile, [
    { towards: [0, 0, -1], distance: FROM_WALL_M },
    { towards: [0, -1, 0], distance: height },
    { towards: [0, 1, 0], distance: HEIGHT_M - height },
  ])
  const strength = reading > 0 ? (BRIGHTEST * Math.PI) / reading : 0
  const color = lampColor(web.cctK)
  const lamp: Lamp = {
    position,
    radius: radius * 1.02,
    nearest: radius * 2,
    intensity: [color[0] * strength, color[1] * strength, color[2] * strength],
    photometricProfile,
  }
  const peak = Math.max(...color)
  const glowing = createMaterial('luminaire', {
    emissionLuminance: flux > 0 ? 1200 : 0,
    emissionColor: [color[0] / peak, color[1] / peak, color[2] / peak],
  })
  const luminaire: SceneObject = { mesh: createSphere(radius, position), material: glowing, images: [] }
  const suspension = stands
    ? placeMesh(createBox(0.012, height - radius, 0.012, 0), [0, 0, FROM_WALL_M])
    : placeMesh(createBox(0.006, HEIGHT_M - height - radius, 0.006, 0), [0, height + radius, FROM_WALL_M])
  const bay: SceneObject[] = [
    { mesh: bayMesh(), material: greyMaterial('bay', 0.7, 0.9), images: [] },
    { mesh: metreLines(), material: greyMaterial('metre lines', 0.42, 0.9), images: [] },
    { mesh: suspension, material: greyMaterial('suspension', 0.1, 0.6), images: [] },
  ]
  const half = SEEN_WIDTH_M / 2
  const framed = Float32Array.from(
    [-half, half].flatMap(x => [0, HEIGHT_M].flatMap(y => [0, SEEN_DEPTH_M].flatMap(z => [x, y, z]))),
  )
  return { bay, luminaire, lamp, framed }
}

/** Boxes stand on their foot, so that each is placed by its lower face. */
const bayMesh = () =>
  mergeMeshes([
    placeMesh(createBox(HALF_WIDTH_M * 2, HEIGHT_M, 0.1, 0), [0, 0, -0.05]),
    placeMesh(createBox(HALF_WIDTH_M * 2, 0.1, DEPTH_M, 0), [0, -0.1, DEPTH_M / 2 - 0.1]),
    placeMesh(createBox(HALF_WIDTH_M * 2, 0.1, DEPTH_M, 0), [0, HEIGHT_M, DEPTH_M / 2 - 0.1]),
  ])

function metreLines() {
  const thick = 0.002
  const lines = []
  for (let x = -Math.floor(HALF_WIDTH_M); x <= HALF_WIDTH_M; x++) {
    lines.push(placeMesh(createBox(LINE_M, HEIGHT_M, thick, 0), [x, 0, 0]))
    lines.push(placeMesh(createBox(LINE_M, thick, DEPTH_M, 0), [x, 0, DEPTH_M / 2]))
  }
  for (let y = 1; y < HEIGHT_M; y++) lines.push(placeMesh(createBox(HALF_WIDTH_M * 2, LINE_M, thick, 0), [0, y, 0]))
  for (let z = 1; z < DEPTH_M; z++) lines.push(placeMesh(createBox(HALF_WIDTH_M * 2, thick, LINE_M, 0), [0, 0, z]))
  return mergeMeshes(lines)
}
