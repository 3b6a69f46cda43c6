import { join } from 'node:path'
import { HOUSE_RIGS } from '#core/render/rigs/house-rigs'
import type { ItemKind } from '#core/standard/categories'
import { previewItem } from '#files/items/preview-item'
import { sourceFileAt } from '#files/reading/source-file'
import { recognizeDelivery } from '#files/recognition/recognize-delivery'
import { encodePicture } from '#files/writing/encode-picture'

const WIDTH_PX = 240
const RIGS = {
  material: HOUSE_RIGS['material-stage'],
  model: HOUSE_RIGS['model-three-quarter'],
  environment: HOUSE_RIGS['environment-strip'],
  light: HOUSE_RIGS['light-bay'],
  map: HOUSE_RIGS['map-sheet'],
} as const

/** The supplier's own small picture of one thing they offer, as WebP; null where its files show nothing. */
export async function takePicture(
  folder: string,
  paths: readonly string[],
  { kind, widthMm }: { kind: ItemKind; widthMm: number | null },
): Promise<Uint8Array | null> {
  const { items } = await recognizeDelivery(await Promise.all(paths.map(path => sourceFileAt(join(folder, path), path))))
  const item = items.find(i => i.kind === kind)
  if (!item) return null
  const made = await previewItem({ ...item, widthMm, constants: {} }, RIGS[kind], 'draft', { width: WIDTH_PX })
  return made && encodePicture(made.picture, 'webp', { description: 'Display-encoded: sRGB' })
}
