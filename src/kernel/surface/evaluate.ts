import {
  evaluateFuzz,
  evaluateRoughDiffuse,
  fresnelDielectric,
  fresnelMetal,
  fuzzDensity,
  ggxD,
  multipleDiffuseAlbedo,
  readTable,
  roughMean,
  roughMultiple,
  roughSingle,
  smithLambda,
  square,
  thinFilmReflectance,
} from '../lobes'
import {
  ALBEDO,
  BARE,
  COAT,
  COAT_TONE,
  EDGE,
  F0,
  FILM,
  FUZZ,
  HUE,
  KEPT_MEAN,
  KEPT_OUT,
  METAL_MULTIPLE,
  OVER,
  REFLECTED_TABLES,
  SHINE,
  SPECULAR,
  THROUGH,
  TINT,
  VALUE,
} from '../memory'
import { fuzzTable, mirrorTable, tableOf } from './albedo-tables'
import {
  coatIor,
  coatRoughness,
  coatWeight,
  diffuseRoughness,
  filmIor,
  filmThickness,
  filmWeight,
  fuzzRoughness,
  fuzzWeight,
  metalness,
  specularWeight,
  subsurface,
  thinWalled,
  translucency,
  transmission,
} from './parameters'
import {
  alphaX,
  alphaY,
  baseTable,
  coat,
  coatAlpha,
  coatLambdaO,
  coatMean,
  coatOut,
  coatTable,
  diffuse,
  eta,
  etaFresnel,
  fuzz,
  fuzzMean,
  fuzzOut,
  glass,
  glassMultipleBack,
  glassMultipleThrough,
  glassOther,
  glassSame,
  lambdaO,
  mirrorMean,
  mirrorOut,
  probabilityBeneath,
  probabilityCoat,
  probabilityDiffuse,
  probabilityFuzz,
  probabilityGlass,
  probabilitySpecular,
  probabilityThrough,
  roughnessTowards,
  setBare,
  side,
} from './prepared'

/** What light from a direction does at the prepared point: reflected by each layer, and what goes through. */

/** Written by `evaluate` and `sample`. */
export let pdf: f64 = 0

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
      addTo(VALUE + k, v * load<f64>(HUE + k) * load<f64>(TINT + k) * (1 - reflected - (load<f64>(FILM + k) - reflected) * filmWeight))
  } else for (let k: usize = 0; k < 24; k += 8) addTo(VALUE + k, v * load<f64>(HUE + k) * load<f64>(TINT + k) * (1 - reflected))
}

/** What fuzz, coat and boundary let beneath, into VALUE; how often that is drawn, into `pdf`. */
export function answerBeneath(co: f64): void {
  pdf = probabilityBeneath
  for (let k: usize = 0; k < 24; k += 8) store<f64>(OVER + k, 1)
  if (coat > 0) tintByCoat(co, co)
  const share = (1 - fuzzOut) * (1 - coatOut) * diffuse * subsurface
  for (let k: usize = 0; k < 24; k += 8) store<f64>(VALUE + k, load<f64>(OVER + k) * share * load<f64>(KEPT_OUT + k))
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
