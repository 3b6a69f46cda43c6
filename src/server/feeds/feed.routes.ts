import type { Express } from 'express'
import { z } from 'zod'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import { route } from '../http/route'
import { getActor } from '../http/session'
import type { Context } from '../platform/context'
import { FeedPictures } from './feed-pictures'
import { addFeed, getFeed, getPictureAddress, listFeeds, refreshFeed, removeFeed, takeFromFeed } from './feeds'

const pictureParams = z.object({ id: z.coerce.number().int().positive(), offerId: z.string().max(100) })

export function mountFeedRoutes(app: Express, context: Context): void {
  const { db } = context
  route(app, ENDPOINTS.listFeeds, ({ actor }) => listFeeds(db, actor))
  route(app, ENDPOINTS.addFeed, async ({ actor, body }) => ({ id: await addFeed(context, actor, body) }))
  route(app, ENDPOINTS.getFeed, ({ actor, params }) => getFeed(db, actor, params.id))
  route(app, ENDPOINTS.refreshFeed, ({ actor, params }) => refreshFeed(context, actor, params.id))
  route(app, ENDPOINTS.takeFromFeed, async ({ actor, params, body }) => ({
    id: await takeFromFeed(context, actor, params.id, body.ids),
  }))
  const pictures = new FeedPictures(context.fetchOutside)
  app.get('/api/feeds/:id/pictures/:offerId', async (req, res) => {
    const { id, offerId } = pictureParams.parse(req.params)
    const bytes = await pictures.get(await getPictureAddress(db, getActor(req), id, offerId))
    // The address carries the version.
    res.set('Cache-Control', 'private, max-age=86400').type('image/webp').send(bytes)
  })
  route(app, ENDPOINTS.removeFeed, async ({ actor, params }) => {
    await removeFeed(context, actor, params.id)
    return DONE
  })
}
