import { luminance } from '../color/srgb'
import { hashCombine } from '../math/random'
import { sobolX, sobolY } from '../math/sobol'
import type { RayHit } from './bvh'
import type { Camera } from './camera'
import type { EnvironmentLight } from './environment-light'
import { sampleFilter } from './film'
import { letsLightThrough, type Scene, type SceneMaterial } from './scene'
import { Surface } from './surface'
import { readTexture } from './texture'

/** Luminance in cd/m² that reads as display white when an emitter is seen in a preview. */
export const EMISSION_WHITE_NITS = 500
const MAX_BOUNCES = 8
const ROULETTE_FROM = 2
/** Light samples at the first hit, where most of the noise arises, and at later ones. */
const FIRST_LIGHT_SAMPLES = 2
/** Light that has bounced off something diffuse is held to this, against fireflies. */
const INDIRECT_LIMIT = 24

/**
 * Unidirectional path tracer with next-event estimation to the environment and multiple importance sampling (balance
 * heuristic, Veach 1997). A sample depends on (seed, pixel, sample index) only: the picture is the same in any order.
 */
export class PathTracer {
  private readonly surface = new Surface()
  private readonly hit: RayHit = { distance: 0, triangle: -1, u: 0, v: 0 }
  private readonly texel = new Float64Array(4)
  private readonly light = new Float64Array(3)
  private readonly offset = new Float64Array(2)
  /** Linear RGB of the last sample. */
  readonly radiance = new Float64Array(3)
  /** What the last sample's camera ray met: base colour 0..2 (1 for nothing), shading normal 3..5 (0 for nothing), distance 6. */
  readonly feature = new Float64Array(7)
  rays = 0

  // The shading frame at the hit, world space.
  private readonly tangent = new Float64Array(3)
  private readonly bitangent = new Float64Array(3)
  private readonly normal = new Float64Array(3)

  constructor(
    private readonly scene: Scene,
    private readonly environment: EnvironmentLight,
    private readonly camera: Camera,
    /** What a camera ray sees when it hits nothing; null shows the environment. */
    private readonly background: readonly [number, number, number] | null,
    private readonly width: number,
    private readonly height: number,
    private readonly seed: number,
  ) {}

  /** Traces one camera sample of pixel (px, py) into `radiance`. */
  trace(px: number, py: number, sample: number): void {
    const pixelSeed = hashCombine(this.seed, py * this.width + px)
    const { camera, offset, radiance, light, environment, scene, surface, hit } = this
    let dimension = 0
    const pair = () => hashCombine(pixelSeed, dimension++)
    let s = pair()
    sampleFilter(sobolX(sample, s), sobolY(sample, s), offset)
    const fx = ((px + 0.5 + offset[0]) / this.width) * 2 - 1
    const fy = 1 - ((py + 0.5 + offset[1]) / this.height) * 2
    const sx = fx * camera.aspect * camera.tanHalfHeight
    const sy = fy * camera.tanHalfHeight
    let dx = camera.forward[0] + camera.right[0] * sx + camera.up[0] * sy
    let dy = camera.forward[1] + camera.right[1] * sx + camera.up[1] * sy
    let dz = camera.forward[2] + camera.right[2] * sx + camera.up[2] * sy
    const inv = 1 / Math.sqrt(dx * dx + dy * dy + dz * dz)
    dx *= inv
    dy *= inv
    dz *= inv
    let ox = camera.position[0]
    let oy = camera.position[1]
    let oz = camera.position[2]
    let tr = 1
    let tg = 1
    let tb = 1
    let r = 0
    let g = 0
    let b = 0
    let pdf = 0
    let seesBackground = true
    let afterDiffuse = false
    // Through glass after something diffuse: that light came by way of its shadowless shadow already.
    let countedAlready = false
    // A ray cone: its width at the hit chooses the mip level (Akenine-Möller et al. 2021).
    let coneWidth = 0
    let coneSpread = (2 * camera.tanHalfHeight) / this.height
    // Beer–Lambert coefficients of the medium the ray is in.
    let absorbR = 0
    let absorbG = 0
    let absorbB = 0

    const { feature } = this
    feature.fill(1, 0, 3)
    feature.fill(0, 3, 7)

    for (let bounce = 0; bounce <= MAX_BOUNCES; bounce++) {
      this.rays++
      if (!scene.caster.closestHit(ox, oy, oz, dx, dy, dz, 1e30, hit)) {
        if (seesBackground && this.background) {
          r += tr * this.background[0]
          g += tg * this.background[1]
          b += tb * this.background[2]
          break
        }
        if (countedAlready) break
        environment.radiance(dx, dy, dz, light)
        const rivals = bounce === 1 ? FIRST_LIGHT_SAMPLES : 1
        const weight = bounce === 0 ? 1 : pdf / (pdf + rivals * environment.pdfOf(dx, dy, dz))
        const limit = afterDiffuse ? clampFactor(tr * light[0], tg * light[1], tb * light[2]) : 1
        r += tr * light[0] * weight * limit
        g += tg * light[1] * weight * limit
        b += tb * light[2] * weight * limit
        break
      }
      if (absorbR > 0 || absorbG > 0 || absorbB > 0) {
        tr *= Math.exp(-absorbR * hit.distance)
        tg *= Math.exp(-absorbG * hit.distance)
        tb *= Math.exp(-absorbB * hit.distance)
      }
      coneWidth += coneSpread * hit.distance
      const t = hit.triangle
      const material = scene.materials[scene.materialOf[t]]
      const p = material.source.parameters
      const at = t * 9
      const u = hit.u
      const v = hit.v
      const w = 1 - u - v
      const { positions, normals, uvs } = scene
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
      const q = t * 6
      const tu = uvs[q] * w + uvs[q + 2] * u + uvs[q + 4] * v
      const tv = uvs[q + 1] * w + uvs[q + 3] * u + uvs[q + 5] * v
      const grazing = Math.max(0.15, Math.abs(gx * dx + gy * dy + gz * dz))
      const footprint = (scene.uvDensity[t] * coneWidth) / Math.sqrt(grazing)
      this.buildFrame(t, nx, ny, nz, e1x, e1y, e1z, e2x, e2y, e2z)
      this.readSurface(material, tu, tv, footprint)
      const { tangent, bitangent, normal } = this
      // The view direction in the frame; a bent normal that faces away is turned back towards the viewer.
      let loz = -(dx * normal[0] + dy * normal[1] + dz * normal[2])
      if (loz * facing < 0.02) {
        this.leanTowards(-dx, -dy, -dz, facing, nx, ny, nz)
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
      }
      const lox = -(dx * tangent[0] + dy * tangent[1] + dz * tangent[2])
      const loy = -(dx * bitangent[0] + dy * bitangent[1] + dz * bitangent[2])
      if (p.emissionLuminance > 0) {
        const e = p.emissionLuminance / EMISSION_WHITE_NITS
        r += tr * e * this.emission[0]
        g += tg * e * this.emission[1]
        b += tb * e * this.emission[2]
      }
      surface.prepare(loz)
      const eps = 2e-6 * Math.max(1, Math.abs(x), Math.abs(y), Math.abs(z))

      // Light straight from the environment.
      s = pair()
      const lightSamples = bounce === 0 ? FIRST_LIGHT_SAMPLES : 1
      for (let k = 0; k < lightSamples; k++) {
        const index = sample * lightSamples + k
        environment.sample(sobolX(index, s), sobolY(index, s))
        const lx = environment.x
        const ly = environment.y
        const lz = environment.z
        const lightPdf = environment.pdf
        const liz = lx * normal[0] + ly * normal[1] + lz * normal[2]
        const geometric = lx * gx + ly * gy + lz * gz
        // Shading and geometric normal must agree on the side, or light leaks through the surface.
        if (!(lightPdf > 0 && liz * geometric > 0)) continue
        surface.evaluate(
          lox,
          loy,
          loz,
          lx * tangent[0] + ly * tangent[1] + lz * tangent[2],
          lx * bitangent[0] + ly * bitangent[1] + lz * bitangent[2],
          liz,
        )
        const { value } = surface
        if (!(value[0] + value[1] + value[2] > 0)) continue
        const away = geometric > 0 ? eps : -eps
        this.rays++
        if (scene.caster.isOccluded(x + gx * away, y + gy * away, z + gz * away, lx, ly, lz, 1e30)) continue
        environment.radiance(lx, ly, lz, light)
        const weight = 1 / (lightSamples * lightPdf + surface.pdf)
        const cr = tr * value[0] * light[0] * weight
        const cg = tg * value[1] * light[1] * weight
        const cb = tb * value[2] * light[2] * weight
        const limit = afterDiffuse ? clampFactor(cr, cg, cb) : 1
        r += cr * limit
        g += cg * limit
        b += cb * limit
      }

      // The next direction.
      s = pair()
      const choice = sobolX(sample, pair())
      if (!surface.sample(lox, loy, loz, choice, sobolX(sample, s), sobolY(sample, s))) break
      const { wix, wiy, wiz } = surface
      dx = tangent[0] * wix + bitangent[0] * wiy + normal[0] * wiz
      dy = tangent[1] * wix + bitangent[1] * wiy + normal[1] * wiz
      dz = tangent[2] * wix + bitangent[2] * wiy + normal[2] * wiz
      const side = dx * gx + dy * gy + dz * gz
      if (side * wiz <= 0) break
      tr *= surface.weight[0]
      tg *= surface.weight[1]
      tb *= surface.weight[2]
      pdf = surface.pdf
      if (surface.transmitted && afterDiffuse && letsLightThrough(material.source)) countedAlready = true
      else if (surface.roughness > 0.35 || surface.metalness + surface.transmission < 0.5) countedAlready = false
      if (surface.transmitted && !p.geometryThinWalled && surface.transmission > 0) {
        const entering = side < 0
        const depth = p.transmissionDepth
        const sigma = (c: number) => (entering && depth > 0 ? -Math.log(Math.max(c, 1e-4)) / depth : 0)
        absorbR = sigma(p.transmissionColor[0])
        absorbG = sigma(p.transmissionColor[1])
        absorbB = sigma(p.transmissionColor[2])
      } else if (!surface.transmitted) seesBackground = false
      if (surface.roughness > 0.35 || surface.metalness + surface.transmission < 0.5) afterDiffuse = true
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

  private readonly emission = new Float64Array(3)

  /** Normal plus tangents along +u and +v of the texture; any tangents where there are no coordinates. */
  private buildFrame(
    t: number,
    nx: number,
    ny: number,
    nz: number,
    e1x: number,
    e1y: number,
    e1z: number,
    e2x: number,
    e2y: number,
    e2z: number,
  ): void {
    const { uvs } = this.scene
    const q = t * 6
    const du1 = uvs[q + 2] - uvs[q]
    const dv1 = uvs[q + 3] - uvs[q + 1]
    const du2 = uvs[q + 4] - uvs[q]
    const dv2 = uvs[q + 5] - uvs[q + 1]
    const det = du1 * dv2 - du2 * dv1
    let tx: number
    let ty: number
    let tz: number
    if (Math.abs(det) > 1e-20) {
      const sign = det < 0 ? -1 : 1
      tx = (e1x * dv2 - e2x * dv1) * sign
      ty = (e1y * dv2 - e2y * dv1) * sign
      tz = (e1z * dv2 - e2z * dv1) * sign
    } else if (Math.abs(nx) > 0.7) {
      tx = 0
      ty = 1
      tz = 0
    } else {
      tx = 1
      ty = 0
      tz = 0
    }
    const d = tx * nx + ty * ny + tz * nz
    tx -= d * nx
    ty -= d * ny
    tz -= d * nz
    let l = Math.sqrt(tx * tx + ty * ty + tz * tz)
    if (!(l > 1e-12)) {
      tx = Math.abs(nx) > 0.7 ? -ny : 0
      ty = Math.abs(nx) > 0.7 ? nx : nz
      tz = Math.abs(nx) > 0.7 ? 0 : -ny
      l = Math.sqrt(tx * tx + ty * ty + tz * tz)
    }
    const { tangent, bitangent, normal } = this
    tangent[0] = tx / l
    tangent[1] = ty / l
    tangent[2] = tz / l
    // v runs down the image, so "up" in a normal map is against it, whatever the winding.
    const alongV = det < 0 ? -1 : 1
    const vx = (e2x * du1 - e1x * du2) * alongV
    const vy = (e2y * du1 - e1y * du2) * alongV
    const vz = (e2z * du1 - e1z * du2) * alongV
    const turned =
      (ny * tangent[2] - nz * tangent[1]) * vx +
      (nz * tangent[0] - nx * tangent[2]) * vy +
      (nx * tangent[1] - ny * tangent[0]) * vz
    const mirrored = turned > 0 ? -1 : 1
    bitangent[0] = (ny * tangent[2] - nz * tangent[1]) * mirrored
    bitangent[1] = (nz * tangent[0] - nx * tangent[2]) * mirrored
    bitangent[2] = (nx * tangent[1] - ny * tangent[0]) * mirrored
    normal[0] = nx
    normal[1] = ny
    normal[2] = nz
    this.mirrored = mirrored
  }
  private mirrored = 1

  /** Reads parameters and textures into the surface, and bends the frame by the normal map. */
  private readSurface(material: SceneMaterial, u: number, v: number, footprint: number): void {
    const { surface, texel, emission } = this
    const p = material.source.parameters
    const { textures } = material
    surface.baseR = p.baseColor[0] * p.baseWeight
    surface.baseG = p.baseColor[1] * p.baseWeight
    surface.baseB = p.baseColor[2] * p.baseWeight
    if (textures.baseColor) {
      this.read(textures.baseColor.texture, u, v, footprint)
      surface.baseR = texel[0] * p.baseWeight
      surface.baseG = texel[1] * p.baseWeight
      surface.baseB = texel[2] * p.baseWeight
    }
    surface.metalness = clampUnit(p.baseMetalness)
    if (textures.baseMetalness) surface.metalness = this.readScalar(textures.baseMetalness, u, v, footprint)
    surface.roughness = clampUnit(p.specularRoughness)
    if (textures.specularRoughness) surface.roughness = this.readScalar(textures.specularRoughness, u, v, footprint)
    surface.specularWeight = clampUnit(p.specularWeight)
    surface.ior = p.specularIor > 1 ? Math.min(p.specularIor, 4) : 1.0001
    surface.transmission = clampUnit(p.transmissionWeight)
    surface.thinWalled = p.geometryThinWalled
    const tinted = p.transmissionDepth > 0 && !p.geometryThinWalled
    surface.transmissionR = tinted ? 1 : p.transmissionColor[0]
    surface.transmissionG = tinted ? 1 : p.transmissionColor[1]
    surface.transmissionB = tinted ? 1 : p.transmissionColor[2]
    surface.translucency = p.geometryThinWalled ? clampUnit(p.subsurfaceWeight) / 2 : 0
    surface.translucencyR = p.subsurfaceColor[0]
    surface.translucencyG = p.subsurfaceColor[1]
    surface.translucencyB = p.subsurfaceColor[2]
    if (textures.transmissionColor) {
      this.read(textures.transmissionColor.texture, u, v, footprint)
      surface.translucencyR = texel[0]
      surface.translucencyG = texel[1]
      surface.translucencyB = texel[2]
    } else if (textures.baseColor && surface.translucency > 0) {
      surface.translucencyR *= surface.baseR
      surface.translucencyG *= surface.baseG
      surface.translucencyB *= surface.baseB
    }
    if (p.emissionLuminance > 0) {
      emission[0] = p.emissionColor[0]
      emission[1] = p.emissionColor[1]
      emission[2] = p.emissionColor[2]
      if (textures.emissionColor) {
        this.read(textures.emissionColor.texture, u, v, footprint)
        for (let k = 0; k < 3; k++) emission[k] *= texel[k]
      }
    }
    if (textures.geometryNormal) {
      this.read(textures.geometryNormal.texture, u, v, footprint)
      const mx = texel[0] * 2 - 1
      const flip = textures.geometryNormal.binding.handedness === 'directX' ? -1 : 1
      const my = (texel[1] * 2 - 1) * flip
      const mz = Math.max(texel[2] * 2 - 1, 0.05)
      this.bend(mx, my, mz)
    }
  }

  private read(texture: Parameters<typeof readTexture>[0], u: number, v: number, footprint: number): void {
    const size = Math.max(texture.levels[0].width, texture.levels[0].height)
    const level = footprint > 0 ? Math.log2(size * footprint) : 0
    readTexture(texture, u, v, level, this.texel)
  }

  private readScalar(
    slot: NonNullable<SceneMaterial['textures']['baseMetalness']>,
    u: number,
    v: number,
    footprint: number,
  ): number {
    this.read(slot.texture, u, v, footprint)
    const value = this.texel[slot.binding.channel]
    return slot.binding.inverted ? 1 - value : value
  }

  /** Turns the frame so that its normal is (mx, my, mz) of the old one. */
  private bend(mx: number, my: number, mz: number): void {
    const { tangent, bitangent, normal } = this
    const l = 1 / Math.sqrt(mx * mx + my * my + mz * mz)
    this.setNormal(
      (tangent[0] * mx + bitangent[0] * my + normal[0] * mz) * l,
      (tangent[1] * mx + bitangent[1] * my + normal[1] * mz) * l,
      (tangent[2] * mx + bitangent[2] * my + normal[2] * mz) * l,
    )
  }

  /** Falls back towards the smooth normal just enough that the viewer is on its front side. */
  private leanTowards(vx: number, vy: number, vz: number, facing: number, nx: number, ny: number, nz: number): void {
    const { normal } = this
    const smooth = (nx * vx + ny * vy + nz * vz) * facing
    let hx = smooth > 0.02 ? nx : normal[0]
    let hy = smooth > 0.02 ? ny : normal[1]
    let hz = smooth > 0.02 ? nz : normal[2]
    const c = (hx * vx + hy * vy + hz * vz) * facing
    if (c < 0.02) {
      const push = (0.03 - c) * facing
      hx += vx * push
      hy += vy * push
      hz += vz * push
      const l = 1 / Math.sqrt(hx * hx + hy * hy + hz * hz)
      hx *= l
      hy *= l
      hz *= l
    }
    this.setNormal(hx, hy, hz)
  }

  private setNormal(nx: number, ny: number, nz: number): void {
    const { tangent, bitangent, normal, mirrored } = this
    const d = tangent[0] * nx + tangent[1] * ny + tangent[2] * nz
    let tx = tangent[0] - d * nx
    let ty = tangent[1] - d * ny
    let tz = tangent[2] - d * nz
    const l = Math.sqrt(tx * tx + ty * ty + tz * tz)
    if (l > 1e-6) {
      tx /= l
      ty /= l
      tz /= l
    }
    tangent[0] = tx
    tangent[1] = ty
    tangent[2] = tz
    bitangent[0] = (ny * tz - nz * ty) * mirrored
    bitangent[1] = (nz * tx - nx * tz) * mirrored
    bitangent[2] = (nx * ty - ny * tx) * mirrored
    normal[0] = nx
    normal[1] = ny
    normal[2] = nz
  }
}

const clampUnit = (v: number): number => (v > 0 ? Math.min(v, 1) : 0)

function clampFactor(r: number, g: number, b: number): number {
  const y = luminance(r, g, b)
  return y > INDIRECT_LIMIT ? INDIRECT_LIMIT / y : 1
}
