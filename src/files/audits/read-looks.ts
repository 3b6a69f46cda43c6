import sharp from 'sharp'
import { linearToSrgbByte, toHex } from '#core/color/srgb'
import { writeLookText } from '#core/find/looks/look-text'
import type { ByteImage } from '#core/image/image'
import { appearanceOfPicture } from '#core/material/appearance'
import { computePalette } from '#core/material/palette'
import { readSceneMaterials } from './read-scene-parts'
import type { SceneFile } from './scene-file'

/** Enough to see colours and a pattern by. */
const LOOK_SIZE = 512
const COLORS = 5
const FLAT_SIZE = 64

export interface SceneLook {
  text: string
  /** What most of it has, #rrggbb. */
  color: string
  /** Nothing but a colour: it has no pattern to be alike in. */
  isPlain: boolean
}

/** What materials of a scene look like, as texts to search a library by, by their numbers; a plain one is its colour. */
export async function readLooks(scene: SceneFile, indices: readonly number[]): Promise<Record<number, SceneLook>> {
  const materials = await readSceneMaterials(scene)
  const looks: Record<number, SceneLook> = {}
  for (const index of indices) {
    const { textures, parameters } = materials[index]
    const drawn = textures.baseColor ? await readPicture(scene, textures.baseColor.image) : null
    const picture = drawn ?? flat(parameters.baseColor.map(linearToSrgbByte))
    const palette = computePalette(picture, COLORS)
    looks[index] = {
      text: writeLookText(palette, appearanceOfPicture(picture)),
      color: toHex(palette[0]?.color ?? [0, 0, 0]),
      isPlain: drawn === null,
    }
  }
  return looks
}

async function readPicture(scene: SceneFile, image: number): Promise<ByteImage | null> {
  const bytes = await scene.readImage(image)
  if (!bytes) return null
  try {
    const { data, info } = await sharp(bytes)
      .resize(LOOK_SIZE, LOOK_SIZE, { fit: 'inside', withoutEnlargement: true })
      .removeAlpha()
      .toColourspace('srgb')
      .raw({ depth: 'uchar' })
      .toBuffer({ resolveWithObject: true })
    return { width: info.width, height: info.height, channels: info.channels, data: new Uint8Array(data) }
  } catch {
    // It was told as missing already.
    return null
  }
}

function flat(color: readonly number[]): ByteImage {
  const data = new Uint8Array(FLAT_SIZE * FLAT_SIZE * 3)
  for (let i = 0; i < data.length; i++) data[i] = color[i % 3]
  return { width: FLAT_SIZE, height: FLAT_SIZE, channels: 3, data }
}
