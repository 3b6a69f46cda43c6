import { z } from 'zod'
import { feedSchema, feedSummarySchema, newFeedSchema, takeOffersSchema } from '../feed.contract'
import { created, done, endpoint, id } from './endpoint'

export const FEEDS_ENDPOINTS = {
  listFeeds: endpoint({
    method: 'get',
    path: '/api/feeds',
    summary: 'Feeds of suppliers, as they were last read',
    response: z.array(feedSummarySchema),
  }),
  addFeed: endpoint({
    method: 'post',
    path: '/api/feeds',
    summary: 'Read a supplier’s feed for a library',
    body: newFeedSchema,
    response: created,
  }),
  getFeed: endpoint({
    method: 'get',
    path: '/api/feeds/{id}',
    summary: 'What a supplier offers, and what of it was taken',
    params: z.object({ id }),
    response: feedSchema,
  }),
  refreshFeed: endpoint({
    method: 'post',
    path: '/api/feeds/{id}/read',
    summary: 'Read the offer again',
    params: z.object({ id }),
    response: feedSchema,
  }),
  takeFromFeed: endpoint({
    method: 'post',
    path: '/api/feeds/{id}/take',
    summary: 'Fetch things on offer as a delivery',
    params: z.object({ id }),
    body: takeOffersSchema,
    response: created,
  }),
  removeFeed: endpoint({
    method: 'delete',
    path: '/api/feeds/{id}',
    summary: 'Stop reading a feed; what was taken stays',
    params: z.object({ id }),
    response: done,
  }),
}
