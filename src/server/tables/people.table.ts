import { boolean, integer, pgTable, primaryKey, serial, text, timestamp } from 'drizzle-orm/pg-core'
import { ROLES } from '#shared/contracts/session.contract'

export const people = pgTable('people', {
  id: serial('id').primaryKey(),
  email: text('email').notNull().unique(),
  name: text('name').notNull(),
  role: text('role', { enum: ROLES }).notNull(),
  /** argon2id, with its own salt and parameters inside; null until somebody who was invited has chosen one. */
  passwordHash: text('password_hash'),
  /** Who they are at the studio's sign-in service, once they came through it: its address and their subject there. */
  outsideSubject: text('outside_subject').unique(),
  createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  /** Since when they may not come in any more; what they did stays theirs. */
  deactivatedAt: timestamp('deactivated_at', { withTimezone: true }),
})

/** The studio itself: one row, made when it is founded. */
export const studio = pgTable('studio', {
  isOne: boolean('is_one').primaryKey().default(true),
  name: text('name').notNull(),
  foundedAt: timestamp('founded_at', { withTimezone: true }).notNull().defaultNow(),
})

/** Links that let somebody in once: to found the studio, to join it, to choose a new password. Only the hash of a token is kept. */
export const accessLinks = pgTable('access_links', {
  tokenHash: text('token_hash').primaryKey(),
  purpose: text('purpose', { enum: ['found', 'join', 'reset'] }).notNull(),
  personId: integer('person_id').references(() => people.id),
  createdBy: integer('created_by').references(() => people.id),
  expiresAt: timestamp('expires_at', { withTimezone: true }).notNull(),
})

/** What a command line or a pipeline signs itself in with. Only the hash is kept. */
export const apiTokens = pgTable('api_tokens', {
  id: serial('id').primaryKey(),
  personId: integer('person_id')
    .notNull()
    .references(() => people.id),
  title: text('title').notNull(),
  tokenHash: text('token_hash').notNull().unique(),
  /** read: looks; bring: looks, and brings deliveries; all: whatever its person may do. */
  scope: text('scope', { enum: ['read', 'bring', 'all'] }).notNull(),
  createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
  lastUsedAt: timestamp('last_used_at', { withTimezone: true }),
  revokedAt: timestamp('revoked_at', { withTimezone: true }),
})

export const libraries = pgTable('libraries', {
  id: serial('id').primaryKey(),
  key: text('key').notNull().unique(),
  title: text('title').notNull(),
  /** The house library is open to everybody who may sign in; a client's only to its members. */
  kind: text('kind', { enum: ['house', 'client'] }).notNull(),
  /** Stands before the codes of a client's items, which have numbers of their own; none in the house library. */
  mark: text('mark').notNull().default(''),
  /** Since when it is out of sight; everything in it stays. */
  archivedAt: timestamp('archived_at', { withTimezone: true }),
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
