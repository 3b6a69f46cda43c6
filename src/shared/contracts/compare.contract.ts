import { z } from 'zod'
import { ITEM_KINDS } from '#core/standard/categories'
import { previewSchema } from './items.contract'

export const comparedSchema = z.object({
  /** As it stands in the address. */
  key: z.string(),
  code: z.string(),
  name: z.string(),
  kind: z.enum(ITEM_KINDS),
  version: z.number(),
  versions: z.array(z.number()),
  rig: z.string(),
  /** Rigs that show items of its kind. */
  rigs: z.array(z.object({ name: z.string(), title: z.string() })),
  /** The picture; null while it is being rendered, which asking for it began. */
  preview: previewSchema.nullable(),
})
export type Compared = z.infer<typeof comparedSchema>

export const PICTURE_FORMATS = ['png', 'webp', 'jpeg', 'pngP3', 'png16', 'tiff16', 'exr', 'hdr'] as const
export const pictureFormatSchema = z.enum(PICTURE_FORMATS)
export type PictureFormat = (typeof PICTURE_FORMATS)[number]
/** Endings of files, and what they are served as. */
export const PICTURE_FILES: Readonly<Record<PictureFormat, { ending: string; mediaType: string }>> = {
  png: { ending: 'png', mediaType: 'image/png' },
  webp: { ending: 'webp', mediaType: 'image/webp' },
  jpeg: { ending: 'jpg', mediaType: 'image/jpeg' },
  pngP3: { ending: 'png', mediaType: 'image/png' },
  png16: { ending: 'png', mediaType: 'image/png' },
  tiff16: { ending: 'tif', mediaType: 'image/tiff' },
  exr: { ending: 'exr', mediaType: 'image/x-exr' },
  hdr: { ending: 'hdr', mediaType: 'image/vnd.radiance' },
}
