import { luminance } from '../color/srgb'
import {
  fresnelDielectric,
  ggxD,
  readAlbedoTable,
  roughnessToAlpha,
  sampleVisibleNormal,
  schlickWeight,
  smithG1,
  smithG2,
} from './microfacet'

/**
 * Scattering at one point: the part of OpenPBR Surface that previews draw now.
 * Drawn: base (Lambert diffuse, metal), specular (isotropic GGX, multiple-scattering compensated after Turquin 2019), transmission
 * (rough and thin-walled), subsurface of thin walls as diffuse transmission. Not drawn yet: coat, fuzz, thin film, anisotropy,
 * diffuse roughness, subsurface of solids.
 *
 * Local frame: +z is the shading normal on the side the material faces. Directions are unit and point away from the surface.
 */
export class Surface {
  baseR = 0
  baseG = 0
  baseB = 0
  metalness = 0
  roughness = 0.5
  specularWeight = 1
  ior = 1.5
  transmission = 0
  transmissionR = 1
  transmissionG = 1
  transmissionB = 1
  thinWalled = false
  /** Share of the diffuse light that goes through a thin wall, and its colour. */
  translucency = 0
  translucencyR = 0
  translucencyG = 0
  translucencyB = 0

  /** Written by `evaluate`: value times |cos|, and the density with which `sample` would draw the direction. */
  readonly value = new Float64Array(3)
  pdf = 0
  /** Written by `sample`: the direction, and the throughput factor value · |cos| / pdf. */
  wix = 0
  wiy = 0
  wiz = 0
  readonly weight = new Float64Array(3)
  transmitted = false

  private alpha = 0.25
  private readonly f0 = new Float64Array(3)
  private readonly table = new Float64Array(6)
  private readonly keptOut = new Float64Array(3)
  private readonly compensation = new Float64Array(3)
  private readonly keptMean = new Float64Array(3)
  private readonly normal = new Float64Array(3)
  private chanceSpecular = 0
  private chanceDiffuse = 0
  private chanceThrough = 0
  private chanceGlass = 0

  /** Computes what depends on the outgoing direction only. Call after setting parameters, before the rest. */
  prepare(cosO: number): void {
    this.alpha = roughnessToAlpha(this.roughness)
    const c = Math.abs(cosO)
    const glass = this.transmission * (1 - this.metalness)
    const { f0, table, keptOut, compensation, keptMean } = this
    const dielectric = this.specularWeight * ((this.ior - 1) / (this.ior + 1)) ** 2
    f0[0] = dielectric + (this.baseR - dielectric) * this.metalness
    f0[1] = dielectric + (this.baseG - dielectric) * this.metalness
    f0[2] = dielectric + (this.baseB - dielectric) * this.metalness
    readAlbedoTable(c, this.roughness, table)
    const single = table[0] + table[1]
    // Weight 0 or an ior of 1 switches the lobe off whole: Schlick's grazing term alone would remain.
    const grazing = this.metalness >= 1 || dielectric > 0 ? 1 : this.metalness
    for (let k = 0; k < 3; k++) {
      compensation[k] = 1 + f0[k] * (1 / single - 1)
      keptOut[k] = Math.max(0, 1 - grazing * (f0[k] * table[0] + table[1]) * compensation[k])
      keptMean[k] = Math.max(1e-4, 1 - grazing * (f0[k] * table[2] + table[3] + f0[k] * (f0[k] * table[4] + table[5])))
    }
    this.grazing = grazing
    const reflected = luminance(1 - keptOut[0], 1 - keptOut[1], 1 - keptOut[2]) * (1 - glass)
    const diffuse = (1 - this.metalness) * (1 - this.transmission) * luminance(keptOut[0], keptOut[1], keptOut[2])
    const back = diffuse * luminance(this.baseR, this.baseG, this.baseB) * (1 - this.translucency)
    const through = diffuse * luminance(this.translucencyR, this.translucencyG, this.translucencyB) * this.translucency
    const total = reflected + back + through + glass
    if (total > 0) {
      this.chanceSpecular = reflected / total
      this.chanceDiffuse = back / total
      this.chanceThrough = through / total
      this.chanceGlass = glass / total
    } else {
      this.chanceSpecular = 1
      this.chanceDiffuse = this.chanceThrough = this.chanceGlass = 0
    }
  }
  private grazing = 1

  /** Value times |cos wi| into `value`, density into `pdf`. */
  evaluate(ox: number, oy: number, oz: number, ix: number, iy: number, iz: number): void {
    const { value, f0, alpha, keptOut, keptMean, compensation, table } = this
    value[0] = value[1] = value[2] = 0
    this.pdf = 0
    if (this.chanceGlass > 0) this.addGlass(ox, oy, oz, ix, iy, iz)
    // The opaque lobes are two-sided: seen from below, the frame is turned over.
    const side = oz < 0 ? -1 : 1
    const co = oz * side
    const ci = iz * side
    if (co <= 0 || ci === 0) return
    const opaque = 1 - this.transmission * (1 - this.metalness)
    if (opaque <= 0) return
    const cosI = Math.abs(ci)
    if (ci > 0) {
      const hx0 = ox + ix
      const hy0 = oy + iy
      const hz0 = co + ci
      const inv = 1 / Math.sqrt(hx0 * hx0 + hy0 * hy0 + hz0 * hz0)
      const hz = hz0 * inv
      const oh = Math.min(1, (ox * hx0 + oy * hy0 + co * hz0) * inv)
      const d = ggxD(hz, alpha)
      const common = (d * smithG2(co, ci, alpha)) / (4 * co)
      const f = schlickWeight(oh)
      for (let k = 0; k < 3; k++) value[k] += opaque * this.grazing * (f0[k] * (1 - f) + f) * common * compensation[k]
      this.pdf += (this.chanceSpecular * (d * smithG1(co, alpha))) / (4 * co)
    }
    const diffuse = (1 - this.metalness) * (1 - this.transmission)
    if (diffuse <= 0) return
    readAlbedoTable(cosI, this.roughness, table)
    const single = table[0] + table[1]
    const goesThrough = ci < 0
    const share = goesThrough ? this.translucency : 1 - this.translucency
    if (share <= 0) return
    for (let k = 0; k < 3; k++) {
      const keptIn = Math.max(0, 1 - this.grazing * (f0[k] * table[0] + table[1]) * (1 + f0[k] * (1 / single - 1)))
      const albedo = goesThrough
        ? k === 0
          ? this.translucencyR
          : k === 1
            ? this.translucencyG
            : this.translucencyB
        : k === 0
          ? this.baseR
          : k === 1
            ? this.baseG
            : this.baseB
      value[k] += (diffuse * share * albedo * keptOut[k] * keptIn * cosI) / (keptMean[k] * Math.PI)
    }
    this.pdf += ((goesThrough ? this.chanceThrough : this.chanceDiffuse) * cosI) / Math.PI
  }

  /** Draws a direction into wix, wiy, wiz, with its `pdf` and `weight`. False when the draw is absorbed. */
  sample(ox: number, oy: number, oz: number, choice: number, u1: number, u2: number): boolean {
    const side = oz < 0 ? -1 : 1
    const { normal } = this
    this.transmitted = false
    if (choice < this.chanceSpecular) {
      sampleVisibleNormal(ox, oy, oz * side, this.alpha, u1, u2, normal)
      const oh = ox * normal[0] + oy * normal[1] + oz * side * normal[2]
      this.wix = 2 * oh * normal[0] - ox
      this.wiy = 2 * oh * normal[1] - oy
      this.wiz = (2 * oh * normal[2] - oz * side) * side
      if (this.wiz * side <= 0) return false
    } else if (choice < this.chanceSpecular + this.chanceDiffuse + this.chanceThrough) {
      const r = Math.sqrt(u1)
      const phi = 2 * Math.PI * u2
      this.wix = r * Math.cos(phi)
      this.wiy = r * Math.sin(phi)
      const z = Math.sqrt(Math.max(1e-12, 1 - u1))
      this.transmitted = choice >= this.chanceSpecular + this.chanceDiffuse
      this.wiz = this.transmitted ? -z * side : z * side
    } else {
      const first = this.chanceSpecular + this.chanceDiffuse + this.chanceThrough
      const rest = Math.min(1, (choice - first) / Math.max(1e-9, this.chanceGlass))
      if (!this.sampleGlass(ox, oy, oz, rest, u1, u2)) return false
    }
    this.evaluate(ox, oy, oz, this.wix, this.wiy, this.wiz)
    if (!(this.pdf > 1e-12)) return false
    for (let k = 0; k < 3; k++) this.weight[k] = this.value[k] / this.pdf
    return true
  }

  /** Walter et al. 2007, "Microfacet Models for Refraction through Rough Surfaces", with radiance scaled by 1/eta². */
  private addGlass(ox: number, oy: number, oz: number, ix: number, iy: number, iz: number): void {
    const side = oz < 0 ? -1 : 1
    const co = oz * side
    const ci = iz * side
    if (co < 1e-6 || Math.abs(ci) < 1e-6) return
    const eta = this.thinWalled ? this.ior : side > 0 ? this.ior : 1 / this.ior
    const glass = this.transmission * (1 - this.metalness)
    const { alpha, value } = this
    const reflects = ci > 0
    const bend = this.thinWalled ? 1 : eta
    // Thin walls pass light on straight: the transmitted lobe is the reflected one mirrored through the wall.
    const mirrored = this.thinWalled && !reflects
    let hx = ox + ix * (reflects || mirrored ? 1 : bend)
    let hy = oy + iy * (reflects || mirrored ? 1 : bend)
    let hz = co + (mirrored ? -ci : ci) * (reflects || mirrored ? 1 : bend)
    const l = Math.sqrt(hx * hx + hy * hy + hz * hz)
    if (l < 1e-9) return
    const sign = hz < 0 ? -1 : 1
    hx = (hx / l) * sign
    hy = (hy / l) * sign
    hz = (hz / l) * sign
    const oh = ox * hx + oy * hy + co * hz
    if (oh <= 0) return
    let f = fresnelDielectric(oh, eta)
    if (this.thinWalled) f = (2 * f) / (1 + f)
    const d = ggxD(hz, alpha)
    const visible = (d * smithG1(co, alpha) * oh) / co
    if (reflects || mirrored) {
      const share = reflects ? f : 1 - f
      const v = (glass * share * d * smithG2(co, Math.abs(ci), alpha)) / (4 * co)
      for (let k = 0; k < 3; k++) value[k] += v * (reflects ? 1 : this.tint(k))
      this.pdf += (this.chanceGlass * share * visible) / (4 * oh)
      return
    }
    const ih = ix * hx + iy * hy + ci * hz
    if (ih >= 0) return
    const denominator = (ih + oh / eta) ** 2
    if (denominator < 1e-12) return
    const v = (glass * (1 - f) * d * smithG2(co, Math.abs(ci), alpha) * Math.abs(ih * oh)) / (denominator * co * eta * eta)
    for (let k = 0; k < 3; k++) value[k] += v * this.tint(k)
    this.pdf += (this.chanceGlass * (1 - f) * visible * Math.abs(ih)) / denominator
  }

  private tint(k: number): number {
    return k === 0 ? this.transmissionR : k === 1 ? this.transmissionG : this.transmissionB
  }

  private sampleGlass(ox: number, oy: number, oz: number, choice: number, u1: number, u2: number): boolean {
    const side = oz < 0 ? -1 : 1
    const co = oz * side
    const { normal } = this
    sampleVisibleNormal(ox, oy, co, this.alpha, u1, u2, normal)
    const oh = ox * normal[0] + oy * normal[1] + co * normal[2]
    const eta = this.thinWalled ? this.ior : side > 0 ? this.ior : 1 / this.ior
    let f = fresnelDielectric(oh, eta)
    if (this.thinWalled) f = (2 * f) / (1 + f)
    const reflects = choice < f
    if (reflects || this.thinWalled) {
      this.wix = 2 * oh * normal[0] - ox
      this.wiy = 2 * oh * normal[1] - oy
      const z = 2 * oh * normal[2] - co
      if (z <= 0) return false
      this.wiz = reflects ? z * side : -z * side
      this.transmitted = !reflects
      return true
    }
    const sin2 = (1 - oh * oh) / (eta * eta)
    if (sin2 >= 1) return false
    const cosT = Math.sqrt(1 - sin2)
    const k = oh / eta - cosT
    this.wix = -ox / eta + k * normal[0]
    this.wiy = -oy / eta + k * normal[1]
    const z = -co / eta + k * normal[2]
    if (z >= 0) return false
    this.wiz = z * side
    this.transmitted = true
    return true
  }
}
