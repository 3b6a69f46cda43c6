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

const treeTitle = z.string().trim().min(1, 'A category needs a title.').max(60)
const treePrefix = z
  .string()
  .trim()
  .toUpperCase()
  .regex(/^[A-Z]{3}$/, 'A prefix has three letters, such as TIM.')
/** split: those items of the category whose words match become a category in it; merge: all of it goes into another, and its address too. */
export const changeTreeSchema = z.discriminatedUnion('action', [
  z.object({ action: z.literal('rename'), path: z.string().min(1), title: treeTitle }),
  z.object({ action: z.literal('add'), path: z.string().min(1), title: treeTitle, prefix: treePrefix }),
  z.object({
    action: z.literal('split'),
    path: z.string().min(1),
    title: treeTitle,
    prefix: treePrefix,
    words: z.string().trim().min(1).max(100),
  }),
  z.object({ action: z.literal('merge'), path: z.string().min(1), into: z.string().min(1) }),
])
export type ChangeTree = z.infer<typeof changeTreeSchema>

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
