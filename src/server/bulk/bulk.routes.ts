import type { Express } from 'express'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import { route } from '../http/route'
import type { Context } from '../platform/context'
import { getBulk, listBulk, planBulk, startBulk, stopBulk, undoBulk } from './bulk-runs'

export function mountBulkRoutes(app: Express, context: Context): void {
  route(app, ENDPOINTS.planBulk, ({ actor, body }) => planBulk(context, actor, body))
  route(app, ENDPOINTS.startBulk, async ({ actor, body }) => ({ id: await startBulk(context, actor, body) }))
  route(app, ENDPOINTS.listBulk, ({ actor }) => listBulk(context, actor))
  route(app, ENDPOINTS.getBulk, ({ actor, params }) => getBulk(context, actor, params.id))
  route(app, ENDPOINTS.stopBulk, async ({ actor, params }) => {
    await stopBulk(context, actor, params.id)
    return DONE
  })
  route(app, ENDPOINTS.undoBulk, async ({ actor, params }) => ({ id: await undoBulk(context, actor, params.id) }))
}
