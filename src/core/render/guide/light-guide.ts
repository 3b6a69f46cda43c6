import { luminance } from '../../color/srgb'
import type { Camera } from '../film/camera'
import type { EnvironmentLight } from '../lights/environment-light'
import { createRayHit } from '../scene/ray-caster'
import type { Scene } from '../scene/scene'
import { BounceGuide, type RadianceAlong } from './bounce-guide'
import { createLitPoint, findLitPoints, litPointAt } from './find-lit-points'
import { FACINGS, type GuideGrid, type LitPoint, layGrid, spotOf } from './guide-grid'
import { evenly } from './guide-tables'
import { type IsBlocked, SkyGuide } from './sky-guide'

/** Where more of the light than that comes through, a guide gives nothing: on a terrace at 0.5 the error with it was that without. */
const ENCLOSED = 0.4
const ROUGH_RAYS = 2048
/** Points that are looked around from in a cell. */
const POINTS = 24
/** Light samples that tell how brightly a point is lit. */
const SAMPLES = 12
const FEW = 3
/** How much finer than the cells it is kept how brightly places are lit. */
const FINER = 4
/** What comes to a place by more than one bounce, as a share of what comes to all on the average. */
const AMBIENT = 0.3

/**
 * Where light comes from, by place and way of facing, learnt by rays before a picture is traced: in a room most directions of a sky end at a
 * wall, and most of a room is lit by the few patches that the sun reaches. Unbiased: whatever was learnt, each direction keeps a chance, and its
 * density is known.
 */
export class LightGuide {
  /** Number of the tables of each spot of the grid; −1 where nothing is known. */
  readonly tableOf: Int32Array
  readonly sky: SkyGuide
  readonly bounce: BounceGuide

  constructor(
    readonly grid: GuideGrid,
    scene: Scene,
    light: EnvironmentLight,
    points: readonly LitPoint[],
  ) {
    const [x, y, z] = grid.cells
    this.tableOf = new Int32Array(x * y * z * FACINGS).fill(-1)
    const spots: LitPoint[][] = []
    for (const point of points) {
      const spot = spotOf(grid, ...point.position, ...point.normal)
      if (spot < 0) continue
      if (this.tableOf[spot] < 0) this.tableOf[spot] = spots.push([]) - 1
      const there = spots[this.tableOf[spot]]
      if (there.length < POINTS) there.push(point)
    }
    this.sky = new SkyGuide(light, spots, blockedIn(scene))
    this.bounce = new BounceGuide(spots, this.radianceOf(scene, light, points))
  }

  /** Number of the tables for a place on a surface, by its unit normal towards the viewer; −1 where light is drawn as if nothing were known. */
  tableAt(x: number, y: number, z: number, nx: number, ny: number, nz: number): number {
    const spot = spotOf(this.grid, x, y, z, nx, ny, nz)
    return spot < 0 ? -1 : this.tableOf[spot]
  }

  /** How bright what a ray meets is, by how points near it are lit. */
  private radianceOf(scene: Scene, light: EnvironmentLight, points: readonly LitPoint[]): RadianceAlong {
    const { min, cellM, cells } = this.grid
    const fine: GuideGrid = { min, cellM: cellM / FINER, cells: [cells[0] * FINER, cells[1] * FINER, cells[2] * FINER] }
    const sums = new Map<number, { lit: number; count: number }>()
    let all = 0
    points.forEach((point, i) => {
      const lit = this.irradianceAt(point, scene, light, i)
      all += lit
      const spot = spotOf(fine, ...point.position, ...point.normal)
      if (spot < 0) return
      const there = sums.get(spot) ?? { lit: 0, count: 0 }
      there.lit += lit
      there.count++
      sums.set(spot, there)
    })
    const usual = all / Math.max(1, points.length)
    const hit = createRayHit()
    const point = createLitPoint()
    let far = 0
    return (x, y, z, dx, dy, dz) => {
      if (!scene.caster.closestHit(x, y, z, dx, dy, dz, 1e30, hit, 'solid')) return 0
      litPointAt(scene, hit, x, y, z, dx, dy, dz, point)
      const spot = spotOf(fine, ...point.position, ...point.normal)
      const there = sums.get(spot)
      // What is seen through a window lies far apart, and is as bright as the day.
      const lit = there ? there.lit / there.count : spot < 0 ? this.irradianceAt(point, scene, light, far++, FEW) : usual
      return lit + AMBIENT * usual
    }
  }

  /** What comes to a point straight from the light and the lamps, times the cosine, as luminance. */
  private irradianceAt(
    { position: p, normal: n }: LitPoint,
    scene: Scene,
    light: EnvironmentLight,
    salt: number,
    samples = SAMPLES,
  ): number {
    const isBlocked = blockedIn(scene)
    const table = this.tableAt(...p, ...n)
    const radiance = new Float64Array(3)
    let sum = 0
    for (let k = 0; k < samples; k++) {
      const [u1, u2] = evenly(k + salt * samples)
      if (table >= 0) this.sky.sample(table, u1, u2)
      else light.sample(u1, u2)
      const { x, y, z, pdf } = light
      const cosine = x * n[0] + y * n[1] + z * n[2]
      if (cosine <= 0 || !(pdf > 0) || isBlocked(p[0], p[1], p[2], x, y, z)) continue
      light.radiance(x, y, z, radiance)
      sum += (luminance(radiance[0], radiance[1], radiance[2]) * cosine) / pdf / samples
    }
    for (const { position, nearest, intensity, photometricProfile } of scene.lamps) {
      const [x, y, z] = [position[0] - p[0], position[1] - p[1], position[2] - p[2]]
      const far = Math.hypot(x, y, z)
      const cosine = (x * n[0] + y * n[1] + z * n[2]) / far
      if (!(cosine > 0) || far < nearest || scene.caster.isOccluded(...p, x / far, y / far, z / far, far * (1 - 1e-4))) continue
      const share = photometricProfile ? photometricProfile(-x / far, -y / far, -z / far) : 1
      sum += (luminance(intensity[0], intensity[1], intensity[2]) * share * cosine) / far ** 2
    }
    return sum
  }
}

/** A guide to a scene's light as a camera sees it; null where most of the light comes through anyway, or there is nothing to learn from. */
export function learnLightGuide(scene: Scene, light: EnvironmentLight, camera: Camera): LightGuide | null {
  const points = findLitPoints(scene, camera)
  if (points.length === 0 || shareThrough(light, points, blockedIn(scene)) > ENCLOSED) return null
  const grid = layGrid(points)
  return grid && new LightGuide(grid, scene, light, points)
}

const blockedIn =
  ({ caster }: Scene): IsBlocked =>
  (x, y, z, dx, dy, dz) =>
    caster.isOccluded(x, y, z, dx, dy, dz, 1e30)

/** Share of the light's rays that reach a surface from its lit side's half of all directions. */
function shareThrough(light: EnvironmentLight, points: readonly LitPoint[], isBlocked: IsBlocked): number {
  let [faced, through] = [0, 0]
  for (let r = 0; r < ROUGH_RAYS; r++) {
    const [u1, u2] = evenly(r)
    light.sample(u1, u2)
    const { x, y, z } = light
    const { position: p, normal: n } = points[Math.floor((r * points.length) / ROUGH_RAYS)]
    if (x * n[0] + y * n[1] + z * n[2] <= 0) continue
    faced++
    if (!isBlocked(p[0], p[1], p[2], x, y, z)) through++
  }
  return faced > 0 ? through / faced : 1
}
