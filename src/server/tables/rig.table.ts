import {
  doublePrecision,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  serial,
  text,
  timestamp,
  uniqueIndex,
} from 'drizzle-orm/pg-core'
import type { Rig } from '#core/render/rigs/rig'
import type { Target } from '#core/standard/target-names'
import { files, items } from './library.table'
import { people } from './people.table'

/** A studio's own revisions of rigs; where there is none, the shipped one holds. */
export const rigs = pgTable(
  'rigs',
  {
    id: serial('id').primaryKey(),
    name: text('name').notNull(),
    revision: integer('revision').notNull(),
    data: jsonb('data').$type<Rig>().notNull(),
    state: text('state', { enum: ['proposed', 'adopted', 'discarded'] }).notNull(),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [uniqueIndex('rigs_name_revision').on(t.name, t.revision)],
)

/** Categories that were given another rig than the one they ship with. */
export const categoryRigs = pgTable('category_rigs', {
  category: text('category').primaryKey(),
  rig: text('rig').notNull(),
})

/** A change somebody is trying out: of a rig, or of the rig a category has. */
export const rigProposals = pgTable('rig_proposals', {
  id: serial('id').primaryKey(),
  rig: text('rig').notNull(),
  revision: integer('revision').notNull(),
  /** Null for a change of the rig itself. */
  category: text('category'),
  state: text('state', { enum: ['open', 'adopted', 'discarded'] }).notNull(),
  personId: integer('person_id')
    .notNull()
    .references(() => people.id),
  createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
})

/** A background run that renders previews anew. */
export const rerenders = pgTable('rerenders', {
  id: serial('id').primaryKey(),
  title: text('title').notNull(),
  state: text('state', { enum: ['running', 'paused', 'cancelled', 'done'] }).notNull(),
  personId: integer('person_id')
    .notNull()
    .references(() => people.id),
  createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
})

export const rerenderItems = pgTable(
  'rerender_items',
  {
    rerenderId: integer('rerender_id')
      .notNull()
      .references(() => rerenders.id),
    /** What people look at most comes first. */
    position: integer('position').notNull(),
    inputKey: text('input_key').notNull(),
    rig: text('rig').notNull(),
    revision: integer('revision').notNull(),
    quality: text('quality', { enum: ['draft', 'final'] }).notNull(),
    state: text('state', { enum: ['waiting', 'queued', 'done', 'failed'] }).notNull(),
  },
  t => [primaryKey({ columns: [t.rerenderId, t.position] }), index('rerender_items_state').on(t.rerenderId, t.state, t.position)],
)

/** How often an item's sheet was opened. */
export const itemViews = pgTable('item_views', {
  itemId: integer('item_id')
    .primaryKey()
    .references(() => items.id),
  views: integer('views').notNull(),
})

/** What a material loses in each delivery form, measured on the rig of its category. */
export const targetFidelity = pgTable(
  'target_fidelity',
  {
    id: serial('id').primaryKey(),
    inputKey: text('input_key').notNull(),
    target: text('target').$type<Target>().notNull(),
    lost: jsonb('lost').$type<string[]>().notNull(),
    meanFlip: doublePrecision('mean_flip').notNull(),
    p95Flip: doublePrecision('p95_flip').notNull(),
    deltaE: doublePrecision('delta_e').notNull(),
    /** The picture as the target keeps it, and the original's beside it. */
    hash: text('hash')
      .notNull()
      .references(() => files.hash),
    originalHash: text('original_hash')
      .notNull()
      .references(() => files.hash),
    rendererRevision: integer('renderer_revision').notNull(),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [uniqueIndex('target_fidelity_key').on(t.inputKey, t.target)],
)

/** One full turn of an item as a short loop. */
export const turntables = pgTable(
  'turntables',
  {
    id: serial('id').primaryKey(),
    inputKey: text('input_key').notNull(),
    rig: text('rig').notNull(),
    revision: integer('revision').notNull(),
    rendererRevision: integer('renderer_revision').notNull(),
    hash: text('hash')
      .notNull()
      .references(() => files.hash),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [uniqueIndex('turntables_key').on(t.inputKey, t.rig, t.revision, t.rendererRevision)],
)
