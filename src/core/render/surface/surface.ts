import { dielectricTables } from './albedo-tables'
import { fresnelDielectric, fresnelMetal } from './fresnel'
import { evaluateFuzz, fuzzDensity, sampleFuzz } from './fuzz'
import { ggxD, sampleVisibleNormal, smithLambda } from './microfacet'
import { PreparedSurface } from './prepared-surface'
import { evaluateRoughDiffuse, multipleDiffuseAlbedo } from './rough-diffuse'
import { thinFilmReflectance } from './thin-film'

/**
 * Scattering at one point: OpenPBR Surface 1.1 as previews draw it. From the top: fuzz; coat; a base that is part metal, part
 * dielectric, the latter part glass (rough, solid or thin-walled), part diffuse (with its own roughness; in a thin wall partly
 * letting light through). A thin film may lie on the base.
 *
 * Layers are laid over each other by their directional albedo E: what is under a layer counts (1 − E(o))(1 − E(i)) / (1 − mean E)
 * if it is diffuse, 1 − (E(o) + E(i)) / 2 if it is a mirror; both are reciprocal and lose nothing. What single scattering between
 * microfacets loses comes back as a diffuse lobe (Kulla & Conty 2017). Light that goes beneath a solid is the tracer's to follow; where it
 * has no free path, or is seen by way of something diffuse, it is drawn as diffuse of the subsurface colour. Left out: the coat has no bump
 * or grain of its own.
 *
 * Local frame: +z is the shading normal on the side the material faces, +x the tangent. Directions are unit and point away.
 */
export class Surface extends PreparedSurface {
  /** Written by `evaluate`: value times |cos|, and the density with which `sample` would draw the direction. */
  readonly value = new Float64Array(3)
  pdf = 0
  /** Written by `sample`: the direction, and the throughput factor value · |cos| / pdf. */
  wix = 0
  wiy = 0
  wiz = 0
  readonly weight = new Float64Array(3)
  transmitted = false
  /** The direction drawn leads beneath the surface, and `value` and `pdf` are of going there at all. */
  wentBeneath = false

  /** Makes it the place where light from beneath comes out: white, sending evenly all around, since what a boundary keeps is counted going in. */
  openUp(): void {
    this.baseR = this.baseG = this.baseB = 1
    this.roughness = 1
    this.diffuseRoughness = this.metalness = this.anisotropy = this.specularWeight = 0
    this.transmission = this.translucency = this.subsurface = 0
    this.coatWeight = this.fuzzWeight = this.filmWeight = 0
    this.thinWalled = this.walksBeneath = false
  }

  /** Value times |cos wi| into `value`, density into `pdf`. */
  evaluate(ox: number, oy: number, oz: number, ix: number, iy: number, iz: number): void {
    const { value, side } = this
    value[0] = value[1] = value[2] = 0
    this.pdf = 0
    // The lobes are two-sided: seen from below, the frame is turned over.
    const co = oz * side
    const ci = iz * side
    if (co <= 1e-6 || Math.abs(ci) <= 1e-6) return
    if (ci > 0) this.addReflected(ox, oy, co, ix, iy, ci)
    else this.addTransmitted(ox, oy, co, ix, iy, ci)
  }

  private addReflected(ox: number, oy: number, co: number, ix: number, iy: number, ci: number): void {
    const { value, over, metalness: m, f0, edge, specular, keptOut, keptMean, albedo, metalMultiple } = this
    let hx = ox + ix
    let hy = oy + iy
    let hz = co + ci
    const inv = 1 / Math.sqrt(hx * hx + hy * hy + hz * hz)
    hx *= inv
    hy *= inv
    hz *= inv
    const oh = Math.min(1, ox * hx + oy * hy + co * hz)
    const layered = this.fuzz > 0 || this.coat > 0
    let underDiffuse = 1
    let underMirror = 1
    over[0] = over[1] = over[2] = 1
    if (layered) {
      const fuzzIn = this.fuzz > 0 ? this.fuzz * this.fuzzTable.read(ci, this.fuzzRoughness) : 0
      const coatIn = this.coat > 0 ? this.coat * this.coatTable.read(ci, this.coatRoughness) : 0
      underDiffuse = underLayer(this.fuzzOut, fuzzIn, this.fuzzMean)
      underMirror = 1 - 0.5 * (this.fuzzOut + fuzzIn)
      // The rougher a mirror, the more it is laid over as a diffuse base is.
      const mix = Math.min(1, 1.8 * this.alphaX)
      if (this.fuzz > 0) {
        const v = evaluateFuzz(ox, oy, co, ix, iy, ci, this.fuzzRoughness) * this.fuzz
        value[0] += this.fuzzR * v
        value[1] += this.fuzzG * v
        value[2] += this.fuzzB * v
        this.pdf += this.probabilityFuzz * fuzzDensity(ox, oy, co, ix, iy, ci, this.fuzzRoughness)
      }
      if (this.coat > 0) {
        const a = this.coatAlpha
        const d = ggxD(hx, hy, hz, a, a)
        const lambdaI = smithLambda(ix, iy, ci, a, a)
        const common = d / (4 * co)
        const coatUnder = underMirror + (underDiffuse - underMirror) * a
        const v = (this.coat * coatUnder * fresnelDielectric(oh, this.coatIor) * common) / (1 + this.coatLambdaO + lambdaI)
        value[0] += v
        value[1] += v
        value[2] += v
        this.pdf += (this.probabilityCoat * common) / (1 + this.coatLambdaO)
        underDiffuse *= underLayer(this.coatOut, coatIn, this.coatMean)
        underMirror *= 1 - 0.5 * (this.coatOut + coatIn)
        this.tintByCoat(co, ci)
      }
      underMirror += (underDiffuse - underMirror) * mix
    }
    if (this.probabilitySpecular > 0) {
      const d = ggxD(hx, hy, hz, this.alphaX, this.alphaY)
      const common = d / (4 * co)
      const v = (underMirror * common) / (1 + this.lambdaO + smithLambda(ix, iy, ci, this.alphaX, this.alphaY))
      this.pdf += (this.probabilitySpecular * common) / (1 + this.lambdaO)
      const dielectric = this.thinWalled ? this.glassReflectance(oh) : this.dielectricReflectance(oh)
      const metal = m * this.specularWeight
      if (this.filmWeight > 0) this.reflectWithFilm(oh, dielectric, v, metal)
      else
        for (let k = 0; k < 3; k++)
          value[k] +=
            over[k] * v * ((metal > 0 ? metal * fresnelMetal(oh, f0[k], edge[k]) : 0) + (1 - m) * dielectric * specular[k])
    }
    this.pdf += (this.probabilityDiffuse * ci) / Math.PI
    if (m > 0) {
      const r = this.roughnessTowards(ix, iy)
      const lost = (1 - this.mirrorOut) * (1 - this.mirror.read(ci, r))
      const v = (m * this.specularWeight * underDiffuse * lost * ci) / (Math.PI * Math.max(1e-4, 1 - this.mirrorMean))
      for (let k = 0; k < 3; k++) value[k] += over[k] * v * metalMultiple[k]
    }
    if (this.glass > 0) {
      const v =
        this.glass * underDiffuse * this.glassMultipleBack * (1 - this.glassSame.read(ci, this.roughnessTowards(ix, iy))) * ci
      for (let k = 0; k < 3; k++) value[k] += over[k] * v
    }
    const share = this.diffuse * (1 - this.translucency) * underDiffuse
    if (share <= 0) return
    const reflectedIn = this.base.reflected.read(ci, this.roughnessTowards(ix, iy))
    const { rough } = this
    if (this.diffuseRoughness > 0) evaluateRoughDiffuse(co, ci, ox * ix + oy * iy + co * ci, this.diffuseRoughness, rough)
    for (let k = 0; k < 3; k++) {
      const kept = (keptOut[k] * Math.max(0, 1 - reflectedIn * this.shine[k])) / keptMean[k]
      const brdf =
        this.diffuseRoughness > 0
          ? albedo[k] * rough.single + multipleDiffuseAlbedo(albedo[k], rough.mean) * rough.multiple
          : albedo[k] / Math.PI
      value[k] += over[k] * share * brdf * kept * ci
    }
  }

  private reflectWithFilm(oh: number, dielectric: number, v: number, metal: number): void {
    const { value, over, metalness: m, f0, edge, specular, film, filmWeight } = this
    if (m < 1) {
      const bare = ((this.etaFresnel - 1) / (this.etaFresnel + 1)) ** 2
      film[0] = film[1] = film[2] = bare
      thinFilmReflectance(oh, this.filmIor, this.filmThickness, [bare, bare, bare], film)
      for (let k = 0; k < 3; k++)
        value[k] += over[k] * v * (1 - m) * specular[k] * (dielectric + (film[k] - dielectric) * filmWeight)
    }
    if (metal > 0) {
      thinFilmReflectance(oh, this.filmIor, this.filmThickness, f0, film)
      for (let k = 0; k < 3; k++) {
        const plain = fresnelMetal(oh, f0[k], edge[k])
        value[k] += over[k] * v * metal * (plain + (film[k] - plain) * filmWeight)
      }
    }
  }

  private addTransmitted(ox: number, oy: number, co: number, ix: number, iy: number, ci: number): void {
    const { value } = this
    const cosI = -ci
    if (this.glass > 0) this.addRefracted(ox, oy, co, ix, iy, ci)
    const share = this.diffuse * this.translucency
    if (this.probabilityThrough <= 0) return
    this.pdf += (this.probabilityThrough * cosI) / Math.PI
    const under = this.throughLayers(co, cosI)
    if (this.glass > 0) {
      const lost = 1 - this.glassOther.read(cosI, this.roughnessTowards(ix, iy))
      const v = under * this.glass * this.glassMultipleThrough * lost * cosI
      for (let k = 0; k < 3; k++) value[k] += v * this.tint(k)
    }
    if (share <= 0) return
    const reflectedIn = this.base.reflected.read(cosI, this.roughnessTowards(ix, iy))
    for (let k = 0; k < 3; k++) {
      const kept = (this.keptOut[k] * Math.max(0, 1 - reflectedIn * this.shine[k])) / this.keptMean[k]
      const color = k === 0 ? this.translucencyR : k === 1 ? this.translucencyG : this.translucencyB
      value[k] += (under * share * color * kept * cosI) / Math.PI
    }
  }

  /** Walter et al. 2007, "Microfacet Models for Refraction through Rough Surfaces", with radiance scaled by 1/eta². */
  private addRefracted(ox: number, oy: number, co: number, ix: number, iy: number, ci: number): void {
    const { value, eta, glass, alphaX, alphaY, lambdaO } = this
    // Thin walls pass light on straight: the transmitted lobe is the reflected one mirrored through the wall.
    const bend = this.thinWalled ? 1 : eta
    let hx = ox + ix * bend
    let hy = oy + iy * bend
    let hz = co + (this.thinWalled ? -ci : ci * bend)
    const l = Math.sqrt(hx * hx + hy * hy + hz * hz)
    if (l < 1e-9) return
    const sign = hz < 0 ? -1 : 1
    hx = (hx / l) * sign
    hy = (hy / l) * sign
    hz = (hz / l) * sign
    const oh = ox * hx + oy * hy + co * hz
    if (oh <= 0) return
    const d = ggxD(hx, hy, hz, alphaX, alphaY)
    const g1 = 1 / (1 + lambdaO)
    const lambdaI = smithLambda(ix, iy, ci, alphaX, alphaY)
    const reflected = this.thinWalled ? this.glassReflectance(oh) : this.dielectricReflectance(oh)
    const under = this.throughLayers(co, -ci) * glass
    let v: number
    if (this.thinWalled) {
      v = (under * d) / (4 * co * (1 + lambdaO + lambdaI))
      this.pdf += (this.probabilityGlass * d * g1) / (4 * co)
    } else {
      const ih = ix * hx + iy * hy + ci * hz
      if (ih >= 0) return
      const denominator = (ih + oh / eta) ** 2
      if (denominator < 1e-12) return
      v = (under * d * Math.abs(ih * oh)) / (denominator * co * eta * eta * (1 + lambdaO + lambdaI))
      this.pdf += (this.probabilityGlass * d * g1 * oh * Math.abs(ih)) / (co * denominator)
    }
    if (this.filmWeight > 0) {
      const bare = ((this.etaFresnel - 1) / (this.etaFresnel + 1)) ** 2
      thinFilmReflectance(oh, this.filmIor, this.filmThickness, [bare, bare, bare], this.film)
      for (let k = 0; k < 3; k++)
        value[k] += v * this.hue[k] * this.tint(k) * (1 - reflected - (this.film[k] - reflected) * this.filmWeight)
    } else for (let k = 0; k < 3; k++) value[k] += v * this.hue[k] * this.tint(k) * (1 - reflected)
  }

  private dielectricReflectance(oh: number): number {
    // Beyond the critical angle everything comes back, whatever the weight makes of the index.
    if (this.glass > 0 && this.eta < 1 && 1 - oh * oh >= this.eta * this.eta) return 1
    return fresnelDielectric(oh, this.etaFresnel)
  }

  /** Both faces of a thin pane. */
  private glassReflectance(oh: number): number {
    const f = fresnelDielectric(oh, this.etaFresnel)
    return this.glass > 0 ? ((2 * f) / (1 + f)) * this.transmission + f * (1 - this.transmission) : f
  }

  private tint(k: number): number {
    return k === 0 ? this.transmissionR : k === 1 ? this.transmissionG : this.transmissionB
  }

  /** What fuzz and coat leave of light that passes them once, on the side that has them. */
  private throughLayers(co: number, cosI: number): number {
    if (this.fuzzWeight <= 0 && this.coatWeight <= 0) return 1
    const solid = this.glass > 0 && !this.thinWalled
    const cos = solid ? (this.side > 0 ? co : cosI) : Math.min(co, cosI)
    const fuzz = this.fuzzWeight > 0 ? this.fuzzWeight * this.fuzzTable.read(cos, this.fuzzRoughness) : 0
    const coat =
      this.coatWeight > 0 ? this.coatWeight * dielectricTables(this.coatIor, false).reflected.read(cos, this.coatRoughness) : 0
    return (1 - fuzz) * (1 - coat)
  }

  /** Darkening, and absorption in the coat along both refracted paths, into `over`. */
  private tintByCoat(co: number, ci: number): void {
    const { over, coat, coatTone } = this
    const n2 = this.coatIor * this.coatIor
    const path = 0.5 / Math.sqrt(1 - (1 - co * co) / n2) + 0.5 / Math.sqrt(1 - (1 - ci * ci) / n2)
    for (let k = 0; k < 3; k++) {
      const color = k === 0 ? this.coatR : k === 1 ? this.coatG : this.coatB
      const tint = color < 1 ? Math.max(color, 0) ** path : 1
      over[k] = 1 + (tint * coatTone[k] - 1) * coat
    }
  }

  /** Whether light goes on behind it. */
  get letsThrough(): boolean {
    return this.glass > 0 || this.translucency > 0
  }

  /** Whether what it scatters lies in a direction or two, which light drawn by itself never meets. */
  isPureMirror(roughest: number): boolean {
    if (this.roughness > roughest || (this.coat > 0 && this.coatRoughness > roughest)) return false
    return this.probabilityDiffuse + this.probabilityThrough + this.probabilityFuzz + this.probabilityBeneath < 1e-3
  }

  /** Draws a direction into wix, wiy, wiz, with its `pdf` and `weight`. False when the draw is absorbed. */
  sample(ox: number, oy: number, oz: number, choice: number, u1: number, u2: number): boolean {
    const { side, normal } = this
    const co = oz * side
    this.transmitted = this.wentBeneath = false
    const untilCosine = this.probabilitySpecular + this.probabilityDiffuse
    const untilThrough = untilCosine + this.probabilityThrough
    const untilCoat = untilThrough + this.probabilityCoat
    const untilFuzz = untilCoat + this.probabilityFuzz
    if (choice < this.probabilitySpecular) {
      if (!this.reflect(ox, oy, co, this.alphaX, this.alphaY, u1, u2)) return false
    } else if (choice < untilThrough) {
      const r = Math.sqrt(u1)
      const phi = 2 * Math.PI * u2
      this.wix = r * Math.cos(phi)
      this.wiy = r * Math.sin(phi)
      const z = Math.sqrt(Math.max(1e-12, 1 - u1))
      this.transmitted = choice >= untilCosine
      this.wiz = this.transmitted ? -z * side : z * side
    } else if (choice < untilCoat) {
      if (!this.reflect(ox, oy, co, this.coatAlpha, this.coatAlpha, u1, u2)) return false
    } else if (choice < untilFuzz) {
      sampleFuzz(ox, oy, co, this.fuzzRoughness, u1, u2, normal)
      this.wix = normal[0]
      this.wiy = normal[1]
      this.wiz = normal[2] * side
    } else if (choice < untilFuzz + this.probabilityBeneath) {
      this.goBeneath(co, u1, u2)
      return true
    } else if (!this.refract(ox, oy, co, u1, u2)) return false
    this.evaluate(ox, oy, oz, this.wix, this.wiy, this.wiz)
    if (!(this.pdf > 1e-12)) return false
    for (let k = 0; k < 3; k++) this.weight[k] = this.value[k] / this.pdf
    return true
  }

  /** What fuzz, coat and boundary let in goes on evenly; what colour it takes is the solid's. */
  private goBeneath(co: number, u1: number, u2: number): void {
    const { value, weight, over, keptOut } = this
    const r = Math.sqrt(u1)
    const phi = 2 * Math.PI * u2
    this.wix = r * Math.cos(phi)
    this.wiy = r * Math.sin(phi)
    this.wiz = -Math.sqrt(Math.max(1e-12, 1 - u1)) * this.side
    this.wentBeneath = true
    this.pdf = this.probabilityBeneath
    over[0] = over[1] = over[2] = 1
    if (this.coat > 0) this.tintByCoat(co, co)
    const share = (1 - this.fuzzOut) * (1 - this.coatOut) * this.diffuse * this.subsurface
    for (let k = 0; k < 3; k++) {
      value[k] = over[k] * share * keptOut[k]
      weight[k] = value[k] / this.pdf
    }
  }

  private reflect(ox: number, oy: number, co: number, alphaX: number, alphaY: number, u1: number, u2: number): boolean {
    const { normal } = this
    sampleVisibleNormal(ox, oy, co, alphaX, alphaY, u1, u2, normal)
    const oh = ox * normal[0] + oy * normal[1] + co * normal[2]
    const z = 2 * oh * normal[2] - co
    if (z <= 0) return false
    this.wix = 2 * oh * normal[0] - ox
    this.wiy = 2 * oh * normal[1] - oy
    this.wiz = z * this.side
    return true
  }

  private refract(ox: number, oy: number, co: number, u1: number, u2: number): boolean {
    const { normal, side, eta } = this
    sampleVisibleNormal(ox, oy, co, this.alphaX, this.alphaY, u1, u2, normal)
    const oh = ox * normal[0] + oy * normal[1] + co * normal[2]
    this.transmitted = true
    if (this.thinWalled) {
      const z = 2 * oh * normal[2] - co
      if (z <= 0) return false
      this.wix = 2 * oh * normal[0] - ox
      this.wiy = 2 * oh * normal[1] - oy
      this.wiz = -z * side
      return true
    }
    const sin2 = (1 - oh * oh) / (eta * eta)
    if (sin2 >= 1) return false
    const k = oh / eta - Math.sqrt(1 - sin2)
    this.wix = -ox / eta + k * normal[0]
    this.wiy = -oy / eta + k * normal[1]
    const z = -co / eta + k * normal[2]
    if (z >= 0) return false
    this.wiz = z * side
    return true
  }
}

/** Share of a diffuse base's light that passes a layer both ways, by the layer's albedo out, in and on average. */
const underLayer = (out: number, into: number, mean: number): number => ((1 - out) * (1 - into)) / Math.max(1e-4, 1 - mean)
