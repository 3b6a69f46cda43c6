import { z } from 'zod'

/** As many as stand on one family wall. */
export const FAMILY_LIMIT = 600

export const familyQuerySchema = z.object({
  words: z.string().max(200).default(''),
  category: z
    .string()
    .regex(/^[a-zA-Z0-9_.]*$/)
    .default(''),
})
export type FamilyQuery = z.infer<typeof familyQuerySchema>

export const familySchema = z.object({
  members: z.array(
    z.object({
      id: z.number(),
      code: z.string(),
      name: z.string(),
      preview: z.string().nullable(),
      /** Mean base colour as #rrggbb, measured from its map or given; null when neither is known. */
      color: z.string().nullable(),
      roughness: z.number().nullable(),
    }),
  ),
  total: z.number(),
})
export type Family = z.infer<typeof familySchema>
