import type { Express } from 'express'
import { z } from 'zod'
import { SCENE_FILE_FORMS } from '#shared/contracts/audits.contract'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import { layoutTextSchema, SCHEDULE_FORMS } from '#shared/contracts/schedules.contract'
import { route } from '../http/route'
import { sendStored } from '../http/send-file'
import { getActor } from '../http/session'
import { writeScheduleFile } from '../mock-ups/write-documents'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { notFound } from '../platform/problem'
import { beginAudit, getAudit, getAuditRow, listAudits, orderCorrection, removeAudit } from './audits'
import { getBeside, getBesidePictures, listAuditedScenes } from './beside'
import { nameOf } from './correct-scene.job'
import { saveReport } from './save-report'
import { getSceneSchedule } from './scene-schedule'
import { takeOutOfScene } from './take-out-of-scene'

const idParams = z.object({ id: z.coerce.number().int() })
const pictureParams = idParams.extend({ index: z.string(), which: z.enum(['own', 'library']) })

export function mountAuditRoutes(app: Express, context: Context, compute: ComputePool): void {
  const { db, storage } = context
  route(app, ENDPOINTS.beginAudit, async ({ actor, body }) => ({ id: await beginAudit(context, actor, body) }))
  route(app, ENDPOINTS.listAudits, ({ actor, params }) => listAudits(db, actor, params.id))
  route(app, ENDPOINTS.listAuditedScenes, ({ actor }) => listAuditedScenes(db, actor))
  route(app, ENDPOINTS.getBeside, ({ actor, params }) => getBeside({ ...context, compute }, actor, params.id, params.other))
  route(app, ENDPOINTS.getBesidePictures, ({ actor, params }) =>
    getBesidePictures({ ...context, compute }, actor, params.id, params.other, params.code),
  )
  route(app, ENDPOINTS.getAudit, ({ actor, params }) => getAudit(context, actor, params.id))
  route(app, ENDPOINTS.correctScene, async ({ actor, params, body }) => {
    await orderCorrection(context, actor, params.id, body)
    return DONE
  })
  route(app, ENDPOINTS.takeOutOfScene, async ({ actor, params, body }) => ({
    id: await takeOutOfScene({ ...context, compute }, actor, params.id, body),
  }))
  route(app, ENDPOINTS.removeAudit, async ({ actor, params }) => {
    await removeAudit(db, actor, params.id)
    return DONE
  })
  route(app, ENDPOINTS.getSceneSchedule, ({ actor, params, query }) => getSceneSchedule(context, actor, params.id, query.waste))
  app.get('/api/audits/:id/schedule/:form', async (req, res) => {
    const { id, form } = idParams.extend({ form: z.enum(SCHEDULE_FORMS) }).parse(req.params)
    const layout = layoutTextSchema.parse(req.query.layout)
    const actor = getActor(req)
    const schedule = await getSceneSchedule(context, actor, id, layout.wastePercent)
    const { bytes, fileName } = await writeScheduleFile({ ...context, compute }, actor, schedule, form, layout)
    res.attachment(fileName)
    res.end(Buffer.from(bytes))
  })
  app.get('/api/audits/:id/pictures/:index/:which', async (req, res) => {
    const { id, index, which } = pictureParams.parse(req.params)
    const { pictures } = await getAuditRow(db, getActor(req), id)
    if (!pictures[index]) throw notFound('This picture')
    await sendStored(res, storage, { hash: pictures[index][which], mediaType: 'image/webp' })
  })
  app.get('/api/audits/:id/report', async (req, res) => {
    const { bytes, fileName } = await saveReport({ ...context, compute }, getActor(req), idParams.parse(req.params).id)
    res.attachment(fileName).end(Buffer.from(bytes))
  })
  app.get('/api/audits/:id/corrected', async (req, res) => {
    const row = await getAuditRow(db, getActor(req), idParams.parse(req.params).id)
    if (!row.correctedHash) throw notFound('The corrected scene')
    const { form } = z.object({ form: z.enum(SCENE_FILE_FORMS).optional() }).parse(req.query)
    if (!form) return sendStored(res, storage, { hash: row.correctedHash, mediaType: 'model/gltf-binary' }, nameOf(row))
    const glbPath = await storage.localPath(row.correctedHash)
    const { path, bytes } = await compute.run('writeSceneForm', { glbPath, form, name: nameOf(row).replace(/\.glb$/, '') })
    res.attachment(path).end(Buffer.from(bytes))
  })
}
