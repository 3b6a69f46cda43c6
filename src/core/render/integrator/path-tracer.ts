import { luminance } from '../../color/srgb'
import { EMISSION_WHITE_NITS } from '../../material/emission'
import { determinantOf, movePointInPlace } from '../../math/affine'
import { hashCombine } from '../../math/random'
import { sobolX, sobolY } from '../../math/sobol'
import type { Camera } from '../film/camera'
import type { LightGuide } from '../guide/light-guide'
import { type Backdrop, EnvironmentLight } from '../lights/environment-light'
import { createRayHit } from '../scene/ray-caster'
import type { Scene } from '../scene/scene'
import { iorAt, wavelengthOf, weightOfPrimary } from '../surface/dispersion'
import { Surface } from '../surface/surface'
import { aim } from './aim'
import { ClearLight } from './clear-light'
import { RandomWalk } from './random-walk'
import { ShadingFrame } from './shading-frame'
import { SurfaceReader } from './surface-reader'

const MAX_BOUNCES = 8
const ROULETTE_FROM = 2
/**
 * Light samples at the first hit, where most of the noise arises; later there is one. Four give a sixth less error than two for a
 * sixth more time. Tried and left: resampling six or eight drawn directions by what the surface answers; the error rose by a
 * tenth, since it breaks up the even spread of the samples.
 */
const LIGHT_SAMPLES = 4
/** Of a mirror so smooth, what it reflects is all that counts, and the surface after it is the first. */
const SHARP_ROUGHNESS = 0.1
/**
 * A mirror so sharp is met by its own directions alone: light drawn by itself hardly ever lies in them, and then weighs nothing. In
 * glass it saves a third of the rays.
 */
const PURE_ROUGHNESS = 0.05
/** A surface so smooth that mostly reflects or lets through is looked along as if it were not there. */
const MIRROR_ROUGHNESS = 0.35
/** Least roughness of what is seen by way of something diffuse. */
const BLURRED_ROUGHNESS = 0.4
/**
 * In a room that has a guide, what a lamp would give of less luminance than this by way of something diffuse is looked for the more seldom the
 * less it is, and counts for more then: by day its lamps would take more rays than its windows, for nothing to be seen.
 */
const LEAST_LAMP = 0.1
const CHANCE = 0x2c1b3c6d
/** How often the next direction is one that the guide knows light to come from. */
const LED = 0.5
/** Light that has bounced off something diffuse is held to this, against fireflies. */
const INDIRECT_LIMIT = 24

/**
 * Unidirectional path tracer with next-event estimation to the environment and multiple importance sampling (balance
 * heuristic, Veach 1997). A sample depends on (seed, pixel, sample index) only: the picture is the same in any order.
 */
export class PathTracer {
  private readonly surface = new Surface()
  private readonly hit = createRayHit()
  /** Corners and normals of the triangle at hand, in the world. */
  private readonly corners = new Float32Array(9)
  private readonly cornerNormals = new Float32Array(9)
  private readonly light = new Float64Array(3)
  /** From the camera: origin, unit direction. */
  private readonly ray = new Float64Array(6)
  /** Linear RGB of the last sample. */
  readonly radiance = new Float64Array(3)
  /** What the last sample's camera ray met: base colour 0..2 (1 for nothing), shading normal 3..5 (0 for nothing), distance 6. */
  readonly feature = new Float64Array(7)
  /** Index of the material the last sample's camera ray met first, and of the placement it met it at; −1 for none. */
  firstMaterial = -1
  firstPlacement = -1
  rays = 0
  /** Luminance taken off fireflies so far, summed over samples. */
  clampedLuminance = 0

  private readonly clear: ClearLight
  private readonly frame = new ShadingFrame()
  private readonly reader = new SurfaceReader(this.surface, this.frame)
  private readonly walk: RandomWalk
  /** Where light went beneath a surface. */
  private readonly entry = createRayHit()

  constructor(
    private readonly scene: Scene,
    private readonly environment: EnvironmentLight,
    private readonly camera: Camera,
    /** What a camera ray sees when it hits nothing; null shows the environment. */
    private readonly background: Backdrop | null,
    private readonly width: number,
    private readonly height: number,
    private readonly seed: number,
    /** Only what the camera's rays meet is wanted: no light is followed. */
    private readonly looksOnly = false,
    /** To where the environment's light comes in. */
    private readonly guide: LightGuide | null = null,
  ) {
    this.clear = new ClearLight(scene)
    this.walk = new RandomWalk(scene.caster)
  }

  /** Traces one camera sample of one half of pixel (px, py) into `radiance`. */
  trace(px: number, py: number, sample: number, half: 0 | 1 = 0): void {
    const pixelSeed = hashCombine(this.seed, py * this.width + px) ^ half
    const { camera, ray, radiance, light, environment, guide, scene, surface, hit, frame, reader, clear, walk, entry } = this
    let dimension = 0
    const pair = () => hashCombine(pixelSeed, dimension++)
    aim(camera, this.width, this.height, px, py, sample, pair, ray)
    let [ox, oy, oz, dx, dy, dz] = ray
    let s = 0
    let tr = 1
    let tg = 1
    let tb = 1
    let r = 0
    let g = 0
    let b = 0
    let pdf = 0
    let lightSamples = 1
    let table = -1
    let seesBackground = true
    let afterDiffuse = false
    // A ray cone: its width at the hit chooses the mip level (Akenine-Möller et al. 2021).
    let coneWidth = 0
    let coneSpread = (2 * camera.tanHalfHeight) / this.height
    // Beer–Lambert coefficients of the medium the ray is in.
    let absorbR = 0
    let absorbG = 0
    let absorbB = 0
    /** The place at hand is where light from beneath comes out. */
    let comesOut = false
    /** In micrometres, once glass has bent the path's colours apart; 0 before. */
    let wavelength = 0

    const { feature } = this
    feature.fill(1, 0, 3)
    feature.fill(0, 3, 7)
    this.firstMaterial = this.firstPlacement = -1

    for (let bounce = 0; bounce <= MAX_BOUNCES; bounce++) {
      if (!comesOut) this.rays++
      const isHit = comesOut || scene.caster.closestHit(ox, oy, oz, dx, dy, dz, 1e30, hit, afterDiffuse ? 'solid' : 'everything')
      if (afterDiffuse && !comesOut) {
        clear.trace(ox, oy, oz, dx, dy, dz, isHit ? hit.distance : 1e30)
        tr *= clear.tint[0]
        tg *= clear.tint[1]
        tb *= clear.tint[2]
      }
      if (!isHit) {
        if (seesBackground && this.background) {
          this.readBackdrop(this.background, dx, dy, dz)
          r += tr * light[0]
          g += tg * light[1]
          b += tb * light[2]
          break
        }
        environment.radiance(dx, dy, dz, light)
        const drawn = guide && table >= 0 ? guide.sky.pdfOf(table, dx, dy, dz) : environment.pdfOf(dx, dy, dz)
        const weight = bounce === 0 ? 1 : pdf / (pdf + lightSamples * drawn)
        const limit = afterDiffuse ? this.clampFactor(tr * light[0] * weight, tg * light[1] * weight, tb * light[2] * weight) : 1
        r += tr * light[0] * weight * limit
        g += tg * light[1] * weight * limit
        b += tb * light[2] * weight * limit
        break
      }
      if (!comesOut && (absorbR > 0 || absorbG > 0 || absorbB > 0)) {
        tr *= Math.exp(-absorbR * hit.distance)
        tg *= Math.exp(-absorbG * hit.distance)
        tb *= Math.exp(-absorbB * hit.distance)
      }
      if (!comesOut) coneWidth += coneSpread * hit.distance
      const t = hit.triangle
      const material = scene.materials[scene.materialOf[t]]
      const p = material.source.parameters
      let at = t * 9
      let { positions, normals } = scene
      let density = scene.uvDensity[t]
      if (hit.placement >= 0) {
        this.putCorners(hit.placement, at)
        positions = this.corners
        normals = this.cornerNormals
        at = 0
        density /= Math.cbrt(Math.abs(determinantOf(scene.placements[hit.placement].toWorld)))
      }
      const u = hit.u
      const v = hit.v
      const w = 1 - u - v
      const { uvs } = scene
      const x = positions[at] * w + positions[at + 3] * u + positions[at + 6] * v
      const y = positions[at + 1] * w + positions[at + 4] * u + positions[at + 7] * v
      const z = positions[at + 2] * w + positions[at + 5] * u + positions[at + 8] * v
      const e1x = positions[at + 3] - positions[at]
      const e1y = positions[at + 4] - positions[at + 1]
      const e1z = positions[at + 5] - positions[at + 2]
      const e2x = positions[at + 6] - positions[at]
      const e2y = positions[at + 7] - positions[at + 1]
      const e2z = positions[at + 8] - positions[at + 2]
      let gx = e1y * e2z - e1z * e2y
      let gy = e1z * e2x - e1x * e2z
      let gz = e1x * e2y - e1y * e2x
      const area = Math.sqrt(gx * gx + gy * gy + gz * gz)
      if (!(area > 0)) break
      gx /= area
      gy /= area
      gz /= area
      let nx = normals[at] * w + normals[at + 3] * u + normals[at + 6] * v
      let ny = normals[at + 1] * w + normals[at + 4] * u + normals[at + 7] * v
      let nz = normals[at + 2] * w + normals[at + 5] * u + normals[at + 8] * v
      const nl = Math.sqrt(nx * nx + ny * ny + nz * nz)
      if (nl > 1e-8) {
        nx /= nl
        ny /= nl
        nz /= nl
      } else {
        nx = gx
        ny = gy
        nz = gz
      }
      // The outward side is where the shading normal points; a solid's inside is told by it.
      if (gx * nx + gy * ny + gz * nz < 0) {
        gx = -gx
        gy = -gy
        gz = -gz
      }
      const inside = gx * dx + gy * dy + gz * dz > 0
      const facing = inside ? -1 : 1
      if (comesOut) {
        dx = -gx * facing
        dy = -gy * facing
        dz = -gz * facing
      }
      const q = t * 6
      const tu = uvs[q] * w + uvs[q + 2] * u + uvs[q + 4] * v
      const tv = uvs[q + 1] * w + uvs[q + 3] * u + uvs[q + 5] * v
      const grazing = Math.max(0.15, Math.abs(gx * dx + gy * dy + gz * dz))
      const footprint = (density * coneWidth) / Math.sqrt(grazing)
      frame.build(uvs, t, nx, ny, nz, e1x, e1y, e1z, e2x, e2y, e2z)
      reader.read(material, tu, tv, footprint)
      if (comesOut) surface.openUp()
      const { tangent, bitangent, normal } = frame
      // The view direction in the frame; a bent normal that faces away is turned back towards the viewer.
      let loz = -(dx * normal[0] + dy * normal[1] + dz * normal[2])
      if (loz * facing < 0.02) {
        frame.leanTowards(-dx, -dy, -dz, facing, nx, ny, nz)
        loz = -(dx * normal[0] + dy * normal[1] + dz * normal[2])
      }
      if (bounce === 0) {
        // Clear glass has no colour of its own to divide out.
        const tint = 1 - surface.transmission * (1 - surface.metalness)
        feature[0] = 1 + (surface.baseR - 1) * tint
        feature[1] = 1 + (surface.baseG - 1) * tint
        feature[2] = 1 + (surface.baseB - 1) * tint
        feature[3] = normal[0]
        feature[4] = normal[1]
        feature[5] = normal[2]
        feature[6] = hit.distance
        this.firstMaterial = scene.materialOf[t]
        this.firstPlacement = hit.placement
        if (this.looksOnly) return
      }
      const lox = -(dx * tangent[0] + dy * tangent[1] + dz * tangent[2])
      const loy = -(dx * bitangent[0] + dy * bitangent[1] + dz * bitangent[2])
      // What glows lights others as a lamp, where there are lamps; met by chance it would count twice.
      if (p.emissionLuminance > 0 && !comesOut && !(afterDiffuse && scene.lamps.length > 0)) {
        const e = p.emissionLuminance / EMISSION_WHITE_NITS
        r += tr * e * reader.emission[0]
        g += tg * e * reader.emission[1]
        b += tb * e * reader.emission[2]
      }
      if (afterDiffuse) {
        // Seen by way of something diffuse, a sharp mirror is drawn blurred: light that only chance would find becomes light that
        // is looked for (path space regularisation, Kaplanyan & Dachsbacher 2013).
        surface.roughness = Math.max(surface.roughness, BLURRED_ROUGHNESS)
        surface.coatRoughness = Math.max(surface.coatRoughness, BLURRED_ROUGHNESS)
        surface.walksBeneath = false
      }
      comesOut = false
      let isDrawn = false
      if (surface.transmission > 0 && !surface.thinWalled && p.transmissionDispersionScale > 0) {
        isDrawn = wavelength === 0
        if (isDrawn) {
          wavelength = wavelengthOf(sobolX(sample, pair()))
          for (let k = 0; k < 3; k++) surface.hue[k] = weightOfPrimary(wavelength, k)
        }
        const ior = iorAt(wavelength, surface.ior, p.transmissionDispersionScale, p.transmissionDispersionAbbeNumber)
        surface.dispersedIor = ior > 1 ? ior : 1.0001
      }
      surface.prepare(lox, loy, loz)
      const eps = 2e-6 * Math.max(1, Math.abs(x), Math.abs(y), Math.abs(z))

      // Light straight from the environment.
      s = pair()
      lightSamples = surface.isPureMirror(PURE_ROUGHNESS)
        ? 0
        : afterDiffuse || isMirror(surface, SHARP_ROUGHNESS)
          ? 1
          : LIGHT_SAMPLES
      // Towards what a mirror shows, or what is behind glass, no guide leads.
      table = guide ? guide.tableAt(x, y, z, gx * facing, gy * facing, gz * facing) : -1
      const isLed = table >= 0 && !isMirror(surface, MIRROR_ROUGHNESS) && !surface.letsThrough
      /** Density of the next direction, of which the surface alone would have drawn it with `own`. */
      const densityOf = (own: number, x: number, y: number, z: number) =>
        isLed ? (1 - LED) * own + LED * guide!.bounce.pdfOf(table, x, y, z) : own
      for (let k = 0; k < lightSamples; k++) {
        const index = sample * lightSamples + k
        if (guide && table >= 0) guide.sky.sample(table, sobolX(index, s), sobolY(index, s))
        else environment.sample(sobolX(index, s), sobolY(index, s))
        const lx = environment.x
        const ly = environment.y
        const lz = environment.z
        const lightPdf = environment.pdf
        const liz = lx * normal[0] + ly * normal[1] + lz * normal[2]
        const geometric = lx * gx + ly * gy + lz * gz
        // Shading and geometric normal must agree on the side, or light leaks through the surface.
        if (!(lightPdf > 0 && liz * geometric > 0)) continue
        if (!this.answers(lox, loy, loz, lx, ly, lz, liz)) continue
        const { value } = surface
        const away = geometric > 0 ? eps : -eps
        this.rays++
        if (scene.caster.isOccluded(x + gx * away, y + gy * away, z + gz * away, lx, ly, lz, 1e30)) continue
        clear.trace(x + gx * away, y + gy * away, z + gz * away, lx, ly, lz, 1e30)
        environment.radiance(lx, ly, lz, light)
        const weight = 1 / (lightSamples * lightPdf + densityOf(surface.pdf, lx, ly, lz))
        const cr = tr * value[0] * light[0] * weight * clear.tint[0]
        const cg = tg * value[1] * light[1] * weight * clear.tint[1]
        const cb = tb * value[2] * light[2] * weight * clear.tint[2]
        const limit = afterDiffuse ? this.clampFactor(cr, cg, cb) : 1
        r += cr * limit
        g += cg * limit
        b += cb * limit
      }

      const least = guide && afterDiffuse ? LEAST_LAMP : 0
      for (const lamp of scene.lamps) {
        s = pair()
        // A point of the half of the ball that faces this place, evenly.
        const px = lamp.position[0] - x
        const py = lamp.position[1] - y
        const pz = lamp.position[2] - z
        const height = 2 * sobolX(sample, s) - 1
        const turn = 2 * Math.PI * sobolY(sample, s)
        const across = Math.sqrt(1 - height * height)
        const bx = across * Math.cos(turn)
        const bz = across * Math.sin(turn)
        const near = bx * px + height * py + bz * pz > 0 ? -lamp.radius : lamp.radius
        let lx = px + bx * near
        let ly = py + height * near
        let lz = pz + bz * near
        const squared = lx * lx + ly * ly + lz * lz
        if (!(squared > lamp.radius * lamp.radius * 1e-4)) continue
        const isNear = squared < lamp.nearest * lamp.nearest
        // What a shade sends on is part of its photometric profile; found by chance it would be noise.
        if (isNear && afterDiffuse) continue
        const distance = Math.sqrt(squared)
        lx /= distance
        ly /= distance
        lz /= distance
        const liz = lx * normal[0] + ly * normal[1] + lz * normal[2]
        const geometric = lx * gx + ly * gy + lz * gz
        if (!(liz * geometric > 0)) continue
        if (!this.answers(lox, loy, loz, lx, ly, lz, liz)) continue
        const { value } = surface
        let strength =
          (lamp.photometricProfile ? lamp.photometricProfile(-lx, -ly, -lz) : 1) /
          (isNear ? lamp.nearest * lamp.nearest : squared)
        if (!(strength > 0)) continue
        const [ir, ig, ib] = lamp.intensity
        const open = luminance(tr * value[0] * ir, tg * value[1] * ig, tb * value[2] * ib) * strength
        if (open < least) {
          if (sobolX(sample, hashCombine(s, CHANCE)) * least >= open) continue
          strength *= least / open
        }
        const away = geometric > 0 ? eps : -eps
        this.rays++
        if (scene.caster.isOccluded(x + gx * away, y + gy * away, z + gz * away, lx, ly, lz, distance * (1 - 1e-4))) continue
        clear.trace(x + gx * away, y + gy * away, z + gz * away, lx, ly, lz, distance * (1 - 1e-4))
        const cr = tr * value[0] * lamp.intensity[0] * strength * clear.tint[0]
        const cg = tg * value[1] * lamp.intensity[1] * strength * clear.tint[1]
        const cb = tb * value[2] * lamp.intensity[2] * strength * clear.tint[2]
        const limit = afterDiffuse ? this.clampFactor(cr, cg, cb) : 1
        r += cr * limit
        g += cg * limit
        b += cb * limit
      }

      // The next direction.
      s = pair()
      let choice = sobolX(sample, pair())
      let side: number
      if (isLed && choice < LED) {
        const { bounce } = guide!
        bounce.sample(table, sobolX(sample, s), sobolY(sample, s))
        dx = bounce.x
        dy = bounce.y
        dz = bounce.z
        const wiz = dx * normal[0] + dy * normal[1] + dz * normal[2]
        side = dx * gx + dy * gy + dz * gz
        if (side * wiz <= 0 || !this.answers(lox, loy, loz, dx, dy, dz, wiz)) break
        surface.transmitted = surface.wentBeneath = false
      } else {
        if (isLed) choice = (choice - LED) / (1 - LED)
        if (!surface.sample(lox, loy, loz, choice, sobolX(sample, s), sobolY(sample, s))) break
        const { wix, wiy, wiz } = surface
        dx = tangent[0] * wix + bitangent[0] * wiy + normal[0] * wiz
        dy = tangent[1] * wix + bitangent[1] * wiy + normal[1] * wiz
        dz = tangent[2] * wix + bitangent[2] * wiy + normal[2] * wiz
        side = dx * gx + dy * gy + dz * gz
        if (side * wiz <= 0) break
      }
      if (isDrawn && !surface.transmitted) wavelength = 0
      pdf = surface.wentBeneath ? (isLed ? 1 - LED : 1) * surface.pdf : densityOf(surface.pdf, dx, dy, dz)
      tr *= surface.value[0] / pdf
      tg *= surface.value[1] / pdf
      tb *= surface.value[2] / pdf
      if (surface.wentBeneath) {
        const { subsurfaceColor, subsurfaceRadius, subsurfaceRadiusScale, subsurfaceScatterAnisotropy } = material.live
        Object.assign(entry, hit)
        walk.setMedium(subsurfaceColor, subsurfaceRadius, subsurfaceRadiusScale, subsurfaceScatterAnisotropy)
        const away = side > 0 ? eps : -eps
        const end = walk.follow(x + gx * away, y + gy * away, z + gz * away, dx, dy, dz, sample, pair, hit)
        this.rays += walk.rays
        if (end === 'lost') break
        // As if seen from where it goes on to.
        if (end === 'back') {
          Object.assign(hit, entry)
          dx = -gx * facing
          dy = -gy * facing
          dz = -gz * facing
        } else {
          dx = -walk.direction[0]
          dy = -walk.direction[1]
          dz = -walk.direction[2]
        }
        tr *= walk.throughput[0]
        tg *= walk.throughput[1]
        tb *= walk.throughput[2]
        comesOut = true
        seesBackground = false
        continue
      }
      if (surface.transmitted && !p.geometryThinWalled && surface.transmission > 0) {
        const entering = side < 0
        const depth = p.transmissionDepth
        const sigma = (c: number) => (entering && depth > 0 ? -Math.log(Math.max(c, 1e-4)) / depth : 0)
        absorbR = sigma(p.transmissionColor[0])
        absorbG = sigma(p.transmissionColor[1])
        absorbB = sigma(p.transmissionColor[2])
      } else if (!surface.transmitted) seesBackground = false
      if (!isMirror(surface, MIRROR_ROUGHNESS)) afterDiffuse = true
      coneSpread += surface.roughness * 0.3
      const away = side > 0 ? eps : -eps
      ox = x + gx * away
      oy = y + gy * away
      oz = z + gz * away
      const peak = Math.max(tr, tg, tb)
      if (!(peak > 1e-4)) break
      if (bounce >= ROULETTE_FROM) {
        const survive = Math.min(0.95, peak)
        if (sobolX(sample, pair()) >= survive) break
        tr /= survive
        tg /= survive
        tb /= survive
      }
    }
    radiance[0] = Number.isFinite(r) ? r : 0
    radiance[1] = Number.isFinite(g) ? g : 0
    radiance[2] = Number.isFinite(b) ? b : 0
  }

  /** Corners and normals of a placed triangle as they lie in the world. */
  private putCorners(placement: number, at: number): void {
    const { positions, normals, placements, backOf } = this.scene
    const { toWorld } = placements[placement]
    const back = backOf[placement]
    for (let c = 0; c < 9; c += 3) {
      for (let k = 0; k < 3; k++) {
        this.corners[c + k] = positions[at + c + k]
        const [x, y, z] = [normals[at + c], normals[at + c + 1], normals[at + c + 2]]
        // A normal goes by the map back, transposed.
        this.cornerNormals[c + k] = back[k] * x + back[4 + k] * y + back[8 + k] * z
      }
      movePointInPlace(toWorld, this.corners, c)
    }
  }

  /** Evaluates the surface for light from a direction in the world; whether it sends anything on. */
  private answers(lox: number, loy: number, loz: number, lx: number, ly: number, lz: number, liz: number): boolean {
    const { surface } = this
    const { tangent, bitangent } = this.frame
    const lix = lx * tangent[0] + ly * tangent[1] + lz * tangent[2]
    const liy = lx * bitangent[0] + ly * bitangent[1] + lz * bitangent[2]
    surface.evaluate(lox, loy, loz, lix, liy, liz)
    return surface.value[0] + surface.value[1] + surface.value[2] > 0
  }

  private readBackdrop(backdrop: Backdrop, dx: number, dy: number, dz: number): void {
    if (backdrop instanceof EnvironmentLight) backdrop.radiance(dx, dy, dz, this.light)
    else this.light.set(backdrop)
  }

  private clampFactor(r: number, g: number, b: number): number {
    const y = luminance(r, g, b)
    if (!(y > INDIRECT_LIMIT)) return 1
    this.clampedLuminance += y - INDIRECT_LIMIT
    return INDIRECT_LIMIT / y
  }
}

const isMirror = ({ roughness, metalness, transmission }: Surface, roughest: number): boolean =>
  roughness <= roughest && metalness + transmission >= 0.5
