import { z } from 'zod'
import { TARGETS } from '#core/standard/target-names'
import { MOST_WORDS_IN_LINE } from '#core/standard/word-lines'

const positive = z.number().positive()

const factName = z.string().regex(/^[a-zA-Z][a-zA-Z0-9]*$/, 'A fact is one word, such as maker.')
const factRangeSchema = z.object({ fact: factName, low: z.number().nullable(), high: z.number().nullable() })
const tagWord = z
  .string()
  .trim()
  .min(1)
  .max(40)
  .regex(/^[^,=]+$/, 'A tag has no comma and no equals sign.')
const tagSchema = z.object({ word: tagWord, synonyms: z.array(tagWord).max(30) })

export const categoryRulesSchema = z.object({
  requiredFacts: z.array(factName).max(20).nullable(),
  namePattern: z.string().max(200).nullable(),
  expectedSizeM: z.tuple([positive, positive]).nullable(),
  triangleBudget: positive.int().max(50_000_000).nullable(),
  mapBudgetPx: positive.int().max(16384).nullable(),
  mapPacking: z.enum(['apart', 'packed']).nullable().default(null),
  factRanges: z.array(factRangeSchema).max(30).nullable().default(null),
  tags: z.array(tagSchema).max(300).nullable().default(null),
  targets: z.array(z.enum(TARGETS)).nullable().default(null),
})

/** What keeps a thing from being on standard. */
export const verdictSchema = z.object({
  missingFacts: z.array(z.string()),
  /** The name that the house pattern gives it, where it is another. */
  proposedName: z.string().nullable(),
  outOfRange: z.array(factRangeSchema.extend({ value: z.number() })),
  /** Its tags in the house's words, where they are others. */
  proposedTags: z.string().nullable(),
  strangeTags: z.array(z.string()),
})
export type Verdict = z.infer<typeof verdictSchema>

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
const ruleFields = {
  words: z.string().trim().max(100).default(''),
  fact: z.string().trim().max(40).default(''),
  is: z.enum(['equal', 'below', 'above']).default('equal'),
  value: z.string().trim().max(100).default(''),
}
/** Which items of a category are meant: found by all these words, and with a fact that is so. */
export const splitRuleSchema = z
  .object(ruleFields)
  .refine(r => r.words !== '' || (r.fact !== '' && r.value !== ''), 'Say by which words or by which fact they are told.')
export const splitQuerySchema = z.object({ path: z.string().min(1), ...ruleFields })
export type SplitRule = z.infer<typeof splitRuleSchema>
export type SplitRuleInput = z.input<typeof splitRuleSchema>

/**
 * split: those items of the category that a rule means become a category in it; merge: all of it goes into another, and its address too;
 * move: it goes with everything in it into another category, its codes and its rules as they are.
 */
export const changeTreeSchema = z.discriminatedUnion('action', [
  z.object({ action: z.literal('rename'), path: z.string().min(1), title: treeTitle }),
  z.object({ action: z.literal('add'), path: z.string().min(1), title: treeTitle, prefix: treePrefix }),
  z.object({
    action: z.literal('split'),
    path: z.string().min(1),
    title: treeTitle,
    prefix: treePrefix,
    rule: splitRuleSchema,
  }),
  z.object({ action: z.literal('move'), path: z.string().min(1), into: z.string().min(1) }),
  z.object({ action: z.literal('merge'), path: z.string().min(1), into: z.string().min(1) }),
])
export type ChangeTree = z.infer<typeof changeTreeSchema>

export const offStandardSchema = verdictSchema.extend({
  id: z.number(),
  code: z.string(),
  name: z.string(),
  category: z.string(),
})
export type OffStandard = z.infer<typeof offStandardSchema>

/** Items whose facts or names are given in one request. */
export const MOST_GIVEN = 2000
export const renameItemsSchema = z.object({
  names: z
    .array(z.object({ id: z.number().int(), name: z.string().trim().min(1).max(120) }))
    .min(1)
    .max(MOST_GIVEN),
})
export type RenameItems = z.infer<typeof renameItemsSchema>

export const wordLineSchema = z.object({
  key: z.string(),
  words: z.array(z.string()).readonly(),
  isUse: z.boolean(),
  origin: z.enum(['shipped', 'changed', 'own']),
})

/** A line by its key, or a new one by none. No words take it out. What it says is asked of the house's own lines alone; left out, it stays. */
export const setWordLineSchema = z.object({
  key: z.string().max(80),
  words: z.array(z.string().trim().min(1).max(60)).max(MOST_WORDS_IN_LINE),
  isUse: z.boolean().optional(),
})
export type SetWordLine = z.infer<typeof setWordLineSchema>
export const wordLineSetSchema = z.object({ key: z.string(), before: z.array(z.string()) })
export type WordLineSet = z.infer<typeof wordLineSetSchema>
