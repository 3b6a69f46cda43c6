import { index, integer, jsonb, pgTable, serial, text, timestamp } from 'drizzle-orm/pg-core'
import type { Offer, OfferedFile } from '#shared/contracts/offer.contract'
import { batches } from './intake.table'
import { libraries, people } from './people.table'

/** A supplier's online offer that somebody reads for a library. */
export const feeds = pgTable('feeds', {
  id: serial('id').primaryKey(),
  libraryId: integer('library_id')
    .notNull()
    .references(() => libraries.id),
  /** Without a slash at its end; the offer is at /offer.json below it. */
  url: text('url').notNull(),
  title: text('title').notNull(),
  personId: integer('person_id')
    .notNull()
    .references(() => people.id),
  /** The offer as it was last read, so that it can be looked at while the supplier does not answer. */
  offer: jsonb('offer').$type<Offer>(),
  readAt: timestamp('read_at', { withTimezone: true }),
  /** Why it could not be read the last time. */
  problem: text('problem'),
  /** No longer read. What was taken from it is still known, should it be added again. */
  removedAt: timestamp('removed_at', { withTimezone: true }),
  createdAt: timestamp('created_at', { withTimezone: true }).notNull().defaultNow(),
})

/** What was taken from a feed: which version, and the batch it came in with. */
export const feedTakes = pgTable(
  'feed_takes',
  {
    id: serial('id').primaryKey(),
    feedId: integer('feed_id')
      .notNull()
      .references(() => feeds.id),
    offerId: text('offer_id').notNull(),
    version: integer('version').notNull(),
    batchId: integer('batch_id')
      .notNull()
      .references(() => batches.id),
    /** As the offer had them then: what is fetched does not change because the offer does. */
    files: jsonb('files').$type<OfferedFile[]>().notNull(),
    takenAt: timestamp('taken_at', { withTimezone: true }).notNull().defaultNow(),
  },
  t => [index('feed_takes_feed').on(t.feedId, t.offerId), index('feed_takes_batch').on(t.batchId)],
)
