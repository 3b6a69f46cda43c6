import { cosine as turnCosine, sine as turnSine, turnOf } from '../angles'
import { sampleFuzz, sampleVisibleNormal } from '../lobes'
import { HALF } from '../memory'
import { answerBeneath, evaluate, pdf } from './evaluate'
import { fuzzRoughness, thinWalled } from './parameters'
import {
  alphaX,
  alphaY,
  coatAlpha,
  eta,
  probabilityBeneath,
  probabilityCoat,
  probabilityDiffuse,
  probabilityFuzz,
  probabilitySpecular,
  probabilityThrough,
  side,
} from './prepared'

/** A direction drawn at the prepared point. */

export let wix: f64 = 0
export let wiy: f64 = 0
export let wiz: f64 = 0
export let transmitted: bool = false
/** The direction leads beneath the surface, and what is answered is of going there at all. */
export let wentBeneath: bool = false

export function keepsSide(): void {
  transmitted = false
  wentBeneath = false
}

/** Draws a direction into wix, wiy, wiz, its density into `pdf`, what it answers into VALUE. False when the draw is absorbed. */
export function sample(ox: f64, oy: f64, oz: f64, choice: f64, u1: f64, u2: f64): bool {
  const co = oz * side
  transmitted = false
  wentBeneath = false
  const untilCosine = probabilitySpecular + probabilityDiffuse
  const untilThrough = untilCosine + probabilityThrough
  const untilCoat = untilThrough + probabilityCoat
  const untilFuzz = untilCoat + probabilityFuzz
  if (choice < probabilitySpecular) {
    if (!reflect(ox, oy, co, alphaX, alphaY, u1, u2)) return false
  } else if (choice < untilThrough) {
    const r = Math.sqrt(u1)
    turnOf(u2)
    wix = r * turnCosine
    wiy = r * turnSine
    const z = Math.sqrt(Math.max(1e-12, 1 - u1))
    transmitted = choice >= untilCosine
    wiz = transmitted ? -z * side : z * side
  } else if (choice < untilCoat) {
    if (!reflect(ox, oy, co, coatAlpha, coatAlpha, u1, u2)) return false
  } else if (choice < untilFuzz) {
    sampleFuzz(ox, oy, co, fuzzRoughness, u1, u2)
    wix = load<f64>(HALF)
    wiy = load<f64>(HALF, 8)
    wiz = load<f64>(HALF, 16) * side
  } else if (choice < untilFuzz + probabilityBeneath) {
    const r = Math.sqrt(u1)
    turnOf(u2)
    wix = r * turnCosine
    wiy = r * turnSine
    wiz = -Math.sqrt(Math.max(1e-12, 1 - u1)) * side
    wentBeneath = true
    answerBeneath(co)
    return true
  } else if (!refract(ox, oy, co, u1, u2)) return false
  evaluate(ox, oy, oz, wix, wiy, wiz)
  return pdf > 1e-12
}

function reflect(ox: f64, oy: f64, co: f64, ax: f64, ay: f64, u1: f64, u2: f64): bool {
  sampleVisibleNormal(ox, oy, co, ax, ay, u1, u2)
  const hx = load<f64>(HALF)
  const hy = load<f64>(HALF, 8)
  const hz = load<f64>(HALF, 16)
  const oh = ox * hx + oy * hy + co * hz
  const z = 2 * oh * hz - co
  if (z <= 0) return false
  wix = 2 * oh * hx - ox
  wiy = 2 * oh * hy - oy
  wiz = z * side
  return true
}

function refract(ox: f64, oy: f64, co: f64, u1: f64, u2: f64): bool {
  sampleVisibleNormal(ox, oy, co, alphaX, alphaY, u1, u2)
  const hx = load<f64>(HALF)
  const hy = load<f64>(HALF, 8)
  const hz = load<f64>(HALF, 16)
  const oh = ox * hx + oy * hy + co * hz
  transmitted = true
  if (thinWalled) {
    const z = 2 * oh * hz - co
    if (z <= 0) return false
    wix = 2 * oh * hx - ox
    wiy = 2 * oh * hy - oy
    wiz = -z * side
    return true
  }
  const sin2 = (1 - oh * oh) / (eta * eta)
  if (sin2 >= 1) return false
  const k = oh / eta - Math.sqrt(1 - sin2)
  wix = -ox / eta + k * hx
  wiy = -oy / eta + k * hy
  const z = -co / eta + k * hz
  if (z >= 0) return false
  wiz = z * side
  return true
}
