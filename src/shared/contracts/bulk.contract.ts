import { z } from 'zod'
import { STATES } from './chip.contract'
import { dotColorSchema, MOST_TRAY_ITEMS } from './personal.contract'

export const MOST_BULK_ITEMS = 50_000

/** What is done to many items at once. */
export const bulkActionSchema = z.discriminatedUnion('do', [
  z.object({ do: z.literal('state'), state: z.enum(STATES) }),
  z.object({ do: z.literal('category'), category: z.string().min(1) }),
  /** Moved with all their versions. */
  z.object({ do: z.literal('library'), library: z.string().min(1).max(60) }),
  /** A fact that people give; null takes it away. */
  z.object({
    do: z.literal('fact'),
    fact: z.string().regex(/^[a-zA-Z][a-zA-Z0-9]*$/),
    value: z.string().trim().max(200).nullable(),
  }),
  /** Words into, or out of, a list that items have: their tags, or rooms and uses. */
  z.object({
    do: z.literal('words'),
    list: z.enum(['tags', 'uses']),
    add: z.array(z.string().trim().min(1).max(40)).max(20),
    remove: z.array(z.string().trim().min(1).max(40)).max(20),
  }),
  /** By the pattern of each one's category. */
  z.object({ do: z.literal('names') }),
  /** Some letters of the names by others. */
  z.object({ do: z.literal('replace'), find: z.string().min(1).max(120), put: z.string().max(120) }),
  /** Final pictures of what has none. */
  z.object({ do: z.literal('finals') }),
  /** Words that each one's name, folders, place and measures say, to those that it has. */
  z.object({ do: z.literal('propose'), list: z.enum(['tags', 'uses']) }),
  z.object({ do: z.literal('dot'), color: dotColorSchema, on: z.boolean() }),
  z.object({ do: z.literal('pin'), projectId: z.number().int() }),
])
export type BulkAction = z.infer<typeof bulkActionSchema>

/** Everything that a view of the wall finds, as its address says, or some items by their ids. */
export const bulkWishSchema = z.object({
  address: z.string().max(4000).default(''),
  ids: z.array(z.number().int()).min(1).max(MOST_TRAY_ITEMS).optional(),
  action: bulkActionSchema,
})
export type BulkWish = z.infer<typeof bulkWishSchema>

/** What would happen. */
export const bulkPlanSchema = z.object({
  total: z.number(),
  /** As it is wanted already. */
  same: z.number(),
  /** What cannot be done, and to how many. */
  blocked: z.array(z.object({ reason: z.string(), count: z.number() })),
})
export type BulkPlan = z.infer<typeof bulkPlanSchema>

export const bulkRunSchema = z.object({
  id: z.number(),
  state: z.enum(['running', 'done', 'stopped']),
  total: z.number(),
  done: z.number(),
  changed: z.number(),
  /** The first of what was refused, and how many it was in all. */
  refused: z.array(z.object({ code: z.string(), reason: z.string() })),
  refusedCount: z.number(),
  /** Undoing it is a run of its own. */
  undoneBy: z.number().nullable(),
  isUndo: z.boolean(),
  mayUndo: z.boolean(),
})
export type BulkRunView = z.infer<typeof bulkRunSchema>

/** What somebody changed of late. */
export const bulkHistorySchema = z.array(
  bulkRunSchema.omit({ refused: true }).extend({ action: bulkActionSchema, createdAt: z.string() }),
)
export type BulkHistory = z.infer<typeof bulkHistorySchema>
