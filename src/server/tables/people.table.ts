import { integer, pgTable, primaryKey, serial, text, timestamp } from 'drizzle-orm/pg-core'

export const people = pgTable('people', {
  id: serial('id').primaryKey(),
  email: text('email').notNull().unique(),
  name: text('name').notNull(),
  role: text('role', { enum: ['lead', 'artist'] }).notNull(),
  /** argon2id, with its own salt and parameters inside. */
  passwordHash: text('password_hash').notNull(),
  createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
})

export const libraries = pgTable('libraries', {
  id: serial('id').primaryKey(),
  key: text('key').notNull().unique(),
  title: text('title').notNull(),
  /** The house library is open to everybody who may sign in; a client's only to its members. */
  kind: text('kind', { enum: ['house', 'client'] }).notNull(),
})

export const libraryMembers = pgTable(
  'library_members',
  {
    libraryId: integer('library_id')
      .notNull()
      .references(() => libraries.id),
    personId: integer('person_id')
      .notNull()
      .references(() => people.id),
  },
  t => [primaryKey({ columns: [t.libraryId, t.personId] })],
)
