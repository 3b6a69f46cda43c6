import type { Express } from 'express'
import { ENDPOINTS } from '#shared/contracts/endpoints'
import { recordQuerySchema } from '#shared/contracts/record.contract'
import { route } from '../http/route'
import { getActor } from '../http/session'
import type { Context } from '../platform/context'
import { collect } from './collect'
import { dismissFailedWork, listFailedWork, tryFailedWork } from './failed-work'
import { exportRecord, listRecord } from './record'
import { getUpkeep } from './upkeep'

export function mountUpkeepRoutes(app: Express, context: Context): void {
  const { db } = context
  route(app, ENDPOINTS.getUpkeep, ({ actor }) => getUpkeep(db, actor))
  route(app, ENDPOINTS.listRecord, ({ actor, query }) => listRecord(db, actor, query))
  app.get('/api/record.csv', async (req, res) => {
    const text = await exportRecord(db, getActor(req), recordQuerySchema.parse(req.query))
    res.type('text/csv; charset=utf-8').attachment('record.csv').send(text)
  })
  route(app, ENDPOINTS.listFailedWork, ({ actor }) => listFailedWork(db, actor))
  route(app, ENDPOINTS.tryFailedWork, async ({ actor, body }) => ({ count: await tryFailedWork(context, actor, body.ids) }))
  route(app, ENDPOINTS.dismissFailedWork, async ({ actor, body }) => ({
    count: await dismissFailedWork(context, actor, body.ids),
  }))
  route(app, ENDPOINTS.collect, ({ actor, body }) => collect(context, actor, body))
}
