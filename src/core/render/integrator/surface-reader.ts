import { reliefOf } from '../../material/open-pbr'
import type { SceneMaterial, TextureRead } from '../scene/scene'
import { readTexture } from '../scene/texture'
import type { Surface } from '../surface/surface'
import type { ShadingFrame } from './shading-frame'

/** Turns a material at a place into what scatters there: parameters, textures at the right size, the bend of a normal or height map. */
export class SurfaceReader {
  private readonly texel = new Float64Array(4)
  /** Emission colour of the last place read; only written where there is any. */
  readonly emission = new Float64Array(3)

  constructor(
    private readonly surface: Surface,
    private readonly frame: ShadingFrame,
  ) {}

  /** Reads parameters and textures into the surface, and bends and turns the frame. */
  read(material: SceneMaterial, u: number, v: number, footprint: number): void {
    const { texel } = this
    const { live: p, source, colors } = material
    for (const read of colors) {
      this.look(read, u, v, footprint)
      const dst = p[read.name]
      for (let k = 0; k < 3; k++) dst[k] = texel[k]
    }
    for (const read of material.scalars) {
      this.look(read, u, v, footprint)
      const value = texel[read.binding.channel]
      p[read.name] = read.binding.inverted ? 1 - value : value
    }
    this.setSurface(material)
    if (p.emissionLuminance > 0) {
      const { emission } = this
      // A map of light is tinted by the constant rather than put in its place, as emitters are written elsewhere.
      const tint = colors.some(isEmission) ? source.parameters.emissionColor : WHITE
      for (let k = 0; k < 3; k++) emission[k] = p.emissionColor[k] * tint[k]
    }
    if (material.normal) {
      this.look(material.normal, u, v, footprint)
      const flip = material.normal.binding.handedness === 'directX' ? -1 : 1
      this.frame.bend(texel[0] * 2 - 1, (texel[1] * 2 - 1) * flip, Math.max(texel[2] * 2 - 1, 0.05))
    } else if (material.height) this.bendByHeight(material, material.height, u, v, footprint)
    if (p.geometryTangentRotation !== 0) this.frame.turn(p.geometryTangentRotation * 2 * Math.PI)
  }

  private setSurface({ live: p, colors }: SceneMaterial): void {
    const { surface } = this
    surface.baseR = p.baseColor[0] * p.baseWeight
    surface.baseG = p.baseColor[1] * p.baseWeight
    surface.baseB = p.baseColor[2] * p.baseWeight
    surface.diffuseRoughness = clampUnit(p.baseDiffuseRoughness)
    surface.metalness = clampUnit(p.baseMetalness)
    surface.roughness = clampUnit(p.specularRoughness)
    surface.anisotropy = Math.min(clampUnit(p.specularRoughnessAnisotropy), 0.98)
    surface.specularWeight = clampUnit(p.specularWeight)
    surface.specularR = p.specularColor[0]
    surface.specularG = p.specularColor[1]
    surface.specularB = p.specularColor[2]
    surface.ior = clampIor(p.specularIor)
    surface.transmission = clampUnit(p.transmissionWeight)
    surface.thinWalled = p.geometryThinWalled
    const tinted = p.transmissionDepth > 0 && !p.geometryThinWalled
    surface.transmissionR = tinted ? 1 : p.transmissionColor[0]
    surface.transmissionG = tinted ? 1 : p.transmissionColor[1]
    surface.transmissionB = tinted ? 1 : p.transmissionColor[2]
    const beneath = clampUnit(p.subsurfaceWeight)
    surface.translucency = p.geometryThinWalled ? beneath / 2 : 0
    surface.subsurface = p.geometryThinWalled ? 0 : beneath
    surface.subsurfaceR = surface.translucencyR = p.subsurfaceColor[0]
    surface.subsurfaceG = surface.translucencyG = p.subsurfaceColor[1]
    surface.subsurfaceB = surface.translucencyB = p.subsurfaceColor[2]
    if (surface.translucency > 0 && colors.length > 0 && !colors.some(isSubsurface)) {
      // A leaf that has only one picture of itself lets through what that picture shows.
      surface.translucencyR *= surface.baseR
      surface.translucencyG *= surface.baseG
      surface.translucencyB *= surface.baseB
    }
    surface.walksBeneath = surface.subsurface > 0 && p.subsurfaceRadius > 0
    surface.dispersedIor = 0
    surface.hue.fill(1)
    surface.coatWeight = clampUnit(p.coatWeight)
    surface.coatR = p.coatColor[0]
    surface.coatG = p.coatColor[1]
    surface.coatB = p.coatColor[2]
    surface.coatRoughness = clampUnit(p.coatRoughness)
    surface.coatIor = clampIor(p.coatIor)
    surface.coatDarkening = clampUnit(p.coatDarkening)
    surface.fuzzWeight = clampUnit(p.fuzzWeight)
    surface.fuzzR = p.fuzzColor[0]
    surface.fuzzG = p.fuzzColor[1]
    surface.fuzzB = p.fuzzColor[2]
    surface.fuzzRoughness = clampUnit(p.fuzzRoughness)
    surface.filmWeight = clampUnit(p.thinFilmWeight)
    surface.filmThickness = p.thinFilmThickness
    surface.filmIor = clampIor(p.thinFilmIor)
  }

  /** Blinn 1978: the normal leans against the slope of the heights, measured over one footprint. */
  private bendByHeight(material: SceneMaterial, read: TextureRead, u: number, v: number, footprint: number): void {
    const { levels } = read.texture
    const step = Math.max(footprint, 1 / Math.max(levels[0].width, levels[0].height))
    const tile = material.source.tileSizeM ?? [1, 1]
    const relief = reliefOf(material.source)
    const channel = read.binding.channel
    const at = (x: number, y: number): number => {
      this.look(read, x, y, footprint)
      return this.texel[channel]
    }
    const alongU = ((at(u + step / 2, v) - at(u - step / 2, v)) / step) * (relief / tile[0])
    const alongV = ((at(u, v + step / 2) - at(u, v - step / 2)) / step) * (relief / tile[1])
    // v runs down the picture, the frame's second axis up it.
    this.frame.bend(-alongU, alongV, 1)
  }

  private look({ texture }: TextureRead, u: number, v: number, footprint: number): void {
    const size = Math.max(texture.image.width, texture.image.height)
    const level = footprint > 0 ? Math.log2(size * footprint) : 0
    readTexture(texture, u, v, level, this.texel)
  }
}

const WHITE = [1, 1, 1]
const isEmission = (read: { name: string }): boolean => read.name === 'emissionColor'
const isSubsurface = (read: { name: string }): boolean => read.name === 'subsurfaceColor'
const clampUnit = (v: number): number => (v > 0 ? Math.min(v, 1) : 0)
const clampIor = (v: number): number => (v > 1 ? Math.min(v, 4) : 1.0001)
