import { asDelivered } from '#core/audit/material-print'
import { linearToSrgbByte, SRGB_TO_LINEAR } from '#core/color/srgb'
import { comparePictures } from '#core/compare/compare-pictures'
import { FileError } from '#core/findings/failure'
import type { ByteImage, FloatImage } from '#core/image/image'
import type { OpenPbrMaterial, OpenPbrParameters } from '#core/material/open-pbr'
import { developForDisplay } from '#core/render/film/develop'
import { renderPreview } from '#core/render/pictures/preview'
import { qualityOf, type Rig } from '#core/render/rigs/rig'
import { type ItemSource, loadItem } from '../items/load-item'
import { decodeByteImage } from '../reading/decode-image'
import type { SourceFile } from '../reading/source-file'
import { encodePicture } from '../writing/encode-picture'
import { withScene } from './gather-scene'
import { readSceneMaterials } from './read-scene-parts'
import type { SceneFile } from './scene-file'

export interface AlteredMaterial {
  /** Its number in the scene. */
  index: number
  /** The library's version that it is compared with. */
  source: ItemSource
}

export interface AlteredPictures {
  index: number
  /** As WebP: as it is in the scene, and as the library has it. */
  own: Uint8Array
  library: Uint8Array
  flipMean: number
  deltaE00: number
}

const WIDTH = 320
const TEXTURE_PX = 1024
const SEED = 1

/** Renders materials of a scene on a rig, each beside the library's, and says how far apart they look. */
export const renderAltered = (
  files: readonly SourceFile[],
  altered: readonly AlteredMaterial[],
  rig: Rig,
  onProgress: (share: number) => void = () => {},
): Promise<AlteredPictures[]> =>
  withScene(files, async scene => {
    const materials = await readSceneMaterials(scene)
    const pictures: AlteredPictures[] = []
    for (const [k, { index, source }] of altered.entries()) {
      const { loaded } = await loadItem(source, 'preview', TEXTURE_PX)
      if (loaded.kind !== 'material') continue
      const library = asDelivered(loaded.material)
      const tileSizeM = library.tileSizeM
      const own = await openMaterial(scene, {
        ...materials[index],
        tileSizeM,
        ...(library.tiling ? { tiling: library.tiling } : {}),
      })
      const [ours, theirs] = [render(own, rig), render({ material: library, images: loaded.images }, rig)]
      const { meanFlip, deltaEOfMeans } = comparePictures(theirs, ours)
      const encode = async (image: FloatImage) => new Uint8Array(await encodePicture(developForDisplay(image), 'webp'))
      pictures.push({
        index,
        own: await encode(ours),
        library: await encode(theirs),
        flipMean: meanFlip,
        deltaE00: deltaEOfMeans,
      })
      onProgress((k + 1) / altered.length)
    }
    return pictures
  })

async function openMaterial(
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

function render({ material, images }: { material: OpenPbrMaterial; images: ByteImage[] }, rig: Rig): FloatImage {
  const quality = { ...qualityOf(rig, 'draft'), width: WIDTH }
  // Never null: nothing stops it.
  return renderPreview({ kind: 'material', material, images }, { rig, quality, seed: SEED })!.image
}
