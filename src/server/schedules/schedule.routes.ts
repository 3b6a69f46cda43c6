import type { Express } from 'express'
import { z } from 'zod'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import { layoutTextSchema, projectScheduleQuerySchema, SCHEDULE_FORMS } from '#shared/contracts/schedules.contract'
import { route } from '../http/route'
import { getActor } from '../http/session'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { listKeptSchedules, setKeptRemoved } from './kept-schedules'
import { getProjectSchedule, keepProjectSchedule, saveProjectSchedule } from './project-schedule'
import { setQuantities } from './quantities'

const fileParams = z.object({ id: z.coerce.number().int().positive(), form: z.enum(SCHEDULE_FORMS) })
const fileQuery = projectScheduleQuerySchema.omit({ waste: true }).extend({ layout: layoutTextSchema })

export function mountScheduleRoutes(app: Express, context: Context, compute: ComputePool): void {
  const working = { ...context, compute }
  route(app, ENDPOINTS.getProjectSchedule, ({ actor, params, query }) => getProjectSchedule(working, actor, params.id, query))
  route(app, ENDPOINTS.setQuantities, async ({ actor, params, body }) => ({
    before: await setQuantities(context, actor, params.id, body.quantities),
  }))
  route(app, ENDPOINTS.listKeptSchedules, ({ actor, params }) => listKeptSchedules(context, actor, params.id))
  route(app, ENDPOINTS.keepSchedule, async ({ actor, params, body }) => ({
    id: await keepProjectSchedule(working, actor, params.id, body),
  }))
  route(app, ENDPOINTS.editKeptSchedule, async ({ actor, params, body }) => {
    await setKeptRemoved(context, actor, params.id, params.kept, body.isRemoved)
    return DONE
  })
  app.get('/api/projects/:id/schedule/:form', async (req, res) => {
    const { id, form } = fileParams.parse(req.params)
    const { bytes, fileName } = await saveProjectSchedule(working, getActor(req), id, { form, ...fileQuery.parse(req.query) })
    res.attachment(fileName)
    res.end(Buffer.from(bytes))
  })
}
