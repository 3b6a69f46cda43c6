import { z } from 'zod'

export const RECORD_SUBJECTS = ['item', 'batch', 'project', 'feed', 'standard', 'person', 'library'] as const
export type RecordSubject = (typeof RECORD_SUBJECTS)[number]

export const recordQuerySchema = z.object({
  /** Who did it; by whom it was done last week, say. */
  person: z.coerce.number().int().positive().optional(),
  subject: z.enum(['', ...RECORD_SUBJECTS]).default(''),
  /** In the name or code of what it was done to, or in what was done. */
  words: z.string().max(200).default(''),
  /** Days, as 2026-01-31; the last one counts. */
  from: z.iso.date().optional(),
  to: z.iso.date().optional(),
  /** Only what came before this entry: the next page. */
  before: z.coerce.number().int().positive().optional(),
})
export type RecordQuery = z.infer<typeof recordQuerySchema>

export const recordEntrySchema = z.object({
  id: z.number(),
  at: z.string(),
  person: z.string().nullable(),
  subject: z.enum(RECORD_SUBJECTS),
  /** Its code where it has one, and its name. */
  code: z.string().nullable(),
  name: z.string(),
  verb: z.string(),
  /** What of it was another, as short text; empty where it came about. */
  changes: z.array(z.object({ what: z.string(), from: z.string(), to: z.string() })),
})
export type RecordEntry = z.infer<typeof recordEntrySchema>

export const recordSchema = z.object({ entries: z.array(recordEntrySchema), hasMore: z.boolean() })
