import { bigint, index, integer, jsonb, pgTable, primaryKey, serial, text, timestamp } from 'drizzle-orm/pg-core'
import type { ExportRequest } from '#shared/contracts/projects.contract'
import { files, items, versions } from './library.table'
import { libraries, people } from './people.table'

export const projects = pgTable('projects', {
  id: serial('id').primaryKey(),
  code: text('code').notNull().unique(),
  title: text('title').notNull(),
  /** Who sees this library sees the project. */
  libraryId: integer('library_id')
    .notNull()
    .references(() => libraries.id),
  createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
})

/** Guests that a project is shown to. */
export const projectGuests = pgTable(
  'project_guests',
  {
    projectId: integer('project_id')
      .notNull()
      .references(() => projects.id),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
  },
  t => [primaryKey({ columns: [t.projectId, t.personId] }), index('project_guests_person').on(t.personId)],
)

/** A project's use of one version of one item. */
export const pins = pgTable(
  'pins',
  {
    projectId: integer('project_id')
      .notNull()
      .references(() => projects.id),
    itemId: integer('item_id')
      .notNull()
      .references(() => items.id),
    versionId: integer('version_id')
      .notNull()
      .references(() => versions.id),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [primaryKey({ columns: [t.projectId, t.itemId] })],
)

export const projectExports = pgTable(
  'exports',
  {
    id: serial('id').primaryKey(),
    projectId: integer('project_id')
      .notNull()
      .references(() => projects.id),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    request: jsonb('request').$type<ExportRequest>().notNull(),
    /** expired: its zip was collected after its time. */
    state: text('state', { enum: ['waiting', 'writing', 'ready', 'failed', 'expired'] })
      .notNull()
      .default('waiting'),
    /** What was pinned when it was ordered; that is what is written. */
    pins: jsonb('pins').$type<{ itemId: number; versionId: number }[]>().notNull().default([]),
    /** Items written so far, and how many there are. */
    done: integer('done').notNull().default(0),
    total: integer('total').notNull(),
    hash: text('hash').references(() => files.hash),
    size: bigint('size', { mode: 'number' }),
    message: text('message'),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [index('exports_project').on(t.projectId, t.id)],
)
