import { clampUnit } from '../lobes'
import { iorAt, weighPrimaries } from '../dispersion'
import { ALBEDO, BASE, BENEATH, COAT, FUZZ, HUE, P, SPECULAR, THROUGH, TINT } from '../memory'

/** A material's parameters at one point, as core/render/surface/surface.ts has them: the same layers, lobes and order of operations. */

export let diffuseRoughness: f64 = 0
export let metalness: f64 = 0
export let roughness: f64 = 0.5
export let anisotropy: f64 = 0
export let specularWeight: f64 = 1
export let ior: f64 = 1.5
export let transmission: f64 = 0
export let thinWalled: bool = false
export let translucency: f64 = 0
export let subsurface: f64 = 0
/** Whether light beneath the surface is followed through the solid, and not drawn as diffuse. */
export let walksBeneath: bool = false
/** Index by which light that goes through is bent, where that differs by wavelength. */
export let bendingIor: f64 = 1.5
export let coatWeight: f64 = 0
export let coatRoughness: f64 = 0
export let coatIor: f64 = 1.6
export let coatDarkening: f64 = 1
export let fuzzWeight: f64 = 0
export let fuzzRoughness: f64 = 0.5
export let filmWeight: f64 = 0
export let filmThickness: f64 = 0.5
export let filmIor: f64 = 1.4

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

export function isMirror(roughest: f64): bool {
  return roughness <= roughest && metalness + transmission >= 0.5
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
  subsurface = thinWalled ? 0 : beneath
  walksBeneath = subsurface > 0 && load<f64>(live, P.SUBSURFACE_RADIUS) > 0
  bendingIor = ior
  for (let k: usize = 0; k < 24; k += 8) store<f64>(HUE + k, 1)
  for (let k: usize = 0; k < 24; k += 8) {
    const base = load<f64>(BASE + k)
    const under = load<f64>(live + k, P.SUBSURFACE_COLOR)
    store<f64>(ALBEDO + k, base + (under - base) * subsurface)
    store<f64>(BENEATH + k, under)
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

/** Where light from beneath comes out: white, sending evenly all around. */
export function openUp(): void {
  for (let k: usize = 0; k < 24; k += 8) {
    store<f64>(BASE + k, 1)
    store<f64>(ALBEDO + k, 1)
  }
  roughness = 1
  diffuseRoughness = 0
  metalness = 0
  anisotropy = 0
  specularWeight = 0
  transmission = 0
  translucency = 0
  subsurface = 0
  coatWeight = 0
  fuzzWeight = 0
  filmWeight = 0
  thinWalled = false
  walksBeneath = false
}

/** Whether glass bends colours apart. */
export function disperses(material: usize): bool {
  return transmission > 0 && !thinWalled && load<f64>(material, P.DISPERSION_SCALE) > 0
}

/** Bends light as that wavelength is; `isDrawn` here, what goes through counts by colour. */
export function bendAt(material: usize, wavelength: f64, isDrawn: bool): void {
  if (isDrawn) weighPrimaries(wavelength)
  const index = iorAt(wavelength, ior, load<f64>(material, P.DISPERSION_SCALE), load<f64>(material, P.ABBE_NUMBER))
  bendingIor = index > 1 ? index : 1.0001
}

/** Seen by way of something diffuse, a sharp mirror is drawn blurred, and what is beneath as diffuse. */
export function blur(least: f64): void {
  walksBeneath = false
  roughness = Math.max(roughness, least)
  coatRoughness = Math.max(coatRoughness, least)
}
