import type { Document, Material, Texture } from '@gltf-transform/core'
import { type Clearcoat, KHRMaterialsClearcoat } from '@gltf-transform/extensions'
import sharp, { type Sharp } from 'sharp'
import { deltaE00 } from '#core/color/difference'
import type { Random } from '#core/math/random'
import type { Vec3 } from '#core/math/vec3'

/** What programs on the way do to pictures without anybody having meant it: it is no alteration. */
export async function passOn(material: Material, random: Random): Promise<void> {
  for (const texture of texturesOf(material)) {
    const image = texture.getImage()
    if (!image) continue
    let pipeline = sharp(image)
    const { width = 512 } = await sharp(image).metadata()
    if (random.next() < 0.4) pipeline = pipeline.resize(Math.round(width * random.between(0.4, 0.8)))
    const isNormal = texture === material.getNormalTexture()
    const quality = Math.round(random.between(isNormal ? 88 : 80, 95))
    texture
      .setImage(new Uint8Array(await pipeline.jpeg({ quality, chromaSubsampling: '4:4:4' }).toBuffer()))
      .setMimeType('image/jpeg')
  }
}

const texturesOf = (material: Material): Texture[] =>
  [material.getBaseColorTexture(), material.getMetallicRoughnessTexture(), material.getNormalTexture()].filter(t => t !== null)

type Alter = (document: Document, material: Material, random: Random) => Promise<boolean> | boolean

const edit = async (texture: Texture | null, change: (image: Sharp) => Sharp): Promise<boolean> => {
  const image = texture?.getImage()
  if (!texture || !image) return false
  texture.setImage(new Uint8Array(await change(sharp(image)).png().toBuffer())).setMimeType('image/png')
  return true
}

/** Whether a normal map says enough for a change of it to be seen: some of its slopes are more than one in fifty. */
async function hasRelief(material: Material): Promise<boolean> {
  const image = material.getNormalTexture()?.getImage()
  if (!image) return false
  const { channels } = await sharp(image).stats()
  return Math.max(channels[0].stdev, channels[1].stdev) > 255 / 2 / 50
}

const sign = (random: Random): number => (random.next() < 0.5 ? -1 : 1)

/** Mean of a picture in linear light. */
async function meanOf(texture: Texture | null): Promise<Vec3> {
  const image = texture?.getImage()
  if (!image) return [1, 1, 1]
  const { channels } = await sharp(image).gamma(2.2, 1).stats()
  return channels.slice(0, 3).map(c => c.mean / 255) as Vec3
}

/** What somebody may have done to a material in a project, by its name; each says whether it could be done here. */
export const ALTERATIONS: Readonly<Record<string, Alter>> = {
  tint: async (_, material, random) => {
    const [r, g, b, a] = material.getBaseColorFactor()
    const mean = await meanOf(material.getBaseColorTexture())
    const wanted = random.between(1.6, 7)
    // As far as wanted, in steps.
    for (let k = 0.01; k < 0.9; k += 0.005) {
      const to = [r * (1 - k), g * (1 - k * 0.7), b * (1 - k * 0.4)]
      if (deltaE00([r * mean[0], g * mean[1], b * mean[2]], to.map((v, c) => v * mean[c]) as Vec3) < wanted) continue
      material.setBaseColorFactor([to[0], to[1], to[2], a])
      return true
    }
    return false
  },
  roughness: (_, material, random) => {
    const before = material.getRoughnessFactor()
    const after = Math.min(1, Math.max(0.02, before + sign(random) * random.between(0.06, 0.3)))
    material.setRoughnessFactor(after === before ? before * 0.85 : after)
    return true
  },
  hue: (_, material, random) =>
    edit(material.getBaseColorTexture(), i => i.modulate({ hue: Math.round(random.between(25, 90)) })),
  brightness: (_, material, random) =>
    edit(material.getBaseColorTexture(), i => i.linear(1 + sign(random) * random.between(0.06, 0.25), 0)),
  blur: async (_, material) => {
    const image = material.getBaseColorTexture()?.getImage()
    if (!image) return false
    const { width = 512 } = await sharp(image).metadata()
    const sigma = (width / 512) * 4
    const [sharpBytes, softBytes] = await Promise.all([sharp(image).raw().toBuffer(), sharp(image).blur(sigma).raw().toBuffer()])
    const off = Math.sqrt(sharpBytes.reduce((sum, v, i) => sum + (v - softBytes[i]) ** 2, 0) / sharpBytes.length)
    // What is soft already shows no blur.
    return off > 4 && edit(material.getBaseColorTexture(), i => i.blur(sigma))
  },
  strength: async (_, material, random) =>
    (await hasRelief(material)) &&
    edit(material.getNormalTexture(), i => {
      const gain = random.between(1.4, 2)
      return i.removeAlpha().linear([gain, gain, 1], [127.5 * (1 - gain), 127.5 * (1 - gain), 0])
    }),
  green: async (_, material) =>
    (await hasRelief(material)) && edit(material.getNormalTexture(), i => i.removeAlpha().linear([1, -1, 1], [0, 255, 0])),
  coat: (document, material) => {
    if (material.getExtension<Clearcoat>('KHR_materials_clearcoat')) return false
    material.setExtension(
      'KHR_materials_clearcoat',
      document.createExtension(KHRMaterialsClearcoat).createClearcoat().setClearcoatFactor(0.8).setClearcoatRoughnessFactor(0.1),
    )
    return true
  },
  noNormals: async (_, material) => {
    if (!(await hasRelief(material))) return false
    material.setNormalTexture(null)
    return true
  },
}
