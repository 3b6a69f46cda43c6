import { z } from 'zod'

export const newFeedSchema = z.object({
  url: z
    .url({ protocol: /^https?$/, error: 'Give the address of the feed, beginning with http.' })
    .max(500)
    .transform(url => url.replace(/\/+$/, '')),
  library: z.string(),
})
export type NewFeed = z.input<typeof newFeedSchema>

/**
 * new: nothing of it was taken; taken: its newest version was; newer: an older version was taken; withdrawn: no longer on offer.
 */
export const OFFER_STATES = ['new', 'taken', 'newer', 'withdrawn'] as const
export type OfferState = (typeof OFFER_STATES)[number]

export const offerViewSchema = z.object({
  id: z.string(),
  title: z.string(),
  kind: z.string(),
  category: z.string(),
  tags: z.array(z.string()),
  version: z.number(),
  released: z.string(),
  note: z.string(),
  /** Address of the supplier's own picture, made small; null where they show none. */
  picture: z.string().nullable(),
  files: z.number(),
  bytes: z.number(),
  state: z.enum(OFFER_STATES),
  /** The version that was taken last, and the batch it came in with. */
  takenVersion: z.number().nullable(),
  batchId: z.number().nullable(),
  /** What the library has of it. */
  codes: z.array(z.string()),
})
export type OfferView = z.infer<typeof offerViewSchema>

export const feedSummarySchema = z.object({
  id: z.number(),
  title: z.string(),
  url: z.string(),
  library: z.string(),
  readAt: z.string().nullable(),
  problem: z.string().nullable(),
  offers: z.number(),
  fresh: z.number(),
  newer: z.number(),
  /** Withdrawn of what the library has. */
  withdrawn: z.number(),
})
export type FeedSummary = z.infer<typeof feedSummarySchema>

export const feedSchema = feedSummarySchema.extend({
  licence: z.string(),
  mayEdit: z.boolean(),
  items: z.array(offerViewSchema),
})
export type Feed = z.infer<typeof feedSchema>

export const takeOffersSchema = z.object({ ids: z.array(z.string()).min(1).max(5000) })
