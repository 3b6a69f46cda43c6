import { cosine as turnCosine, sine as turnSine, turnOf } from './angles'
import {
  clampUnit,
  edgeTintFactor,
  evaluateFuzz,
  evaluateRoughDiffuse,
  fresnelDielectric,
  fresnelMetal,
  fuzzDensity,
  ggxD,
  iorOfWeight,
  meanFresnelMetal,
  multipleDiffuseAlbedo,
  readMean,
  readTable,
  roughMean,
  roughMultiple,
  roughnessToAlpha,
  roughSingle,
  sampleFuzz,
  sampleVisibleNormal,
  smithLambda,
  square,
  thinFilmReflectance,
} from './lobes'
import {
  ALBEDO,
  BARE,
  BASE,
  COAT,
  COAT_TONE,
  EDGE,
  F0,
  FILM,
  FILM_RATIO,
  FUZZ,
  HALF,
  INSIDE_TABLES,
  KEPT_MEAN,
  KEPT_OUT,
  METAL_MULTIPLE,
  OUTSIDE_TABLES,
  OVER,
  P,
  REFLECTED_TABLES,
  SHINE,
  SPECULAR,
  THROUGH,
  TINT,
  VALUE,
} from './memory'

/** Scattering at one point, as core/render/surface/surface.ts has it: the same layers, lobes and order of operations. */

/** Asks the host for a table of albedo: hundredths of the index; 0 reflected, 1 both from outside, 2 both from inside. */
// @ts-ignore: decorator
@external('env', 'makeTable')
declare function makeTable(key: i32, which: i32): u32

export let mirrorTable: usize = 0
export let fuzzTable: usize = 0

export function setTables(mirror: usize, fuzz: usize): void {
  mirrorTable = mirror
  fuzzTable = fuzz
}

function tableOf(list: usize, ior: f64, which: i32): usize {
  const key = <i32>Math.floor(ior * 100 + 0.5)
  const at = list + ((<usize>key) << 2)
  let table = load<u32>(at)
  if (table == 0) {
    table = makeTable(key, which)
    store<u32>(at, table)
  }
  return table
}

export let diffuseRoughness: f64 = 0
export let metalness: f64 = 0
export let roughness: f64 = 0.5
let anisotropy: f64 = 0
export let specularWeight: f64 = 1
let ior: f64 = 1.5
export let transmission: f64 = 0
export let thinWalled: bool = false
export let translucency: f64 = 0
let coatWeight: f64 = 0
export let coatRoughness: f64 = 0
export let coatIor: f64 = 1.6
let coatDarkening: f64 = 1
let fuzzWeight: f64 = 0
export let fuzzRoughness: f64 = 0.5
export let filmWeight: f64 = 0
let filmThickness: f64 = 0.5
let filmIor: f64 = 1.4

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
let glassOther: usize = 0
export let glassMultipleBack: f64 = 0
let glassMultipleThrough: f64 = 0
export let probabilityFuzz: f64 = 0
export let probabilityCoat: f64 = 0
export let probabilitySpecular: f64 = 0
export let probabilityDiffuse: f64 = 0
export let probabilityThrough: f64 = 0
let probabilityGlass: f64 = 0

/** Written by `evaluate` and `sample`. */
export let pdf: f64 = 0
export let wix: f64 = 0
export let wiy: f64 = 0
export let wiz: f64 = 0
export let transmitted: bool = false

// @ts-ignore: decorator
@inline
export function clampIor(v: f64): f64 {
  return v > 1 ? Math.min(v, 4) : 1.0001
}

// @ts-ignore: decorator
@inline
function copyColor(dst: usize, src: usize): void {
  store<f64>(dst, load<f64>(src))
  store<f64>(dst, load<f64>(src, 8), 8)
  store<f64>(dst, load<f64>(src, 16), 16)
}

// @ts-ignore: decorator
@inline
function luminanceAt(at: usize): f64 {
  return 0.2126 * load<f64>(at) + 0.7152 * load<f64>(at, 8) + 0.0722 * load<f64>(at, 16)
}

export function isMirror(roughest: f64): bool {
  return roughness <= roughest && metalness + transmission >= 0.5
}
/** Whether light goes on behind it. */
export function letsThrough(): bool {
  return glass > 0 || translucency > 0
}

export function keepsSide(): void {
  transmitted = false
}

export function passesThrough(): bool {
  return transmission > 0 && !thinWalled
}
/** What of its own colour a surface keeps: clear glass has none. */
export function ownColorShare(): f64 {
  return 1 - transmission * (1 - metalness)
}

/** Takes over a material's parameters as they are at a place. */
export function setSurface(live: usize, tintsThrough: bool): void {
  const weight = load<f64>(live, P.BASE_WEIGHT)
  for (let k: usize = 0; k < 24; k += 8) store<f64>(BASE + k, load<f64>(live + k, P.BASE_COLOR) * weight)
  diffuseRoughness = clampUnit(load<f64>(live, P.DIFFUSE_ROUGHNESS))
  metalness = clampUnit(load<f64>(live, P.METALNESS))
  roughness = clampUnit(load<f64>(live, P.ROUGHNESS))
  anisotropy = Math.min(clampUnit(load<f64>(live, P.ANISOTROPY)), 0.98)
  specularWeight = clampUnit(load<f64>(live, P.SPECULAR_WEIGHT))
  copyColor(SPECULAR, live + P.SPECULAR_COLOR)
  ior = clampIor(load<f64>(live, P.IOR))
  transmission = clampUnit(load<f64>(live, P.TRANSMISSION_WEIGHT))
  thinWalled = load<f64>(live, P.THIN_WALLED) != 0
  if (load<f64>(live, P.TRANSMISSION_DEPTH) > 0 && !thinWalled)
    for (let k: usize = 0; k < 24; k += 8) store<f64>(TINT + k, 1)
  else copyColor(TINT, live + P.TRANSMISSION_COLOR)
  const beneath = clampUnit(load<f64>(live, P.SUBSURFACE_WEIGHT))
  translucency = thinWalled ? beneath / 2 : 0
  const subsurface = thinWalled ? 0 : beneath
  for (let k: usize = 0; k < 24; k += 8) {
    const base = load<f64>(BASE + k)
    const under = load<f64>(live + k, P.SUBSURFACE_COLOR)
    store<f64>(ALBEDO + k, base + (under - base) * subsurface)
    store<f64>(THROUGH + k, translucency > 0 && tintsThrough ? under * base : under)
  }
  coatWeight = clampUnit(load<f64>(live, P.COAT_WEIGHT))
  copyColor(COAT, live + P.COAT_COLOR)
  coatRoughness = clampUnit(load<f64>(live, P.COAT_ROUGHNESS))
  coatIor = clampIor(load<f64>(live, P.COAT_IOR))
  coatDarkening = clampUnit(load<f64>(live, P.COAT_DARKENING))
  fuzzWeight = clampUnit(load<f64>(live, P.FUZZ_WEIGHT))
  copyColor(FUZZ, live + P.FUZZ_COLOR)
  fuzzRoughness = clampUnit(load<f64>(live, P.FUZZ_ROUGHNESS))
  filmWeight = clampUnit(load<f64>(live, P.FILM_WEIGHT))
  filmThickness = load<f64>(live, P.FILM_THICKNESS)
  filmIor = clampIor(load<f64>(live, P.FILM_IOR))
}

/** Seen by way of something diffuse, a sharp mirror is drawn blurred. */
export function blur(least: f64): void {
  roughness = Math.max(roughness, least)
  coatRoughness = Math.max(coatRoughness, least)
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
  eta = inside ? 1 / ior : ior
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
function setBare(index: f64): void {
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
  const total = fuzzShare + coatShare + shine + back + through + glassShare
  const scale = total > 0 ? 1 / total : 0
  probabilityFuzz = fuzzShare * scale
  probabilityCoat = coatShare * scale
  probabilitySpecular = total > 0 ? shine * scale : 1
  probabilityDiffuse = back * scale
  probabilityThrough = through * scale
  probabilityGlass = glassShare * scale
}

// @ts-ignore: decorator
@inline
function underLayer(out: f64, into: f64, mean: f64): f64 {
  return ((1 - out) * (1 - into)) / Math.max(1e-4, 1 - mean)
}

// @ts-ignore: decorator
@inline
function addTo(at: usize, v: f64): void {
  store<f64>(at, load<f64>(at) + v)
}

/** Value times |cos wi| into VALUE, density into `pdf`. */
export function evaluate(ox: f64, oy: f64, oz: f64, ix: f64, iy: f64, iz: f64): void {
  store<f64>(VALUE, 0)
  store<f64>(VALUE, 0, 8)
  store<f64>(VALUE, 0, 16)
  pdf = 0
  const co = oz * side
  const ci = iz * side
  if (co <= 1e-6 || Math.abs(ci) <= 1e-6) return
  if (ci > 0) addReflected(ox, oy, co, ix, iy, ci)
  else addTransmitted(ox, oy, co, ix, iy, ci)
}

function addReflected(ox: f64, oy: f64, co: f64, ix: f64, iy: f64, ci: f64): void {
  let hx = ox + ix
  let hy = oy + iy
  let hz = co + ci
  const inv = 1 / Math.sqrt(hx * hx + hy * hy + hz * hz)
  hx *= inv
  hy *= inv
  hz *= inv
  const oh = Math.min(1, ox * hx + oy * hy + co * hz)
  const m = metalness
  let underDiffuse: f64 = 1
  let underMirror: f64 = 1
  store<f64>(OVER, 1)
  store<f64>(OVER, 1, 8)
  store<f64>(OVER, 1, 16)
  if (fuzz > 0 || coat > 0) {
    const fuzzIn = fuzz > 0 ? fuzz * readTable(fuzzTable, ci, fuzzRoughness) : 0
    const coatIn = coat > 0 ? coat * readTable(coatTable, ci, coatRoughness) : 0
    underDiffuse = underLayer(fuzzOut, fuzzIn, fuzzMean)
    underMirror = 1 - 0.5 * (fuzzOut + fuzzIn)
    const mix = Math.min(1, 1.8 * alphaX)
    if (fuzz > 0) {
      const v = evaluateFuzz(ox, oy, co, ix, iy, ci, fuzzRoughness) * fuzz
      for (let k: usize = 0; k < 24; k += 8) addTo(VALUE + k, load<f64>(FUZZ + k) * v)
      pdf += probabilityFuzz * fuzzDensity(ox, oy, co, ix, iy, ci, fuzzRoughness)
    }
    if (coat > 0) {
      const a = coatAlpha
      const d = ggxD(hx, hy, hz, a, a)
      const lambdaI = smithLambda(ix, iy, ci, a, a)
      const common = d / (4 * co)
      const coatUnder = underMirror + (underDiffuse - underMirror) * a
      const v = (coat * coatUnder * fresnelDielectric(oh, coatIor) * common) / (1 + coatLambdaO + lambdaI)
      for (let k: usize = 0; k < 24; k += 8) addTo(VALUE + k, v)
      pdf += (probabilityCoat * common) / (1 + coatLambdaO)
      underDiffuse *= underLayer(coatOut, coatIn, coatMean)
      underMirror *= 1 - 0.5 * (coatOut + coatIn)
      tintByCoat(co, ci)
    }
    underMirror += (underDiffuse - underMirror) * mix
  }
  if (probabilitySpecular > 0) {
    const d = ggxD(hx, hy, hz, alphaX, alphaY)
    const common = d / (4 * co)
    const v = (underMirror * common) / (1 + lambdaO + smithLambda(ix, iy, ci, alphaX, alphaY))
    pdf += (probabilitySpecular * common) / (1 + lambdaO)
    const dielectric = thinWalled ? glassReflectance(oh) : dielectricReflectance(oh)
    const metal = m * specularWeight
    if (filmWeight > 0) reflectWithFilm(oh, dielectric, v, metal)
    else if (metal > 0)
      for (let k: usize = 0; k < 24; k += 8)
        addTo(
          VALUE + k,
          load<f64>(OVER + k) *
            v *
            (metal * fresnelMetal(oh, load<f64>(F0 + k), load<f64>(EDGE + k)) + (1 - m) * dielectric * load<f64>(SPECULAR + k)),
        )
    else
      for (let k: usize = 0; k < 24; k += 8)
        addTo(VALUE + k, load<f64>(OVER + k) * v * ((1 - m) * dielectric * load<f64>(SPECULAR + k)))
  }
  pdf += (probabilityDiffuse * ci) / Math.PI
  if (m > 0) {
    const lost = (1 - mirrorOut) * (1 - readTable(mirrorTable, ci, roughnessTowards(ix, iy)))
    const v = (m * specularWeight * underDiffuse * lost * ci) / (Math.PI * Math.max(1e-4, 1 - mirrorMean))
    for (let k: usize = 0; k < 24; k += 8) addTo(VALUE + k, load<f64>(OVER + k) * v * load<f64>(METAL_MULTIPLE + k))
  }
  if (glass > 0) {
    const v = glass * underDiffuse * glassMultipleBack * (1 - readTable(glassSame, ci, roughnessTowards(ix, iy))) * ci
    for (let k: usize = 0; k < 24; k += 8) addTo(VALUE + k, load<f64>(OVER + k) * v)
  }
  const share = diffuse * (1 - translucency) * underDiffuse
  if (share <= 0) return
  const reflectedIn = readTable(baseTable, ci, roughnessTowards(ix, iy))
  const isRough = diffuseRoughness > 0
  if (isRough) evaluateRoughDiffuse(co, ci, ox * ix + oy * iy + co * ci, diffuseRoughness)
  for (let k: usize = 0; k < 24; k += 8) {
    const kept = (load<f64>(KEPT_OUT + k) * Math.max(0, 1 - reflectedIn * load<f64>(SHINE + k))) / load<f64>(KEPT_MEAN + k)
    const albedo = load<f64>(ALBEDO + k)
    const brdf = isRough ? albedo * roughSingle + multipleDiffuseAlbedo(albedo, roughMean) * roughMultiple : albedo / Math.PI
    addTo(VALUE + k, load<f64>(OVER + k) * share * brdf * kept * ci)
  }
}

function reflectWithFilm(oh: f64, dielectric: f64, v: f64, metal: f64): void {
  const m = metalness
  if (m < 1) {
    setBare(etaFresnel)
    thinFilmReflectance(oh, filmIor, filmThickness, BARE)
    for (let k: usize = 0; k < 24; k += 8)
      addTo(
        VALUE + k,
        load<f64>(OVER + k) *
          v *
          (1 - m) *
          load<f64>(SPECULAR + k) *
          (dielectric + (load<f64>(FILM + k) - dielectric) * filmWeight),
      )
  }
  if (metal > 0) {
    thinFilmReflectance(oh, filmIor, filmThickness, F0)
    for (let k: usize = 0; k < 24; k += 8) {
      const plain = fresnelMetal(oh, load<f64>(F0 + k), load<f64>(EDGE + k))
      addTo(VALUE + k, load<f64>(OVER + k) * v * metal * (plain + (load<f64>(FILM + k) - plain) * filmWeight))
    }
  }
}

function addTransmitted(ox: f64, oy: f64, co: f64, ix: f64, iy: f64, ci: f64): void {
  const cosI = -ci
  if (glass > 0) addRefracted(ox, oy, co, ix, iy, ci)
  const share = diffuse * translucency
  if (probabilityThrough <= 0) return
  pdf += (probabilityThrough * cosI) / Math.PI
  const under = throughLayers(co, cosI)
  if (glass > 0) {
    const lost = 1 - readTable(glassOther, cosI, roughnessTowards(ix, iy))
    const v = under * glass * glassMultipleThrough * lost * cosI
    for (let k: usize = 0; k < 24; k += 8) addTo(VALUE + k, v * load<f64>(TINT + k))
  }
  if (share <= 0) return
  const reflectedIn = readTable(baseTable, cosI, roughnessTowards(ix, iy))
  for (let k: usize = 0; k < 24; k += 8) {
    const kept = (load<f64>(KEPT_OUT + k) * Math.max(0, 1 - reflectedIn * load<f64>(SHINE + k))) / load<f64>(KEPT_MEAN + k)
    addTo(VALUE + k, (under * share * load<f64>(THROUGH + k) * kept * cosI) / Math.PI)
  }
}

function addRefracted(ox: f64, oy: f64, co: f64, ix: f64, iy: f64, ci: f64): void {
  const bend = thinWalled ? 1 : eta
  let hx = ox + ix * bend
  let hy = oy + iy * bend
  let hz = co + (thinWalled ? -ci : ci * bend)
  const l = Math.sqrt(hx * hx + hy * hy + hz * hz)
  if (l < 1e-9) return
  const sign: f64 = hz < 0 ? -1 : 1
  hx = (hx / l) * sign
  hy = (hy / l) * sign
  hz = (hz / l) * sign
  const oh = ox * hx + oy * hy + co * hz
  if (oh <= 0) return
  const d = ggxD(hx, hy, hz, alphaX, alphaY)
  const g1 = 1 / (1 + lambdaO)
  const lambdaI = smithLambda(ix, iy, ci, alphaX, alphaY)
  const reflected = thinWalled ? glassReflectance(oh) : dielectricReflectance(oh)
  const under = throughLayers(co, -ci) * glass
  let v: f64
  if (thinWalled) {
    v = (under * d) / (4 * co * (1 + lambdaO + lambdaI))
    pdf += (probabilityGlass * d * g1) / (4 * co)
  } else {
    const ih = ix * hx + iy * hy + ci * hz
    if (ih >= 0) return
    const denominator = square(ih + oh / eta)
    if (denominator < 1e-12) return
    v = (under * d * Math.abs(ih * oh)) / (denominator * co * eta * eta * (1 + lambdaO + lambdaI))
    pdf += (probabilityGlass * d * g1 * oh * Math.abs(ih)) / (co * denominator)
  }
  if (filmWeight > 0) {
    setBare(etaFresnel)
    thinFilmReflectance(oh, filmIor, filmThickness, BARE)
    for (let k: usize = 0; k < 24; k += 8)
      addTo(VALUE + k, v * load<f64>(TINT + k) * (1 - reflected - (load<f64>(FILM + k) - reflected) * filmWeight))
  } else for (let k: usize = 0; k < 24; k += 8) addTo(VALUE + k, v * load<f64>(TINT + k) * (1 - reflected))
}

/** The lanes of four in which light inside a solid is reflected whole. */
export function dielectricReflectsAll(oh: v128): v128 {
  if (!(eta < 1)) return i32x4.splat(0)
  return f32x4.ge(f32x4.sub(f32x4.splat(1), f32x4.mul(oh, oh)), f32x4.splat(<f32>(eta * eta)))
}

/** Whether what it scatters lies in a direction or two, which light drawn by itself never meets. */
export function isPureMirror(roughest: f64): bool {
  if (roughness > roughest || (coat > 0 && coatRoughness > roughest)) return false
  return probabilityDiffuse + probabilityThrough + probabilityFuzz < 1e-3
}

function dielectricReflectance(oh: f64): f64 {
  if (glass > 0 && eta < 1 && 1 - oh * oh >= eta * eta) return 1
  return fresnelDielectric(oh, etaFresnel)
}

function glassReflectance(oh: f64): f64 {
  const f = fresnelDielectric(oh, etaFresnel)
  return glass > 0 ? ((2 * f) / (1 + f)) * transmission + f * (1 - transmission) : f
}

function throughLayers(co: f64, cosI: f64): f64 {
  if (fuzzWeight <= 0 && coatWeight <= 0) return 1
  const solid = glass > 0 && !thinWalled
  const cos = solid ? (side > 0 ? co : cosI) : Math.min(co, cosI)
  const fuzzLoss = fuzzWeight > 0 ? fuzzWeight * readTable(fuzzTable, cos, fuzzRoughness) : 0
  const coatLoss = coatWeight > 0 ? coatWeight * readTable(tableOf(REFLECTED_TABLES, coatIor, 0), cos, coatRoughness) : 0
  return (1 - fuzzLoss) * (1 - coatLoss)
}

function tintByCoat(co: f64, ci: f64): void {
  const n2 = coatIor * coatIor
  const path = 0.5 / Math.sqrt(1 - (1 - co * co) / n2) + 0.5 / Math.sqrt(1 - (1 - ci * ci) / n2)
  for (let k: usize = 0; k < 24; k += 8) {
    const color = load<f64>(COAT + k)
    const tint = color < 1 ? Math.pow(Math.max(color, 0), path) : 1
    store<f64>(OVER + k, 1 + (tint * load<f64>(COAT_TONE + k) - 1) * coat)
  }
}

/** Draws a direction into wix, wiy, wiz, its density into `pdf`, what it answers into VALUE. False when the draw is absorbed. */
export function sample(ox: f64, oy: f64, oz: f64, choice: f64, u1: f64, u2: f64): bool {
  const co = oz * side
  transmitted = false
  const untilCosine = probabilitySpecular + probabilityDiffuse
  const untilThrough = untilCosine + probabilityThrough
  const untilCoat = untilThrough + probabilityCoat
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
  } else if (choice < untilCoat + probabilityFuzz) {
    sampleFuzz(ox, oy, co, fuzzRoughness, u1, u2)
    wix = load<f64>(HALF)
    wiy = load<f64>(HALF, 8)
    wiz = load<f64>(HALF, 16) * side
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
