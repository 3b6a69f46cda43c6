import { cosine as turnCosine, sine as turnSine, turnOf } from './angles'
import { P, RAYS } from './memory'
import { hashCombine, pair, pointX, pointY, sobolPair, sobolX } from './sampling'
import { closestHit, EVERYTHING, RESULT } from './traverse'

/** Light beneath the surface of a solid, as core/render/integrator/random-walk.ts has it. */

const MOST_STEPS: i32 = 64
const ROULETTE_FROM: i32 = 4
const CHANCE: u32 = 0x51ed270b
const LEAST_FREE_PATH_M: f64 = 1e-5

/** What of the light is left, by colour, and the last direction; written by `walk`. */
export let leftR: f64 = 0
export let leftG: f64 = 0
export let leftB: f64 = 0
export let outX: f64 = 0
export let outY: f64 = 0
export let outZ: f64 = 0

/** Where it went in. */
export const BACK: i32 = -2
/** Absorbed. */
export const LOST: i32 = -1

// @ts-ignore: decorator
@inline
function albedoOf(color: f64, g: f64): f64 {
  const c = Math.min(Math.max(color, 0), 1)
  const s = 4.09712 + 4.20863 * c - Math.sqrt(9.59217 + 41.6808 * c + 17.7126 * c * c)
  return Math.min(1, Math.max(0, (1 - s * s) / (1 - g * s * s)))
}

// @ts-ignore: decorator
@inline
function extinctionOf(radius: f64, scale: f64): f64 {
  return 1 / Math.max(radius * scale, LEAST_FREE_PATH_M)
}

/** The triangle where it comes out, whose distance and weights stand at RESULT; BACK or LOST. */
export function walk(live: usize, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, index: u32): i32 {
  const g = Math.min(load<f64>(live, P.SUBSURFACE_ANISOTROPY), 0.95)
  const albedoR = albedoOf(load<f64>(live, P.SUBSURFACE_COLOR), g)
  const albedoG = albedoOf(load<f64>(live + 8, P.SUBSURFACE_COLOR), g)
  const albedoB = albedoOf(load<f64>(live + 16, P.SUBSURFACE_COLOR), g)
  const radius = load<f64>(live, P.SUBSURFACE_RADIUS)
  const extinctionR = extinctionOf(radius, load<f64>(live, P.SUBSURFACE_RADIUS_SCALE))
  const extinctionG = extinctionOf(radius, load<f64>(live + 8, P.SUBSURFACE_RADIUS_SCALE))
  const extinctionB = extinctionOf(radius, load<f64>(live + 16, P.SUBSURFACE_RADIUS_SCALE))
  leftR = 1
  leftG = 1
  leftB = 1
  outX = dx
  outY = dy
  outZ = dz
  let x = ox
  let y = oy
  let z = oz
  for (let step = 0; step < MOST_STEPS; step++) {
    const shareR = leftR * albedoR
    const shareG = leftG * albedoG
    const shareB = leftB * albedoB
    const total = shareR + shareG + shareB
    if (!(total > 0)) return LOST
    sobolPair(index, pair())
    const choice = pointX * total
    const extinction = choice < shareR ? extinctionR : choice < shareR + shareG ? extinctionG : extinctionB
    const free = -Math.log(1 - pointY) / extinction
    store<f64>(RAYS, load<f64>(RAYS) + 1)
    const t = closestHit(x, y, z, outX, outY, outZ, free, EVERYTHING)
    const isOut = t >= 0
    const length = isOut ? load<f64>(RESULT) : free
    const passedR = Math.exp(-extinctionR * length)
    const passedG = Math.exp(-extinctionG * length)
    const passedB = Math.exp(-extinctionB * length)
    const density =
      shareR * passedR * (isOut ? 1 : extinctionR) +
      shareG * passedG * (isOut ? 1 : extinctionG) +
      shareB * passedB * (isOut ? 1 : extinctionB)
    if (!(density > 0)) return LOST
    leftR *= (total * passedR * (isOut ? 1 : extinctionR * albedoR)) / density
    leftG *= (total * passedG * (isOut ? 1 : extinctionG * albedoG)) / density
    leftB *= (total * passedB * (isOut ? 1 : extinctionB * albedoB)) / density
    if (isOut) return t
    x += outX * length
    y += outY * length
    z += outZ * length
    const s = pair()
    if (step >= ROULETTE_FROM) {
      const survive = Math.min(1, Math.max(leftR, Math.max(leftG, leftB)))
      if (sobolX(index, hashCombine(s, CHANCE)) >= survive) return LOST
      leftR /= survive
      leftG /= survive
      leftB /= survive
    }
    sobolPair(index, s)
    scatter(g)
  }
  const deep = <f64>MOST_STEPS / (1 - g)
  leftR *= Math.exp(-Math.sqrt(deep * 3 * (1 - albedoR) * (1 - g * albedoR)))
  leftG *= Math.exp(-Math.sqrt(deep * 3 * (1 - albedoG) * (1 - g * albedoG)))
  leftB *= Math.exp(-Math.sqrt(deep * 3 * (1 - albedoB) * (1 - g * albedoB)))
  return BACK
}

function scatter(g: f64): void {
  let cos = 1 - 2 * pointX
  if (g > 1e-3) {
    const part = (1 - g * g) / (1 + g - 2 * g * pointX)
    cos = (1 + g * g - part * part) / (2 * g)
  }
  const sin = Math.sqrt(Math.max(0, 1 - cos * cos))
  turnOf(pointY)
  const along = sin * turnCosine
  const across = sin * turnSine
  const x = outX
  const y = outY
  const z = outZ
  const sign: f64 = z < 0 ? -1 : 1
  const a = -1 / (sign + z)
  const b = x * y * a
  outX = x * cos + (1 + sign * x * x * a) * along + b * across
  outY = y * cos + sign * b * along + (sign + y * y * a) * across
  outZ = z * cos - sign * x * along - y * across
}
