import { and, asc, desc, eq, isNull, sql } from 'drizzle-orm'
import { toFailure } from '#core/findings/failure'
import {
  type Feed,
  type FeedSummary,
  type NewFeed,
  newFeedSchema,
  type OfferState,
  type OfferView,
} from '#shared/contracts/feed.contract'
import type { Offer } from '#shared/contracts/offer.contract'
import { insertBatch } from '../intake/batches'
import { getLibrary } from '../people/libraries'
import { type Actor, mayEdit, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import { type Connection, isOneOf } from '../platform/database'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notAllowed, notFound, ProblemError } from '../platform/problem'
import { feeds, feedTakes } from '../tables/feed.table'
import { batches, batchItems } from '../tables/intake.table'
import { items } from '../tables/library.table'
import { libraries } from '../tables/people.table'
import { readOffer } from './feed-client'

type FeedRow = typeof feeds.$inferSelect

/** Adds a supplier's feed to a library, after reading it once: an address that is none is refused with the reason. */
export async function addFeed(context: Context, actor: Actor, given: NewFeed): Promise<number> {
  if (!mayEdit(actor)) throw notAllowed('Adding a feed')
  const { url, library } = newFeedSchema.parse(given)
  const { id: libraryId } = await getLibrary(context.db, actor, library)
  const [known] = await context.db
    .select({ id: feeds.id, removedAt: feeds.removedAt })
    .from(feeds)
    .where(and(eq(feeds.url, url), eq(feeds.libraryId, libraryId)))
  if (known && !known.removedAt) return known.id
  const offer = await readOffer(context.fetchOutside, url).catch(error => {
    throw new ProblemError('badRequest', toFailure(error).message)
  })
  const read = { title: offer.supplier, offer, readAt: new Date(), problem: null, removedAt: null }
  return context.db.transaction(async tx => {
    const [feed] = known
      ? await tx.update(feeds).set(read).where(eq(feeds.id, known.id)).returning({ id: feeds.id })
      : await tx
          .insert(feeds)
          .values({ libraryId, url, personId: actor.id, ...read })
          .returning({ id: feeds.id })
    await recordEvents(tx, [{ personId: actor.id, subject: 'feed', subjectId: feed.id, verb: 'added', after: { url } }])
    return feed.id
  })
}

/** Stops reading a feed. What was taken from it stays. */
export async function removeFeed(context: Context, actor: Actor, id: number): Promise<void> {
  if (!mayEdit(actor)) throw notAllowed('Removing a feed')
  const feed = await getFeedRow(context.db, actor, id)
  await context.db.transaction(async tx => {
    await tx.update(feeds).set({ removedAt: new Date() }).where(eq(feeds.id, id))
    await recordEvents(tx, [{ personId: actor.id, subject: 'feed', subjectId: id, verb: 'removed', before: { url: feed.url } }])
  })
}

/** Reads the offer again; when the supplier does not answer, the last one stays, with the reason. */
export async function refreshFeed(context: Context, actor: Actor, id: number): Promise<Feed> {
  const feed = await getFeedRow(context.db, actor, id)
  try {
    const offer = await readOffer(context.fetchOutside, feed.url)
    await context.db
      .update(feeds)
      .set({ offer, title: offer.supplier, readAt: new Date(), problem: null })
      .where(eq(feeds.id, id))
  } catch (error) {
    await context.db
      .update(feeds)
      .set({ problem: toFailure(error).message })
      .where(eq(feeds.id, id))
  }
  return getFeed(context.db, actor, id)
}

export async function listFeeds(db: Connection, actor: Actor): Promise<FeedSummary[]> {
  const rows = await selectFeeds(db, actor)
  return Promise.all(rows.map(async row => (await describeFeed(db, actor, row)).summary))
}

export async function getFeed(db: Connection, actor: Actor, id: number): Promise<Feed> {
  const [row] = await selectFeeds(db, actor, id)
  if (!row) throw notFound('This feed')
  const { summary, items: views } = await describeFeed(db, actor, row)
  return { ...summary, licence: row.feed.offer?.licence ?? '', mayEdit: mayEdit(actor), items: views }
}

/**
 * Begins a batch with the chosen things; a worker fetches their files.
 * @returns the batch
 */
export async function takeFromFeed(context: Context, actor: Actor, id: number, offerIds: readonly string[]): Promise<number> {
  if (!mayEdit(actor)) throw notAllowed('Taking from a feed')
  const feed = await getFeedRow(context.db, actor, id)
  const chosen = (feed.offer?.items ?? []).filter(i => offerIds.includes(i.id) && !i.isWithdrawn)
  if (chosen.length === 0) throw new ProblemError('badRequest', 'Nothing of this is on offer any more; read the feed again.')
  const title = chosen.length === 1 ? `${feed.title}: ${chosen[0].title}` : `${feed.title}: ${chosen.length} things of their feed`
  return context.db.transaction(async tx => {
    const batchId = await insertBatch(tx, actor, feed.libraryId, {
      title: title.slice(0, 120),
      maker: feed.title.slice(0, 120),
      licence: (feed.offer?.licence ?? '').slice(0, 120),
    })
    await tx
      .update(batches)
      .set({ expectedFiles: chosen.reduce((n, c) => n + c.files.length, 0) })
      .where(eq(batches.id, batchId))
    await tx
      .insert(feedTakes)
      .values(chosen.map(c => ({ feedId: id, offerId: c.id, version: c.version, batchId, files: c.files })))
    await publish(tx, { topic: 'batch', libraryId: feed.libraryId, batchId })
    await context.queue.send(tx, 'fetch-feed', [{ batchId }])
    return batchId
  })
}

/** Where the supplier's picture of a thing on offer lies. @throws ProblemError where the asker may not see the feed, or there is none */
export async function getPictureAddress(db: Connection, actor: Actor, id: number, offerId: string): Promise<string> {
  const feed = await getFeedRow(db, actor, id)
  const picture = feed.offer?.items.find(i => i.id === offerId)?.picture
  if (!picture) throw notFound('This picture')
  return `${feed.url}/pictures/${picture.split('/').map(encodeURIComponent).join('/')}`
}

async function getFeedRow(db: Connection, actor: Actor, id: number): Promise<FeedRow> {
  const [row] = await db
    .select()
    .from(feeds)
    .where(and(eq(feeds.id, id), isNull(feeds.removedAt), mayRead(actor, feeds.libraryId)))
  if (!row) throw notFound('This feed')
  return row
}

const selectFeeds = (db: Connection, actor: Actor, id?: number) =>
  db
    .select({ feed: feeds, library: libraries.title })
    .from(feeds)
    .innerJoin(libraries, eq(libraries.id, feeds.libraryId))
    .where(and(mayRead(actor, feeds.libraryId), isNull(feeds.removedAt), id === undefined ? undefined : eq(feeds.id, id)))
    .orderBy(asc(feeds.title), asc(feeds.id))

async function describeFeed(db: Connection, actor: Actor, { feed, library }: { feed: FeedRow; library: string }) {
  const takes = await db
    .select()
    .from(feedTakes)
    .where(eq(feedTakes.feedId, feed.id))
    .orderBy(desc(feedTakes.version), desc(feedTakes.id))
  const lastTake = new Map<string, (typeof takes)[number]>()
  for (const take of takes) if (!lastTake.has(take.offerId)) lastTake.set(take.offerId, take)
  const codes = await findCodes(db, actor, takes)
  const views = (feed.offer?.items ?? []).map((offered): OfferView => {
    const take = lastTake.get(offered.id)
    return {
      ...offered,
      picture: offered.picture === null ? null : `/api/feeds/${feed.id}/pictures/${offered.id}?version=${offered.version}`,
      files: offered.files.length,
      bytes: offered.files.reduce((sum, f) => sum + f.size, 0),
      state: stateOf(offered, take?.version ?? null),
      takenVersion: take?.version ?? null,
      batchId: take?.batchId ?? null,
      codes: codes.get(offered.id) ?? [],
    }
  })
  const count = (test: (view: OfferView) => boolean) => views.filter(test).length
  const summary: FeedSummary = {
    id: feed.id,
    title: feed.title,
    url: feed.url,
    library,
    readAt: feed.readAt?.toISOString() ?? null,
    problem: feed.problem,
    offers: count(v => v.state !== 'withdrawn'),
    fresh: count(v => v.state === 'new'),
    newer: count(v => v.state === 'newer'),
    withdrawn: count(v => v.state === 'withdrawn' && v.codes.length > 0),
  }
  return { summary, items: views }
}

function stateOf({ isWithdrawn, version }: Offer['items'][number], taken: number | null): OfferState {
  if (isWithdrawn) return 'withdrawn'
  if (taken === null) return 'new'
  return version > taken ? 'newer' : 'taken'
}

/** Codes of the library items that came of a feed's things: by the batch and the folder their files came in. */
async function findCodes(
  db: Connection,
  actor: Actor,
  takes: readonly (typeof feedTakes.$inferSelect)[],
): Promise<Map<string, string[]>> {
  const found = new Map<string, string[]>()
  if (takes.length === 0) return found
  const rows = await db
    .select({ batchId: batchItems.batchId, code: items.code, path: sql<string | null>`${batchItems.files} -> 0 ->> 'path'` })
    .from(batchItems)
    .innerJoin(items, eq(items.id, batchItems.itemId))
    .where(
      and(
        isOneOf(batchItems.batchId, [...new Set(takes.map(t => t.batchId))]),
        sql`${items.state} <> 'withdrawn'`,
        mayRead(actor, items.libraryId),
      ),
    )
  for (const { batchId, code, path } of rows) {
    const offerId = path?.split('/')[0]
    if (!offerId || !takes.some(t => t.batchId === batchId && t.offerId === offerId)) continue
    found.set(offerId, [...new Set([...(found.get(offerId) ?? []), code])].sort())
  }
  return found
}
