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

export const PICTURE_FORMATS = ['png', 'webp', 'jpeg', 'exr', 'hdr'] as const
export const pictureFormatSchema = z.enum(PICTURE_FORMATS)
export type PictureFormat = (typeof PICTURE_FORMATS)[number]
