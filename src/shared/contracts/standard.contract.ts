import { z } from 'zod'

const positive = z.number().positive()

export const categoryRulesSchema = z.object({
  requiredFacts: z
    .array(z.string().regex(/^[a-zA-Z][a-zA-Z0-9]*$/, 'A fact is one word, such as maker.'))
    .max(20)
    .nullable(),
  namePattern: z.string().max(200).nullable(),
  expectedSizeM: z.tuple([positive, positive]).nullable(),
  triangleBudget: positive.int().max(50_000_000).nullable(),
  mapBudgetPx: positive.int().max(16384).nullable(),
})

export const standardRulesSchema = z.object({
  path: z.string(),
  /** Its own; null where the category above decides. */
  own: categoryRulesSchema,
  /** What holds here. */
  resolved: categoryRulesSchema,
  isShipped: z.boolean(),
})
export type StandardRules = z.infer<typeof standardRulesSchema>

export const setRulesSchema = z.object({ path: z.string().min(1), rules: categoryRulesSchema })
export type SetRules = z.infer<typeof setRulesSchema>

export const offStandardSchema = z.object({
  id: z.number(),
  code: z.string(),
  name: z.string(),
  category: z.string(),
  missingFacts: z.array(z.string()),
  proposedName: z.string().nullable(),
})
export type OffStandard = z.infer<typeof offStandardSchema>

export const renameItemsSchema = z.object({
  names: z
    .array(z.object({ id: z.number().int(), name: z.string().trim().min(1).max(120) }))
    .min(1)
    .max(2000),
})
export type RenameItems = z.infer<typeof renameItemsSchema>
