import { z } from 'zod'
import { FIGURE_FACETS, TERM_FACETS } from '#core/find/query/facets'
import { chipSchema } from './chip.contract'
import { wallQuerySchema } from './find.contract'
import { bulkResultSchema, setFactsSchema } from './items.contract'

/** What of a view a table shows besides what every item has: names of facts, with | between. */
export const tableQuerySchema = wallQuerySchema.omit({ counts: true }).extend({
  facts: z
    .string()
    .regex(/^([a-zA-Z][a-zA-Z0-9]*(\||$))*$/)
    .max(2000)
    .default('')
    .transform(text => text.split('|').filter(Boolean)),
})
export type TableQuery = z.output<typeof tableQuerySchema>

export const tableRowSchema = z.object({
  chip: chipSchema,
  figures: z.partialRecord(z.enum(FIGURE_FACETS), z.number()),
  terms: z.partialRecord(z.enum(TERM_FACETS), z.array(z.string())),
  facts: z.record(z.string(), z.union([z.string(), z.number(), z.boolean()])),
})
export type TableRow = z.infer<typeof tableRowSchema>

export const tableSchema = z.object({
  total: z.number(),
  rows: z.array(tableRowSchema),
  /** Names of all facts that items of this page have. */
  known: z.array(z.string()),
})
export type TableView = z.infer<typeof tableSchema>

/** What a table's cells are set to: an item's name, and facts that people give; null takes one away. */
export const setCellsSchema = z.object({
  items: z
    .array(
      setFactsSchema.shape.items.element.extend({ name: z.string().trim().min(1, 'An item needs a name.').max(120).optional() }),
    )
    .min(1)
    .max(2000),
})
export type SetCells = z.infer<typeof setCellsSchema>

/** With what each cell said before, in the form that sets it again. */
export const setCellsResultSchema = bulkResultSchema.extend({ before: z.array(setCellsSchema.shape.items.element) })
export type SetCellsResult = z.infer<typeof setCellsResultSchema>
