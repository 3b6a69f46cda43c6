import { computeBounds, type Mesh, mergeMeshes } from '../../geometry/mesh'
import type { CandelaWeb } from '../../photometry/candela-web'
import { brightestReading, toPhotometricProfile } from '../lights/photometric-profile'
import type { Lamp } from './lamp'
import type { SceneObject } from './scene'

/** What a white card at the wall reads where a lamp's light falls straight on it. */
const WASH_READING = 1.7

/** Of the way to the wall; without it the inside of a shade would outshine what it lights a hundred times. */
const NEAREST_SHARE = 0.4

/** At this height over a fixture that has no glowing part, in shares of its extent, its lamp is thought to be. */
const LAMP_ABOVE = 0.04

/**
 * The lamps of a light fixture: one in each glowing part; one a little above the fixture when nothing of it glows.
 * @param wallDistance metres from the middle of the fixture to the wall that its light is judged by
 * @param web how its maker measured its light; even where it is not known
 */
export function findLamps(objects: readonly SceneObject[], wallDistance: number, web: CandelaWeb | null = null): Lamp[] {
  const glowing = objects.filter(o => o.material.parameters.emissionLuminance > 0)
  const nearest = wallDistance * NEAREST_SHARE
  const photometricProfile = web && toPhotometricProfile(web)
  // What its curve keeps from the wall falls on the floor; the brighter of them is what the picture is exposed by.
  const brightest = photometricProfile
    ? brightestReading(photometricProfile, [
        { towards: [0, 0, -1], distance: wallDistance },
        { towards: [0, -1, 0], distance: wallDistance },
      ])
    : 1 / (wallDistance * wallDistance)
  const reading = brightest > 0 ? (Math.PI * WASH_READING) / brightest / Math.max(1, glowing.length) : 0
  const lamps = glowing.map(({ mesh, material }): Lamp => {
    const { min, max } = computeBounds(mesh.positions)
    const color = material.parameters.emissionColor
    const peak = Math.max(...color, 1e-6)
    return {
      position: [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2],
      // A hair larger than what glows, which would otherwise stand in its own light.
      radius: (Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2]) / 2) * 1.02,
      nearest,
      intensity: [(color[0] / peak) * reading, (color[1] / peak) * reading, (color[2] / peak) * reading],
      photometricProfile,
    }
  })
  if (lamps.length > 0) return lamps
  const { min, max } = computeBounds(mergeMeshes(objects.map(o => o.mesh)).positions)
  const extent = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2])
  return [
    {
      position: [(min[0] + max[0]) / 2, max[1] + extent * LAMP_ABOVE, (min[2] + max[2]) / 2],
      radius: extent * LAMP_ABOVE * 0.5,
      nearest,
      intensity: [reading, reading, reading],
      photometricProfile,
    },
  ]
}

/** Lamps this low in a fixture, in shares of its height, hang from a ceiling; higher ones stand on the floor. */
const HANGING_BELOW = 0.4

export function hangs(fixture: Mesh, lamps: readonly Lamp[]): boolean {
  const { min, max } = computeBounds(fixture.positions)
  return lamps.every(l => l.position[1] - min[1] < (max[1] - min[1]) * HANGING_BELOW)
}
