import { index, integer, jsonb, pgTable, serial, text, timestamp } from 'drizzle-orm/pg-core'
import type { PictureFault } from '#core/compare/audit-picture'
import { files, versions } from './library.table'
import { people } from './people.table'

/**
 * Pictures that people set as a version's preview, where a rig cannot do it justice. The newest that is ready and not dropped is
 * shown; a new version begins with the rig's picture again, since this one shows what was before.
 */
export const ownPictures = pgTable(
  'own_pictures',
  {
    id: serial('id').primaryKey(),
    versionId: integer('version_id')
      .notNull()
      .references(() => versions.id),
    fileName: text('file_name').notNull(),
    /** As it came. */
    sourceHash: text('source_hash')
      .notNull()
      .references(() => files.hash),
    state: text('state', { enum: ['reducing', 'ready', 'refused'] }).notNull(),
    /** Why it was refused. */
    reason: text('reason'),
    /** Reduced and display-encoded; null until it is ready. */
    hash: text('hash').references(() => files.hash),
    width: integer('width'),
    height: integer('height'),
    originalWidth: integer('original_width'),
    originalHeight: integer('original_height'),
    score: integer('score'),
    faults: jsonb('faults').$type<PictureFault[]>().notNull().default([]),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
    createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
    /** When the rig's picture was put in its place again; it can be brought back. */
    droppedAt: timestamp('dropped_at', { withTimezone: true }),
  },
  t => [index('own_pictures_version').on(t.versionId)],
)
