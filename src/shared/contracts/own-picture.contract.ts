import { z } from 'zod'
import { PICTURE_FAULTS } from '#core/compare/audit-picture'

/** A picture that somebody set in the place of the rig's. */
export const ownPictureSchema = z.object({
  id: z.number(),
  state: z.enum(['reducing', 'ready', 'refused']),
  /** Why it was refused. */
  reason: z.string().nullable(),
  /** Address of the reduced picture; null until it is ready. */
  url: z.string().nullable(),
  fileName: z.string(),
  width: z.number().nullable(),
  height: z.number().nullable(),
  originalWidth: z.number().nullable(),
  originalHeight: z.number().nullable(),
  /** 100 for a picture as a rig would make it, less for each fault. */
  score: z.number().nullable(),
  faults: z.array(z.enum(PICTURE_FAULTS)),
  by: z.string(),
  at: z.string(),
})
export type OwnPicture = z.infer<typeof ownPictureSchema>

/** All that are shown, the worst first. */
export const ownPictureListSchema = z.array(
  ownPictureSchema.extend({ code: z.string(), name: z.string(), rigPicture: z.string().nullable() }),
)
export type OwnPictureList = z.infer<typeof ownPictureListSchema>

export const setOwnPicturesSchema = z.object({
  ids: z.array(z.number().int().positive()).min(1).max(1000),
  isDropped: z.boolean(),
})
export type SetOwnPictures = z.infer<typeof setOwnPicturesSchema>
