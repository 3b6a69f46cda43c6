import { sql } from 'drizzle-orm'
import { type AnyPgColumn, index, integer, jsonb, pgTable, primaryKey, serial, text, timestamp } from 'drizzle-orm/pg-core'
import type { BulkAction } from '#shared/contracts/bulk.contract'
import { people } from './people.table'

/** One change of many items: what is wanted, and how far it is. */
export const bulkRuns = pgTable('bulk_runs', {
  id: serial('id').primaryKey(),
  personId: integer('person_id')
    .notNull()
    .references(() => people.id),
  action: jsonb('action').$type<BulkAction>().notNull(),
  state: text('state', { enum: ['running', 'done', 'stopped'] })
    .notNull()
    .default('running'),
  total: integer('total').notNull(),
  /** How many of the items were seen to, and what came of it. */
  done: integer('done').notNull().default(0),
  changed: integer('changed').notNull().default(0),
  refused: integer('refused').notNull().default(0),
  /** The run that this one undoes. */
  undoesId: integer('undoes_id').references((): AnyPgColumn => bulkRuns.id),
  createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
})

/** One item of such a change, with what it was before: a row each, so that a portion costs the same at the end as at the beginning. */
export const bulkItems = pgTable(
  'bulk_items',
  {
    runId: integer('run_id')
      .notNull()
      .references(() => bulkRuns.id, { onDelete: 'cascade' }),
    place: integer('place').notNull(),
    itemId: integer('item_id').notNull(),
    /** What it is to be, where that is not the same for all: as it was, for an undoing. */
    wanted: text('wanted'),
    /** A state with the approved version, a category, what a fact said; whether it was so already. Noted before it is touched. */
    before: text('before'),
    notedAt: timestamp('noted_at', { withTimezone: true }),
    outcome: text('outcome', { enum: ['changed', 'same', 'refused'] }),
    code: text('code'),
    reason: text('reason'),
  },
  t => [
    primaryKey({ columns: [t.runId, t.place] }),
    index('bulk_items_left').on(t.runId, t.place).where(sql`${t.outcome} is null`),
  ],
)

/** An item with what it is, or is to be, in what an action changes. */
export interface BulkValue {
  id: number
  value: string | null
}
