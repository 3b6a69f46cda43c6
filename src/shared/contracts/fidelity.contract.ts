import { z } from 'zod'
import { TARGETS } from '#core/standard/target-names'

/** FLIP over which a target is said to lose the look of a material. */
export const HOUSE_FLIP_LIMIT = 0.05

export const targetFidelitySchema = z.object({
  target: z.enum(TARGETS),
  /** Names of parameters and textures that do not come through. */
  lost: z.array(z.string()),
  meanFlip: z.number(),
  p95Flip: z.number(),
  deltaE: z.number(),
  original: z.string(),
  picture: z.string(),
})
export type TargetFidelityView = z.infer<typeof targetFidelitySchema>

export const fidelityQuerySchema = z.object({
  category: z
    .string()
    .regex(/^[a-zA-Z0-9_.]*$/)
    .default(''),
  target: z.enum(['', ...TARGETS]).default(''),
  state: z.enum(['', 'draft', 'inReview', 'approved', 'withdrawn']).default('approved'),
  /** Only what loses more than this. */
  over: z.coerce.number().min(0).max(1).default(HOUSE_FLIP_LIMIT),
})
export type FidelityQuery = z.infer<typeof fidelityQuerySchema>

export const fidelityListSchema = z.object({
  rows: z.array(targetFidelitySchema.extend({ itemId: z.number(), code: z.string(), name: z.string(), category: z.string() })),
  /** Materials of the view that were measured, and that were not. */
  measured: z.number(),
  unmeasured: z.number(),
})
export type FidelityList = z.infer<typeof fidelityListSchema>
