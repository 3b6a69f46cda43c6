import { linearToSrgbByte, SRGB_TO_LINEAR } from '#core/color/srgb'
import { FileError } from '#core/findings/failure'
import type { ByteImage, FloatImage } from '#core/image/image'
import type { OpenPbrMaterial, OpenPbrParameters } from '#core/material/open-pbr'
import { renderPreview } from '#core/render/pictures/preview'
import { qualityOf, type Rig } from '#core/render/rigs/rig'
import { decodeByteImage } from '../reading/decode-image'
import type { SceneFile } from './scene-file'

const WIDTH = 320
export const TEXTURE_PX = 1024
const SEED = 1

/** A material of a scene with its pictures, as it is rendered. */
export async function openSceneMaterial(
  scene: SceneFile,
  material: OpenPbrMaterial,
): Promise<{ material: OpenPbrMaterial; images: ByteImage[] }> {
  const images: ByteImage[] = []
  const numbers = new Map<number, number>()
  const textures: OpenPbrMaterial['textures'] = {}
  for (const [slot, binding] of Object.entries(material.textures) as [keyof typeof textures, { image: number; channel: 0 }][]) {
    const known = numbers.get(binding.image)
    if (known === undefined) {
      const bytes = await scene.readImage(binding.image)
      const image = bytes ? await decodeByteImage(bytes, TEXTURE_PX).catch(ignoreFileError) : null
      if (!image) continue
      numbers.set(binding.image, images.push(image) - 1)
    }
    textures[slot] = { ...binding, image: numbers.get(binding.image)! }
  }
  return { material: { ...material, textures }, images: workFactorsIn(material.parameters, textures, images) }
}

/** A parameter multiplies its map in a scene; here a map stands in the place of its parameter, so it has to hold both. */
function workFactorsIn(
  { baseColor, specularRoughness, baseMetalness }: OpenPbrParameters,
  textures: OpenPbrMaterial['textures'],
  images: readonly ByteImage[],
): ByteImage[] {
  const worked = images.map(image => ({ ...image, data: image.data.slice() }))
  const color = textures.baseColor && worked[textures.baseColor.image]
  if (color && color.channels >= 3)
    for (let c = 0; c < 3; c++) {
      const table = Uint8Array.from(SRGB_TO_LINEAR, v => linearToSrgbByte(v * baseColor[c]))
      for (let i = c; i < color.data.length; i += color.channels) color.data[i] = table[color.data[i]]
    }
  for (const [slot, factor] of [
    ['specularRoughness', specularRoughness],
    ['baseMetalness', baseMetalness],
  ] as const) {
    const binding = textures[slot]
    if (!binding || factor === 1) continue
    const { channels, data } = worked[binding.image]
    for (let i = Math.min(binding.channel, channels - 1); i < data.length; i += channels) data[i] = Math.round(data[i] * factor)
  }
  return worked
}

function ignoreFileError(error: unknown): null {
  if (error instanceof FileError) return null
  throw error
}

export function renderOnRig({ material, images }: { material: OpenPbrMaterial; images: ByteImage[] }, rig: Rig): FloatImage {
  const quality = { ...qualityOf(rig, 'draft'), width: WIDTH }
  // Never null: nothing stops it.
  return renderPreview({ kind: 'material', material, images }, { rig, quality, seed: SEED })!.image
}
