import { FileError } from '#core/findings/failure'
import type { Image } from '#core/image/image'
import type { OpenPbrParameters } from '#core/material/open-pbr'
import { type MaterialShift, shiftColors, shiftNormals, shiftParameters, shiftValues } from '#core/material/shift'
import type { ItemSource } from '../items/item-source'
import { loadItem } from '../items/load-item'
import { decodeFullDepth, MAX_SIDE } from '../reading/decode-image'
import { encodeMap } from '../writing/encode-map'
import type { DerivedFile } from './apply-fixes'

/**
 * A material's files and constants, shifted as a whole: maps at full size and depth, what no map says as constants.
 * @throws FileError for what is no material, or where a map does not read
 */
export async function shiftItem(
  source: ItemSource,
  shift: MaterialShift,
): Promise<{ files: DerivedFile[]; constants: Partial<OpenPbrParameters> }> {
  const { loaded } = await loadItem(source, 'preview', OUTLINE_PX)
  if (loaded.kind !== 'material') throw new FileError('unsupported', 'Only a material can be adjusted so.')
  const { textures } = loaded.material
  const { parameters } = shiftParameters(loaded.material, shift)
  const files: DerivedFile[] = []
  for (const { file, role, handednessHint } of source.files) {
    const alter = alterationOf(role, source, shift)
    if (!alter) continue
    const image = alter(await decodeFullDepth(file.diskPath, MAX_SIDE))
    const path = file.path.replace(/\.[^./]+$/, '.png')
    files.push({ from: file.path, path, role, handednessHint, bytes: await encodeMap(image, 'png', null) })
  }
  return {
    files,
    constants: {
      ...source.constants,
      ...(textures.baseColor || shift.tint.every(v => v === 1) ? {} : { baseColor: parameters.baseColor }),
      ...(textures.specularRoughness || shift.roughness === 1 ? {} : { specularRoughness: parameters.specularRoughness }),
    },
  }
}

/** Only to see which maps say what. */
const OUTLINE_PX = 64

/** What becomes of a map; null where it stays. */
function alterationOf(role: string, { files }: ItemSource, { tint, roughness, relief }: MaterialShift) {
  const has = (other: string) => files.some(f => f.role === other)
  switch (role) {
    case 'baseColor':
      return tint.some(v => v !== 1) ? (image: Image) => shiftColors(image, tint) : null
    case 'roughness':
      return roughness !== 1 ? (image: Image) => shiftValues(image, roughness) : null
    case 'gloss':
      return roughness !== 1 && !has('roughness') ? (image: Image) => shiftValues(image, roughness, 0, true) : null
    case 'orm':
      return roughness !== 1 && !has('roughness') && !has('gloss') ? (image: Image) => shiftValues(image, roughness, 1) : null
    case 'normal':
      return relief !== 1 ? (image: Image) => shiftNormals(image, relief) : null
    default:
      return null
  }
}
