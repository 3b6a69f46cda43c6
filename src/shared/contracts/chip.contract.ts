import { z } from 'zod'
import { ITEM_KINDS } from '#core/standard/categories'

export const STATES = ['draft', 'inReview', 'approved', 'withdrawn'] as const
export type ItemState = (typeof STATES)[number]

export const chipSchema = z.object({
  id: z.number(),
  code: z.string(),
  name: z.string(),
  kind: z.enum(ITEM_KINDS),
  category: z.string(),
  state: z.enum(STATES),
  library: z.string(),
  /** The one fact that matters for its kind, with its unit. */
  figure: z.string(),
  /** Address of the picture; null while it is being rendered. */
  preview: z.string().nullable(),
  /** The picture is of an older rig or renderer; the new one is on its way. */
  isOlderPreview: z.boolean(),
  /** The picture is somebody's own, not the rig's. */
  isOwnPicture: z.boolean(),
  /** Colours of the asker's own dots on it. */
  dots: z.array(z.number()).default([]),
})
export type Chip = z.infer<typeof chipSchema>
