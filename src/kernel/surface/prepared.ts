import {
  edgeTintFactor,
  fresnelDielectric,
  iorOfWeight,
  meanFresnelMetal,
  readMean,
  readTable,
  roughnessToAlpha,
  smithLambda,
  square,
  thinFilmReflectance,
} from '../lobes'
import {
  ALBEDO,
  BARE,
  BASE,
  BENEATH,
  COAT_TONE,
  EDGE,
  F0,
  FILM,
  FILM_RATIO,
  FUZZ,
  INSIDE_TABLES,
  KEPT_MEAN,
  KEPT_OUT,
  METAL_MULTIPLE,
  OUTSIDE_TABLES,
  REFLECTED_TABLES,
  SHINE,
  SPECULAR,
  THROUGH,
} from '../memory'
import { fuzzTable, mirrorTable, tableOf } from './albedo-tables'
import {
  anisotropy,
  bendingIor,
  coatDarkening,
  coatIor,
  coatRoughness,
  coatWeight,
  filmIor,
  filmThickness,
  filmWeight,
  fuzzRoughness,
  fuzzWeight,
  ior,
  metalness,
  roughness,
  specularWeight,
  subsurface,
  thinWalled,
  translucency,
  transmission,
  walksBeneath,
} from './parameters'

/** What follows from the parameters and the direction of view: roughness, tables, and how often each lobe is drawn. */

export let side: f64 = 1
export let alphaX: f64 = 0.25
export let alphaY: f64 = 0.25
export let coatAlpha: f64 = 0.25
let tableRoughness: f64 = 0.5
let meanRoughness: f64 = 0.5
export let lambdaO: f64 = 0
export let coatLambdaO: f64 = 0
export let eta: f64 = 1.5
export let etaFresnel: f64 = 1.5
export let glass: f64 = 0
export let diffuse: f64 = 0
export let coat: f64 = 0
export let fuzz: f64 = 0
export let baseTable: usize = 0
export let coatTable: usize = 0
let reflectedOut: f64 = 0
export let mirrorOut: f64 = 0
export let mirrorMean: f64 = 1
export let coatOut: f64 = 0
export let coatMean: f64 = 0
export let fuzzOut: f64 = 0
export let fuzzMean: f64 = 0
export let glassSame: usize = 0
export let glassOther: usize = 0
export let glassMultipleBack: f64 = 0
export let glassMultipleThrough: f64 = 0
export let probabilityFuzz: f64 = 0
export let probabilityCoat: f64 = 0
export let probabilitySpecular: f64 = 0
export let probabilityDiffuse: f64 = 0
export let probabilityThrough: f64 = 0
export let probabilityGlass: f64 = 0
export let probabilityBeneath: f64 = 0

// @ts-ignore: decorator
@inline
function luminanceAt(at: usize): f64 {
  return 0.2126 * load<f64>(at) + 0.7152 * load<f64>(at, 8) + 0.0722 * load<f64>(at, 16)
}

/** Whether light goes on behind it. */
export function letsThrough(): bool {
  return glass > 0 || translucency > 0
}

export function prepare(ox: f64, oy: f64, oz: f64): void {
  side = oz < 0 ? -1 : 1
  const co = Math.max(Math.abs(oz), 1e-4)
  glass = transmission * (1 - metalness)
  diffuse = (1 - transmission) * (1 - metalness)
  const solid = glass > 0 && !thinWalled
  const inside = solid && side < 0
  coat = inside ? 0 : coatWeight
  fuzz = inside ? 0 : fuzzWeight
  setRoughness(ox, oy, co)
  const iorFresnel = iorOfWeight(iorUnderCoat(), specularWeight)
  eta = inside ? 1 / bendingIor : bendingIor
  etaFresnel = inside ? 1 / iorFresnel : iorFresnel
  baseTable = tableOf(REFLECTED_TABLES, iorFresnel, 0)
  const reflectedMean = readMean(baseTable, meanRoughness)
  reflectedOut = readTable(baseTable, co, tableRoughness)
  mirrorOut = readTable(mirrorTable, co, tableRoughness)
  mirrorMean = readMean(mirrorTable, meanRoughness)
  if (filmWeight > 0) measureFilm(iorFresnel)
  for (let k: usize = 0; k < 24; k += 8) {
    const specular = load<f64>(SPECULAR + k)
    const shine = specular * (filmWeight > 0 ? load<f64>(FILM_RATIO + k) : 1)
    store<f64>(SHINE + k, shine)
    store<f64>(KEPT_OUT + k, Math.max(0, 1 - reflectedOut * shine))
    store<f64>(KEPT_MEAN + k, Math.max(1e-4, 1 - reflectedMean * shine))
    const f0 = load<f64>(BASE + k)
    store<f64>(F0 + k, f0)
    if (metalness > 0) {
      const edge = edgeTintFactor(f0, specular)
      store<f64>(EDGE + k, edge)
      const mean = meanFresnelMetal(f0, edge)
      store<f64>(METAL_MULTIPLE + k, (mean * mean * mirrorMean) / (1 - mean * (1 - mirrorMean)))
    }
  }
  if (glass > 0) prepareGlass(co, inside, iorFresnel)
  coatOut = 0
  coatMean = 0
  fuzzOut = 0
  fuzzMean = 0
  if (fuzz > 0) {
    fuzzOut = fuzz * readTable(fuzzTable, co, fuzzRoughness)
    fuzzMean = fuzz * readMean(fuzzTable, fuzzRoughness)
  }
  if (coat > 0) prepareCoat(co)
  if (walksBeneath) for (let k: usize = 0; k < 24; k += 8) store<f64>(ALBEDO + k, load<f64>(BASE + k) * (1 - subsurface))
  chooseProbabilities(co)
}

function setRoughness(ox: f64, oy: f64, co: f64): void {
  let r = roughness
  if (coat > 0 && coatRoughness > 0) {
    const both = Math.min(1, square(r * r) + 2 * square(coatRoughness * coatRoughness))
    r += (Math.sqrt(Math.sqrt(both)) - r) * coat
  }
  const alpha = roughnessToAlpha(r)
  if (anisotropy > 0) {
    const stretch = Math.sqrt(2 / (1 + square(1 - anisotropy)))
    alphaX = Math.max(1e-3, Math.min(1, alpha * stretch))
    alphaY = Math.max(1e-3, alphaX * (1 - anisotropy))
    tableRoughness = roughnessTowards(ox, oy)
    meanRoughness = Math.sqrt(Math.cbrt(0.5 * (alphaX * alphaX * alphaX + alphaY * alphaY * alphaY)))
  } else {
    alphaX = alpha
    alphaY = alpha
    tableRoughness = Math.sqrt(alpha)
    meanRoughness = tableRoughness
  }
  lambdaO = smithLambda(ox, oy, co, alphaX, alphaY)
}

export function roughnessTowards(x: f64, y: f64): f64 {
  if (alphaX == alphaY) return Math.sqrt(alphaX)
  const mean = 0.5 * (alphaX * alphaX + alphaY * alphaY)
  const s2 = x * x + y * y
  const towards = s2 > 1e-9 ? (x * x * alphaX * alphaX + y * y * alphaY * alphaY) / s2 : mean
  return Math.sqrt(Math.sqrt(mean + (towards - mean) * Math.sqrt(s2)))
}

function iorUnderCoat(): f64 {
  if (!(coat > 0) || !(glass < 1)) return ior
  const ratio = ior / coatIor
  return ior + ((ratio < 1 ? 1 / ratio : ratio) - ior) * coat
}

let filmKey: f64 = -1

function measureFilm(iorFresnel: f64): void {
  const key = filmThickness * 1e6 + filmIor * 1e3 + iorFresnel + filmWeight * 1e-3
  if (key == filmKey) return
  filmKey = key
  setBare(iorFresnel)
  let red: f64 = 0
  let green: f64 = 0
  let blue: f64 = 0
  let plain: f64 = 0
  for (let s = 0; s < 16; s++) {
    const mu = (<f64>s + 0.5) / 16
    thinFilmReflectance(mu, filmIor, filmThickness, BARE)
    plain += mu * fresnelDielectric(mu, iorFresnel)
    red += mu * load<f64>(FILM)
    green += mu * load<f64>(FILM, 8)
    blue += mu * load<f64>(FILM, 16)
  }
  store<f64>(FILM_RATIO, 1 + (red / plain - 1) * filmWeight)
  store<f64>(FILM_RATIO, 1 + (green / plain - 1) * filmWeight, 8)
  store<f64>(FILM_RATIO, 1 + (blue / plain - 1) * filmWeight, 16)
}

// @ts-ignore: decorator
@inline
export function setBare(index: f64): void {
  const bare = square((index - 1) / (index + 1))
  store<f64>(BARE, bare)
  store<f64>(BARE, bare, 8)
  store<f64>(BARE, bare, 16)
}

function prepareGlass(co: f64, inside: bool, iorFresnel: f64): void {
  const outside = thinWalled ? mirrorTable : tableOf(OUTSIDE_TABLES, iorFresnel, 1)
  const within = thinWalled ? mirrorTable : tableOf(INSIDE_TABLES, iorFresnel, 2)
  glassSame = inside ? within : outside
  glassOther = inside ? outside : within
  const lost = 1 - readTable(glassSame, co, tableRoughness)
  const f = readMean(baseTable, 0)
  const goesIn = 1 - (thinWalled ? (2 * f) / (1 + f) : f)
  const outsideLoss = Math.max(1e-4, 1 - readMean(outside, meanRoughness))
  const insideLoss = Math.max(1e-4, 1 - readMean(within, meanRoughness))
  const squared = thinWalled ? 1 : ior * ior
  const exchange = Math.min(goesIn / (squared * insideLoss), 1 / outsideLoss)
  const through = exchange * (inside ? outsideLoss : squared * insideLoss)
  glassMultipleThrough = (exchange * lost * (inside ? squared : 1)) / Math.PI
  glassMultipleBack = ((1 - through) * lost) / (Math.PI * (inside ? insideLoss : outsideLoss))
}

function prepareCoat(co: f64): void {
  coatAlpha = roughnessToAlpha(coatRoughness)
  coatLambdaO = smithLambda(Math.sqrt(1 - co * co), 0, co, coatAlpha, coatAlpha)
  coatTable = tableOf(REFLECTED_TABLES, coatIor, 0)
  coatOut = coat * readTable(coatTable, co, coatRoughness)
  coatMean = coat * readMean(coatTable, coatRoughness)
  const f = readMean(coatTable, 0)
  const caughtDiffuse = 1 - (1 - f) / (coatIor * coatIor)
  const caught = f + (caughtDiffuse - f) * (1 - metalness * (1 - roughness))
  for (let k: usize = 0; k < 24; k += 8) {
    const under = metalness * load<f64>(F0 + k) + (1 - metalness) * load<f64>(ALBEDO + k)
    const darker = (1 - caught) / (1 - Math.min(1, under) * caught)
    store<f64>(COAT_TONE + k, 1 + (darker - 1) * coatDarkening)
  }
}

function chooseProbabilities(co: f64): void {
  const under = 1 - fuzzOut
  const below = under * (1 - coatOut)
  const fuzzShare = fuzzOut * luminanceAt(FUZZ)
  const coatShare = under * coatOut
  const f = Math.min(0.9, Math.max(reflectedOut, fresnelDielectric(co, etaFresnel)))
  const reflected = glass > 0 ? f : reflectedOut
  const metal = metalness > 0 ? metalness * specularWeight : 0
  const shine = below * (metal * luminanceAt(F0) + (1 - metalness) * reflected * luminanceAt(SPECULAR))
  const diffuseShare = diffuse * below * luminanceAt(KEPT_OUT)
  const glassLoss = glass > 0 ? below * glass : 0
  const back =
    diffuseShare * luminanceAt(ALBEDO) * (1 - translucency) +
    (metal > 0 ? below * metal * (1 - mirrorOut) * luminanceAt(METAL_MULTIPLE) : 0) +
    glassLoss * glassMultipleBack
  const through = diffuseShare * luminanceAt(THROUGH) * translucency + glassLoss * glassMultipleThrough
  const glassShare = below * glass * (1 - f)
  const beneath = walksBeneath ? diffuseShare * subsurface * luminanceAt(BENEATH) : 0
  const total = fuzzShare + coatShare + shine + back + through + glassShare + beneath
  const scale = total > 0 ? 1 / total : 0
  probabilityFuzz = fuzzShare * scale
  probabilityCoat = coatShare * scale
  probabilitySpecular = total > 0 ? shine * scale : 1
  probabilityDiffuse = back * scale
  probabilityThrough = through * scale
  probabilityGlass = glassShare * scale
  probabilityBeneath = beneath * scale
}

/** The lanes of four in which light inside a solid is reflected whole. */
export function dielectricReflectsAll(oh: v128): v128 {
  if (!(eta < 1)) return i32x4.splat(0)
  return f32x4.ge(f32x4.sub(f32x4.splat(1), f32x4.mul(oh, oh)), f32x4.splat(<f32>(eta * eta)))
}

/** Whether what it scatters lies in a direction or two, which light drawn by itself never meets. */
export function isPureMirror(roughest: f64): bool {
  if (roughness > roughest || (coat > 0 && coatRoughness > roughest)) return false
  return probabilityDiffuse + probabilityThrough + probabilityFuzz + probabilityBeneath < 1e-3
}
