import type { SceneMaterial } from './scene'
import type { ShadingFrame } from './shading-frame'
import type { Surface } from './surface'
import { readTexture } from './texture'

/** Turns a material at a place into what scatters there: parameters, textures at the right size, the normal map's bend. */
export class SurfaceReader {
  private readonly texel = new Float64Array(4)
  /** Emission colour of the last place read; only written where there is any. */
  readonly emission = new Float64Array(3)

  constructor(
    private readonly surface: Surface,
    private readonly frame: ShadingFrame,
  ) {}

  /** Reads parameters and textures into the surface, and bends the frame by the normal map. */
  read(material: SceneMaterial, u: number, v: number, footprint: number): void {
    const { surface, texel, emission } = this
    const p = material.source.parameters
    const { textures } = material
    surface.baseR = p.baseColor[0] * p.baseWeight
    surface.baseG = p.baseColor[1] * p.baseWeight
    surface.baseB = p.baseColor[2] * p.baseWeight
    if (textures.baseColor) {
      this.look(textures.baseColor.texture, u, v, footprint)
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
      this.look(textures.transmissionColor.texture, u, v, footprint)
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
        this.look(textures.emissionColor.texture, u, v, footprint)
        for (let k = 0; k < 3; k++) emission[k] *= texel[k]
      }
    }
    if (textures.geometryNormal) {
      this.look(textures.geometryNormal.texture, u, v, footprint)
      const mx = texel[0] * 2 - 1
      const flip = textures.geometryNormal.binding.handedness === 'directX' ? -1 : 1
      const my = (texel[1] * 2 - 1) * flip
      const mz = Math.max(texel[2] * 2 - 1, 0.05)
      this.frame.bend(mx, my, mz)
    }
  }

  private look(texture: Parameters<typeof readTexture>[0], u: number, v: number, footprint: number): void {
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
    this.look(slot.texture, u, v, footprint)
    const value = this.texel[slot.binding.channel]
    return slot.binding.inverted ? 1 - value : value
  }
}

const clampUnit = (v: number): number => (v > 0 ? Math.min(v, 1) : 0)
