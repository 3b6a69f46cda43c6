import type { Express } from 'express'
import { ENDPOINTS } from '#shared/contracts/endpoints'
import { route } from '../http/route'
import type { Context } from '../platform/context'
import { collect } from './collect'
import { dismissFailedWork, listFailedWork, tryFailedWork } from './failed-work'
import { getUpkeep } from './upkeep'

export function mountUpkeepRoutes(app: Express, context: Context): void {
  const { db } = context
  route(app, ENDPOINTS.getUpkeep, ({ actor }) => getUpkeep(db, actor))
  route(app, ENDPOINTS.listFailedWork, ({ actor }) => listFailedWork(db, actor))
  route(app, ENDPOINTS.tryFailedWork, async ({ actor, body }) => ({ count: await tryFailedWork(context, actor, body.ids) }))
  route(app, ENDPOINTS.dismissFailedWork, async ({ actor, body }) => ({
    count: await dismissFailedWork(context, actor, body.ids),
  }))
  route(app, ENDPOINTS.collect, ({ actor, body }) => collect(context, actor, body))
}
