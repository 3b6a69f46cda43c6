import { sql } from 'drizzle-orm'
import { boolean, index, integer, pgTable, primaryKey, serial, smallint, text, timestamp, uniqueIndex } from 'drizzle-orm/pg-core'
import { items } from './library.table'
import { people } from './people.table'

/** A person's own coloured marks on items; several an item. */
export const dots = pgTable(
  'dots',
  {
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    itemId: integer('item_id')
      .notNull()
      .references(() => items.id),
    color: smallint('color').notNull(),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [primaryKey({ columns: [t.personId, t.itemId, t.color] })],
)

/** What each colour of dot means to a person. */
export const dotMeanings = pgTable(
  'dot_meanings',
  {
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    color: smallint('color').notNull(),
    meaning: text('meaning').notNull(),
  },
  t => [primaryKey({ columns: [t.personId, t.color] })],
)

/** When a person last opened the sheet of an item. */
export const lookedAt = pgTable(
  'looked_at',
  {
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    itemId: integer('item_id')
      .notNull()
      .references(() => items.id),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [primaryKey({ columns: [t.personId, t.itemId] }), index('looked_at_person').on(t.personId, t.at)],
)

/** A machine that told what of the library lies on it. */
export const desks = pgTable(
  'desks',
  {
    id: serial('id').primaryKey(),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    name: text('name').notNull(),
    reportedAt: timestamp('reported_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [uniqueIndex('desks_name').on(t.personId, t.name)],
)

export const deskItems = pgTable(
  'desk_items',
  {
    deskId: integer('desk_id')
      .notNull()
      .references(() => desks.id, { onDelete: 'cascade' }),
    itemId: integer('item_id')
      .notNull()
      .references(() => items.id),
    /** Number of the version that lies there. */
    version: integer('version').notNull(),
    /** Whether every file of it is there as it was handed over. */
    isWhole: boolean('is_whole').notNull(),
  },
  t => [primaryKey({ columns: [t.deskId, t.itemId] }), index('desk_items_item').on(t.itemId)],
)

/** A view of the wall under a name; one that is shared is everybody's, each seeing of it what they may. */
export const savedViews = pgTable(
  'saved_views',
  {
    id: serial('id').primaryKey(),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    title: text('title').notNull(),
    /** What the address bar holds of it. */
    address: text('address').notNull(),
    isShared: boolean('is_shared').notNull().default(false),
    /** Whoever may not see all of these does not see it shared: it names something of them. */
    libraryIds: integer('library_ids').array().notNull().default(sql`'{}'`),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [index('saved_views_person').on(t.personId)],
)

/** When somebody last stood in a view: what came into it since is new to them. */
export const viewsSeen = pgTable(
  'views_seen',
  {
    viewId: integer('view_id')
      .notNull()
      .references(() => savedViews.id, { onDelete: 'cascade' }),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    at: timestamp('at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [primaryKey({ columns: [t.viewId, t.personId] })],
)

/** A selection that a person carries, kept by the server; ids in the order in which they were put in. */
export const trays = pgTable(
  'trays',
  {
    id: serial('id').primaryKey(),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    title: text('title').notNull(),
    itemIds: integer('item_ids').array().notNull().default(sql`'{}'`),
    /** Who sent it, and what they wrote with it. */
    fromId: integer('from_id').references(() => people.id),
    note: text('note').notNull().default(''),
    updatedAt: timestamp('updated_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [index('trays_person').on(t.personId)],
)
