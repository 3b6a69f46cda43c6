import { luminance } from '../../color/srgb'
import { type AlbedoTable, type DielectricTables, dielectricTables, perfectMirrorTable } from './albedo-tables'
import { edgeTintFactor, fresnelDielectric, iorOfWeight, meanFresnelMetal } from './fresnel'
import { fuzzAlbedoTable } from './fuzz'
import { roughnessToAlpha, smithLambda } from './microfacet'
import type { RoughDiffuse } from './rough-diffuse'
import { thinFilmReflectance } from './thin-film'

/** The parameters of a surface at one point, and what follows from them and the outgoing direction alone. See `Surface`. */
export class PreparedSurface {
  baseR = 0
  baseG = 0
  baseB = 0
  diffuseRoughness = 0
  metalness = 0
  roughness = 0.5
  /** 0 round highlights, 1 stretched along the tangent. */
  anisotropy = 0
  specularWeight = 1
  specularR = 1
  specularG = 1
  specularB = 1
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
  /** Share of a solid's diffuse light that has its own colour from beneath the surface. */
  subsurface = 0
  subsurfaceR = 1
  subsurfaceG = 1
  subsurfaceB = 1
  /** Whether light beneath the surface is followed through the solid, and not drawn as diffuse. */
  walksBeneath = false
  /** Index at the path's wavelength, where glass bends colours apart, else 0; and what a path of that wavelength counts for by colour. */
  dispersedIor = 0
  readonly hue = new Float64Array(3).fill(1)
  coatWeight = 0
  coatR = 1
  coatG = 1
  coatB = 1
  coatRoughness = 0
  coatIor = 1.6
  coatDarkening = 1
  fuzzWeight = 0
  fuzzR = 1
  fuzzG = 1
  fuzzB = 1
  fuzzRoughness = 0.5
  filmWeight = 0
  /** Micrometres. */
  filmThickness = 0.5
  filmIor = 1.4

  // What depends on the parameters and the outgoing direction alone, kept between `prepare` and the rest.
  protected side = 1
  protected alphaX = 0.25
  protected alphaY = 0.25
  protected coatAlpha = 0.25
  protected tableRoughness = 0.5
  protected meanRoughness = 0.5
  protected lambdaO = 0
  protected coatLambdaO = 0
  /** Index of the far side over the near side: for bending, and for the amount reflected. */
  protected eta = 1.5
  protected etaFresnel = 1.5
  protected glass = 0
  protected diffuse = 0
  protected coat = 0
  protected fuzz = 0
  protected readonly albedo = new Float64Array(3)
  protected readonly specular = new Float64Array(3)
  protected readonly f0 = new Float64Array(3)
  protected readonly edge = new Float64Array(3)
  protected readonly metalMultiple = new Float64Array(3)
  /** What the film makes of the base's mean reflectance. */
  protected readonly filmRatio = new Float64Array(3).fill(1)
  protected readonly shine = new Float64Array(3).fill(1)
  protected readonly keptOut = new Float64Array(3)
  protected readonly keptMean = new Float64Array(3)
  protected readonly coatTone = new Float64Array(3).fill(1)
  protected readonly over = new Float64Array(3)
  protected readonly film = new Float64Array(3)
  protected filmKey = -1
  protected readonly normal = new Float64Array(3)
  protected readonly rough: RoughDiffuse = { single: 0, multiple: 0, mean: 1 }
  protected base: DielectricTables = dielectricTables(1.5, false)
  protected coatTable: AlbedoTable = this.base.reflected
  protected mirror: AlbedoTable = perfectMirrorTable()
  protected fuzzTable: AlbedoTable = fuzzAlbedoTable()
  protected reflectedOut = 0
  protected mirrorOut = 0
  protected mirrorMean = 1
  protected coatOut = 0
  protected coatMean = 0
  protected fuzzOut = 0
  protected fuzzMean = 0
  protected glassSame: AlbedoTable = this.mirror
  protected glassOther: AlbedoTable = this.mirror
  protected glassMultipleBack = 0
  protected glassMultipleThrough = 0
  protected probabilityFuzz = 0
  protected probabilityCoat = 0
  protected probabilitySpecular = 0
  protected probabilityDiffuse = 0
  protected probabilityThrough = 0
  protected probabilityGlass = 0
  protected probabilityBeneath = 0

  /** Computes what depends on the outgoing direction only. Call after setting parameters, before the rest. */
  prepare(ox: number, oy: number, oz: number): void {
    const { albedo, specular, f0, edge, metalMultiple, filmRatio, shine, keptOut, keptMean, metalness } = this
    const side = oz < 0 ? -1 : 1
    const co = Math.max(Math.abs(oz), 1e-4)
    this.side = side
    this.glass = this.transmission * (1 - metalness)
    this.diffuse = (1 - this.transmission) * (1 - metalness)
    const solid = this.glass > 0 && !this.thinWalled
    const inside = solid && side < 0
    this.coat = inside ? 0 : this.coatWeight
    this.fuzz = inside ? 0 : this.fuzzWeight
    this.setRoughness(ox, oy, co)
    specular[0] = this.specularR
    specular[1] = this.specularG
    specular[2] = this.specularB
    albedo[0] = this.baseR + (this.subsurfaceR - this.baseR) * this.subsurface
    albedo[1] = this.baseG + (this.subsurfaceG - this.baseG) * this.subsurface
    albedo[2] = this.baseB + (this.subsurfaceB - this.baseB) * this.subsurface

    const iorFresnel = iorOfWeight(this.iorUnderCoat(), this.specularWeight)
    const bending = this.dispersedIor > 0 ? this.dispersedIor : this.ior
    this.eta = inside ? 1 / bending : bending
    this.etaFresnel = inside ? 1 / iorFresnel : iorFresnel
    this.base = dielectricTables(iorFresnel, solid)
    const r = this.tableRoughness
    const reflectedMean = this.base.reflected.readMean(this.meanRoughness)
    this.reflectedOut = this.base.reflected.read(co, r)
    this.mirrorOut = this.mirror.read(co, r)
    this.mirrorMean = this.mirror.readMean(this.meanRoughness)
    if (this.filmWeight > 0) this.measureFilm(iorFresnel)
    for (let k = 0; k < 3; k++) {
      shine[k] = specular[k] * (this.filmWeight > 0 ? filmRatio[k] : 1)
      keptOut[k] = Math.max(0, 1 - this.reflectedOut * shine[k])
      keptMean[k] = Math.max(1e-4, 1 - reflectedMean * shine[k])
      f0[k] = k === 0 ? this.baseR : k === 1 ? this.baseG : this.baseB
      if (metalness > 0) {
        edge[k] = edgeTintFactor(f0[k], specular[k])
        const mean = meanFresnelMetal(f0[k], edge[k])
        metalMultiple[k] = (mean * mean * this.mirrorMean) / (1 - mean * (1 - this.mirrorMean))
      }
    }
    if (this.glass > 0) this.prepareGlass(co, inside)
    this.coatOut = this.coatMean = this.fuzzOut = this.fuzzMean = 0
    if (this.fuzz > 0) {
      this.fuzzOut = this.fuzz * this.fuzzTable.read(co, this.fuzzRoughness)
      this.fuzzMean = this.fuzz * this.fuzzTable.readMean(this.fuzzRoughness)
    }
    if (this.coat > 0) this.prepareCoat(co)
    if (this.walksBeneath) {
      albedo[0] = this.baseR * (1 - this.subsurface)
      albedo[1] = this.baseG * (1 - this.subsurface)
      albedo[2] = this.baseB * (1 - this.subsurface)
    }
    this.chooseProbabilities(co)
  }

  private setRoughness(ox: number, oy: number, co: number): void {
    let r = this.roughness
    // Light through a rough coat meets the base from more directions (OpenPBR 1.1, 3.11.3).
    if (this.coat > 0 && this.coatRoughness > 0) r += (Math.min(1, r ** 4 + 2 * this.coatRoughness ** 4) ** 0.25 - r) * this.coat
    const alpha = roughnessToAlpha(r)
    const { anisotropy } = this
    if (anisotropy > 0) {
      const stretch = Math.sqrt(2 / (1 + (1 - anisotropy) ** 2))
      this.alphaX = Math.max(1e-3, Math.min(1, alpha * stretch))
      this.alphaY = Math.max(1e-3, this.alphaX * (1 - anisotropy))
      this.tableRoughness = this.roughnessTowards(ox, oy)
      this.meanRoughness = Math.sqrt((0.5 * (this.alphaX ** 3 + this.alphaY ** 3)) ** (1 / 3))
    } else {
      this.alphaX = this.alphaY = alpha
      this.tableRoughness = this.meanRoughness = Math.sqrt(alpha)
    }
    this.lambdaO = smithLambda(ox, oy, co, this.alphaX, this.alphaY)
  }

  /** The isotropic roughness that shadows a direction as much. */
  protected roughnessTowards(x: number, y: number): number {
    const { alphaX, alphaY } = this
    if (alphaX === alphaY) return Math.sqrt(alphaX)
    const mean = 0.5 * (alphaX * alphaX + alphaY * alphaY)
    const s2 = x * x + y * y
    const towards = s2 > 1e-9 ? (x * x * alphaX * alphaX + y * y * alphaY * alphaY) / s2 : mean
    return Math.sqrt(Math.sqrt(mean + (towards - mean) * Math.sqrt(s2)))
  }

  /** Under a coat the base borders on the coat, not on air (OpenPBR 1.1, 3.11.2). */
  private iorUnderCoat(): number {
    if (!(this.coat > 0) || !(this.glass < 1)) return this.ior
    const ratio = this.ior / this.coatIor
    return this.ior + ((ratio < 1 ? 1 / ratio : ratio) - this.ior) * this.coat
  }

  private measureFilm(iorFresnel: number): void {
    const { film, filmRatio, filmIor, filmThickness, filmWeight } = this
    const key = filmThickness * 1e6 + filmIor * 1e3 + iorFresnel + filmWeight * 1e-3
    if (key === this.filmKey) return
    this.filmKey = key
    const bare = ((iorFresnel - 1) / (iorFresnel + 1)) ** 2
    const base = [bare, bare, bare]
    filmRatio.fill(0)
    let plain = 0
    for (let s = 0; s < 16; s++) {
      const mu = (s + 0.5) / 16
      thinFilmReflectance(mu, filmIor, filmThickness, base, film)
      plain += mu * fresnelDielectric(mu, iorFresnel)
      for (let k = 0; k < 3; k++) filmRatio[k] += mu * film[k]
    }
    for (let k = 0; k < 3; k++) filmRatio[k] = 1 + (filmRatio[k] / plain - 1) * filmWeight
  }

  private prepareGlass(co: number, inside: boolean): void {
    const { base, meanRoughness, mirror } = this
    const outside = this.thinWalled ? mirror : base.outside!
    const within = this.thinWalled ? mirror : base.inside!
    this.glassSame = inside ? within : outside
    this.glassOther = inside ? outside : within
    const lost = 1 - this.glassSame.read(co, this.tableRoughness)
    const f = base.reflected.readMean(0)
    const goesIn = 1 - (this.thinWalled ? (2 * f) / (1 + f) : f)
    const outsideLoss = Math.max(1e-4, 1 - outside.readMean(meanRoughness))
    const insideLoss = Math.max(1e-4, 1 - within.readMean(meanRoughness))
    // One factor for both ways keeps the lobe reciprocal; from neither side may more than all go through.
    const squared = this.thinWalled ? 1 : this.ior * this.ior
    const exchange = Math.min(goesIn / (squared * insideLoss), 1 / outsideLoss)
    const through = exchange * (inside ? outsideLoss : squared * insideLoss)
    this.glassMultipleThrough = (exchange * lost * (inside ? squared : 1)) / Math.PI
    this.glassMultipleBack = ((1 - through) * lost) / (Math.PI * (inside ? insideLoss : outsideLoss))
  }

  private prepareCoat(co: number): void {
    const { coat, coatTone, albedo, metalness, f0 } = this
    this.coatAlpha = roughnessToAlpha(this.coatRoughness)
    this.coatLambdaO = smithLambda(Math.sqrt(1 - co * co), 0, co, this.coatAlpha, this.coatAlpha)
    this.coatTable = dielectricTables(this.coatIor, false).reflected
    this.coatOut = coat * this.coatTable.read(co, this.coatRoughness)
    this.coatMean = coat * this.coatTable.readMean(this.coatRoughness)
    // Light caught between coat and base meets the base again and again (OpenPBR 1.1, 3.11.1).
    const f = this.coatTable.readMean(0)
    const caughtDiffuse = 1 - (1 - f) / (this.coatIor * this.coatIor)
    const caught = f + (caughtDiffuse - f) * (1 - metalness * (1 - this.roughness))
    for (let k = 0; k < 3; k++) {
      const under = metalness * f0[k] + (1 - metalness) * albedo[k]
      const darker = (1 - caught) / (1 - Math.min(1, under) * caught)
      coatTone[k] = 1 + (darker - 1) * this.coatDarkening
    }
  }

  /** How often each lobe is drawn: by what it is expected to send back. */
  private chooseProbabilities(co: number): void {
    const { metalness: m, keptOut, albedo, f0, metalMultiple, specular } = this
    const under = 1 - this.fuzzOut
    const below = under * (1 - this.coatOut)
    const fuzz = this.fuzzOut * luminance(this.fuzzR, this.fuzzG, this.fuzzB)
    const coat = under * this.coatOut
    // Grains of a rough pane face other ways than the pane: both lobes keep some chance.
    const f = Math.min(0.9, Math.max(this.reflectedOut, fresnelDielectric(co, this.etaFresnel)))
    const reflected = this.glass > 0 ? f : this.reflectedOut
    const metal = m > 0 ? m * this.specularWeight : 0
    const shine =
      below * (metal * luminance(f0[0], f0[1], f0[2]) + (1 - m) * reflected * luminance(specular[0], specular[1], specular[2]))
    const diffuse = this.diffuse * below * luminance(keptOut[0], keptOut[1], keptOut[2])
    const glassLoss = this.glass > 0 ? below * this.glass : 0
    const back =
      diffuse * luminance(albedo[0], albedo[1], albedo[2]) * (1 - this.translucency) +
      below * metal * (1 - this.mirrorOut) * luminance(metalMultiple[0], metalMultiple[1], metalMultiple[2]) +
      glassLoss * this.glassMultipleBack
    const through =
      diffuse * luminance(this.translucencyR, this.translucencyG, this.translucencyB) * this.translucency +
      glassLoss * this.glassMultipleThrough
    const glass = below * this.glass * (1 - f)
    const beneath = this.walksBeneath
      ? diffuse * this.subsurface * luminance(this.subsurfaceR, this.subsurfaceG, this.subsurfaceB)
      : 0
    const total = fuzz + coat + shine + back + through + glass + beneath
    const scale = total > 0 ? 1 / total : 0
    this.probabilityFuzz = fuzz * scale
    this.probabilityCoat = coat * scale
    this.probabilitySpecular = total > 0 ? shine * scale : 1
    this.probabilityDiffuse = back * scale
    this.probabilityThrough = through * scale
    this.probabilityGlass = glass * scale
    this.probabilityBeneath = beneath * scale
  }
}
