import type { Express } from 'express'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import { route } from '../http/route'
import type { Context } from '../platform/context'
import { addFeed, getFeed, listFeeds, refreshFeed, removeFeed, takeFromFeed } from './feeds'

export function mountFeedRoutes(app: Express, context: Context): void {
  const { db } = context
  route(app, ENDPOINTS.listFeeds, ({ actor }) => listFeeds(db, actor))
  route(app, ENDPOINTS.addFeed, async ({ actor, body }) => ({ id: await addFeed(context, actor, body) }))
  route(app, ENDPOINTS.getFeed, ({ actor, params }) => getFeed(db, actor, params.id))
  route(app, ENDPOINTS.refreshFeed, ({ actor, params }) => refreshFeed(context, actor, params.id))
  route(app, ENDPOINTS.takeFromFeed, async ({ actor, params, body }) => ({
    id: await takeFromFeed(context, actor, params.id, body.ids),
  }))
  route(app, ENDPOINTS.removeFeed, async ({ actor, params }) => {
    await removeFeed(context, actor, params.id)
    return DONE
  })
}
