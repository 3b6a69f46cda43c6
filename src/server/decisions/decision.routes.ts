import type { Express } from 'express'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import { route } from '../http/route'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { decide, replacePin } from './decide'
import { listDecisions } from './list-decisions'
import { listRevisions } from './list-revisions'
import { orderComparison } from './order-comparison'

export function mountDecisionRoutes(app: Express, context: Context, compute: ComputePool): void {
  route(app, ENDPOINTS.listDecisions, ({ actor, params }) => listDecisions({ ...context, compute }, actor, params.id))
  route(app, ENDPOINTS.decide, ({ actor, params, body }) => decide(context, actor, params.id, body))
  route(app, ENDPOINTS.replacePin, async ({ actor, params, body }) => {
    await replacePin(context, actor, params.id, body)
    return DONE
  })
  route(app, ENDPOINTS.orderComparison, async ({ actor, params, body }) => ({
    ids: await orderComparison(context, actor, params.id, body),
  }))
  route(app, ENDPOINTS.listRevisions, ({ actor, query }) => listRevisions(context.db, actor, query.item))
}
