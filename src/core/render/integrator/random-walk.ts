import { hashCombine } from '../../math/random'
import { sobolX, sobolY } from '../../math/sobol'
import type { RayCaster, RayHit } from '../scene/ray-caster'

const MOST_STEPS = 64
const ROULETTE_FROM = 4
const CHANCE = 0x51ed270b
/** Shorter free paths than this, in metres, are taken as this: a ray leaves its surface by a hundredth of it. */
const LEAST_FREE_PATH_M = 1e-5

/**
 * Light beneath the surface of a solid, followed from where it goes in to where it comes out, through an even medium of OpenPBR's
 * subsurface parameters. Its single-scattering albedo is the one that gives the wanted colour after many scatterings (OpenPBR 1.1, 3.8,
 * after Kulla & Conty 2017); by what colour a step's length is drawn is left to chance, and all three are weighed by it (one-sample
 * balance heuristic: Wilkie et al. 2014; Chiang, Kutz & Burley 2016). Light that is still beneath after many steps comes out where it went
 * in, less what it would lose on its way: a white solid loses nothing.
 */
export class RandomWalk {
  /** What of the light is left, by colour. */
  readonly throughput = new Float64Array(3)
  /** The last direction, out of the solid. */
  readonly direction = new Float64Array(3)
  /** Rays cast by the last walk. */
  rays = 0
  private readonly extinction = new Float64Array(3)
  private readonly albedo = new Float64Array(3)
  private readonly share = new Float64Array(3)
  private readonly passed = new Float64Array(3)
  private anisotropy = 0

  constructor(private readonly caster: RayCaster) {}

  /**
   * @param color seen of a thick piece, linear
   * @param radiusM and `scale`: mean free path in metres, and its share by colour
   * @param anisotropy mean cosine of what a scattering turns light by, 0 to below 1
   */
  setMedium(color: readonly number[], radiusM: number, scale: readonly number[], anisotropy: number): void {
    this.anisotropy = Math.min(anisotropy, 0.95)
    for (let k = 0; k < 3; k++) {
      this.albedo[k] = singleScatteringAlbedo(color[k], this.anisotropy)
      this.extinction[k] = 1 / Math.max(radiusM * scale[k], LEAST_FREE_PATH_M)
    }
  }

  /**
   * From a place just beneath the surface in a direction into the solid.
   * @returns 'out' with where in `hit`, 'back' where it went in, 'lost' for what is absorbed
   */
  follow(
    x: number,
    y: number,
    z: number,
    dx: number,
    dy: number,
    dz: number,
    sample: number,
    pair: () => number,
    hit: RayHit,
  ): 'out' | 'back' | 'lost' {
    const { throughput, direction, extinction, albedo, share, passed } = this
    throughput.fill(1)
    direction.set([dx, dy, dz])
    this.rays = 0
    for (let step = 0; step < MOST_STEPS; step++) {
      let total = 0
      for (let k = 0; k < 3; k++) total += share[k] = throughput[k] * albedo[k]
      if (!(total > 0)) return 'lost'
      const s = pair()
      const choice = sobolX(sample, s) * total
      const color = choice < share[0] ? 0 : choice < share[0] + share[1] ? 1 : 2
      const free = -Math.log(1 - sobolY(sample, s)) / extinction[color]
      this.rays++
      const isOut = this.caster.closestHit(x, y, z, direction[0], direction[1], direction[2], free, hit, 'everything')
      const length = isOut ? hit.distance : free
      let density = 0
      for (let k = 0; k < 3; k++) {
        passed[k] = Math.exp(-extinction[k] * length)
        density += share[k] * passed[k] * (isOut ? 1 : extinction[k])
      }
      if (!(density > 0)) return 'lost'
      for (let k = 0; k < 3; k++) throughput[k] *= (total * passed[k] * (isOut ? 1 : extinction[k] * albedo[k])) / density
      if (isOut) return 'out'
      x += direction[0] * length
      y += direction[1] * length
      z += direction[2] * length
      const turn = pair()
      if (step >= ROULETTE_FROM) {
        const survive = Math.min(1, Math.max(throughput[0], throughput[1], throughput[2]))
        if (sobolX(sample, hashCombine(turn, CHANCE)) >= survive) return 'lost'
        for (let k = 0; k < 3; k++) throughput[k] /= survive
      }
      scatter(direction, this.anisotropy, sobolX(sample, turn), sobolY(sample, turn))
    }
    // After n steps it is √(n / (1 − g)) free paths deep on average, and on its way back absorbed as diffusion has it.
    const deep = MOST_STEPS / (1 - this.anisotropy)
    for (let k = 0; k < 3; k++)
      throughput[k] *= Math.exp(-Math.sqrt(deep * 3 * (1 - albedo[k]) * (1 - this.anisotropy * albedo[k])))
    return 'back'
  }
}

/** Of a medium that, thick, sends back `color` of what goes in, with mean cosine `g`; 0 to 1. */
export function singleScatteringAlbedo(color: number, g: number): number {
  const c = Math.min(Math.max(color, 0), 1)
  const s = 4.09712 + 4.20863 * c - Math.sqrt(9.59217 + 41.6808 * c + 17.7126 * c * c)
  return Math.min(1, Math.max(0, (1 - s * s) / (1 - g * s * s)))
}

/** Turns a unit direction by the phase function of Henyey & Greenstein (1941) with mean cosine `g`, from two numbers in 0..1. */
export function scatter(direction: Float64Array, g: number, u1: number, u2: number): void {
  let cos = 1 - 2 * u1
  if (g > 1e-3) {
    const part = (1 - g * g) / (1 + g - 2 * g * u1)
    cos = (1 + g * g - part * part) / (2 * g)
  }
  const sin = Math.sqrt(Math.max(0, 1 - cos * cos))
  const along = sin * Math.cos(2 * Math.PI * u2)
  const across = sin * Math.sin(2 * Math.PI * u2)
  const [x, y, z] = direction
  // Two directions square to it (Duff et al. 2017).
  const sign = z < 0 ? -1 : 1
  const a = -1 / (sign + z)
  const b = x * y * a
  direction[0] = x * cos + (1 + sign * x * x * a) * along + b * across
  direction[1] = y * cos + sign * b * along + (sign + y * y * a) * across
  direction[2] = z * cos - sign * x * along - y * across
}
