import type { Express } from 'express'
import { z } from 'zod'
import { pictureFormatSchema } from '#shared/contracts/compare.contract'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import { idListSchema } from '#shared/contracts/id-list'
import { saveMockUpSchema } from '#shared/contracts/mock-ups.contract'
import { layoutTextSchema, SCHEDULE_FORMS, scheduleQuerySchema } from '#shared/contracts/schedules.contract'
import { route } from '../http/route'
import { sendStored } from '../http/send-file'
import { getActor } from '../http/session'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { notFound } from '../platform/problem'
import { listProposals, rememberMaterials } from '../stage-models/propose-materials'
import { createStageModel, listStageModels, removeStageModel } from '../stage-models/stage-models'
import {
  changeMockUp,
  createMockUp,
  editMockUp,
  getMockUp,
  getMockUpRow,
  keepVersion,
  listMockUpChanges,
  listMockUps,
  listVersions,
  pictureUrl,
  pinMockUp,
  takeVersion,
} from './mock-ups'
import {
  cancelPicture,
  getInterimFile,
  getPictureFile,
  listPictures,
  orderPictures,
  saveMockUp,
  savePasses,
  savePicture,
} from './order-pictures'
import { proposeShift } from './propose-shift'
import { findItems } from './resolve-items'
import { getSchedule } from './schedule'
import { dropScheduleTemplate, keepScheduleTemplate, listScheduleTemplates } from './schedule-templates'
import { savePages, saveSchedule } from './write-documents'

const scheduleFileQuery = scheduleQuerySchema.pick({ against: true }).extend({ layout: layoutTextSchema })

const idParam = z.coerce.number().int().positive()

export function mountMockUpRoutes(app: Express, context: Context, compute: ComputePool): void {
  const { db, storage } = context
  route(app, ENDPOINTS.listMockUps, ({ actor, query }) => listMockUps(context, actor, query.project))
  route(app, ENDPOINTS.createMockUp, async ({ actor, body }) => ({ id: await createMockUp(context, actor, body) }))
  route(app, ENDPOINTS.getMockUp, ({ actor, params }) => getMockUp(context, actor, params.id))
  route(app, ENDPOINTS.editMockUp, async ({ actor, params, body }) => {
    await editMockUp(context, actor, params.id, body)
    return DONE
  })
  route(app, ENDPOINTS.changeMockUp, ({ actor, params, body }) => changeMockUp(context, actor, params.id, body))
  route(app, ENDPOINTS.listMockUpChanges, ({ actor, params, query }) => listMockUpChanges(context, actor, params.id, query.since))
  route(app, ENDPOINTS.findMockUpItems, ({ actor, query }) => findItems(context, actor, query.ids))
  route(app, ENDPOINTS.listStageModels, ({ actor, query }) => listStageModels(context, actor, query.project))
  route(app, ENDPOINTS.createStageModel, async ({ actor, body }) => ({ id: await createStageModel(context, actor, body) }))
  route(app, ENDPOINTS.removeStageModel, async ({ actor, params }) => {
    await removeStageModel(context, actor, params.id)
    return DONE
  })
  route(app, ENDPOINTS.proposeStageMaterials, async ({ actor, params }) => {
    const { materials, itemIds } = await listProposals(context, actor, params.id)
    return { materials, items: itemIds.length > 0 ? await findItems(context, actor, itemIds) : [] }
  })
  route(app, ENDPOINTS.rememberStageMaterials, async ({ actor, params, body }) => {
    await rememberMaterials(context, actor, params.id, body.choices)
    return DONE
  })
  route(app, ENDPOINTS.listMockUpVersions, ({ actor, params }) => listVersions(context, actor, params.id))
  route(app, ENDPOINTS.keepMockUpVersion, async ({ actor, params, body }) => ({
    id: await keepVersion(context, actor, params.id, body.name),
  }))
  route(app, ENDPOINTS.takeMockUpVersion, ({ actor, params, body }) =>
    takeVersion(context, actor, params.id, params.version, body.page),
  )
  route(app, ENDPOINTS.listMockUpPictures, ({ actor, params }) => listPictures(context, actor, params.id))
  route(app, ENDPOINTS.orderMockUpPictures, async ({ actor, params, body }) => ({
    ids: await orderPictures(context, actor, params.id, body),
  }))
  route(app, ENDPOINTS.cancelMockUpPicture, async ({ actor, params }) => {
    await cancelPicture(context, actor, params.id, params.picture)
    return DONE
  })
  route(app, ENDPOINTS.pinMockUp, ({ actor, params }) => pinMockUp(context, actor, params.id))
  route(app, ENDPOINTS.proposeShift, ({ actor, params, body }) => proposeShift({ ...context, compute }, actor, params.id, body))
  route(app, ENDPOINTS.getSchedule, ({ actor, params, query }) => getSchedule({ ...context, compute }, actor, params.id, query))
  route(app, ENDPOINTS.listScheduleTemplates, () => listScheduleTemplates(context))
  route(app, ENDPOINTS.keepScheduleTemplate, async ({ actor, body }) => ({
    id: await keepScheduleTemplate(context, actor, body),
  }))
  route(app, ENDPOINTS.dropScheduleTemplate, async ({ actor, params }) => {
    await dropScheduleTemplate(context, actor, params.id)
    return DONE
  })
  app.get('/api/mock-ups/:id/schedule/:form', async (req, res) => {
    const form = z.enum(SCHEDULE_FORMS).parse(req.params.form)
    const { layout, against } = scheduleFileQuery.parse(req.query)
    const working = { ...context, compute }
    const { bytes, fileName } = await saveSchedule(working, getActor(req), idParam.parse(req.params.id), form, layout, against)
    res.attachment(fileName)
    res.end(Buffer.from(bytes))
  })
  app.get('/api/mock-ups/:id/pages', async (req, res) => {
    const pictures = idListSchema.parse(req.query.pictures)
    const { bytes, fileName } = await savePages({ ...context, compute }, getActor(req), idParam.parse(req.params.id), pictures)
    res.attachment(fileName)
    res.end(Buffer.from(bytes))
  })
  app.get('/api/mock-ups/:id/stage', async (req, res) => {
    const { key } = z.object({ key: z.string() }).parse(req.query)
    const { scene } = await getMockUpRow(db, getActor(req), idParam.parse(req.params.id))
    // Only what it stands in: a hash alone must not open what is somebody else's.
    if (scene.stage.kind !== 'model' || scene.stage.model.key !== key) throw notFound('This model')
    await sendStored(res, storage, { hash: key, mediaType: 'model/gltf-binary' })
  })
  app.get('/api/mock-ups/:id/glb', async (req, res) => {
    const wish = saveMockUpSchema.parse(req.query)
    const { bytes, fileName } = await saveMockUp({ ...context, compute }, getActor(req), idParam.parse(req.params.id), wish)
    res.attachment(fileName)
    if (wish.form === 'glb' || wish.form === 'references') res.type('model/gltf-binary')
    res.end(Buffer.from(bytes))
  })
  app.get('/api/mock-up-pictures/:id', async (req, res) => {
    const hash = await getPictureFile(db, getActor(req), idParam.parse(req.params.id), 'display')
    await sendStored(res, storage, { hash, mediaType: 'image/webp' })
  })
  app.get('/api/mock-up-pictures/:id/linear', async (req, res) => {
    const hash = await getPictureFile(db, getActor(req), idParam.parse(req.params.id), 'linear')
    await sendStored(res, storage, { hash, mediaType: 'image/x-exr' })
  })
  app.get('/api/mock-up-pictures/:id/interim', async (req, res) => {
    const id = idParam.parse(req.params.id)
    const { bytes, isEnded } = await getInterimFile(db, getActor(req), id)
    if (isEnded) res.redirect(pictureUrl(id))
    else if (!bytes) res.status(204).end()
    else {
      res.set({ 'Cache-Control': 'private, max-age=60', 'X-Content-Type-Options': 'nosniff' })
      res.type('image/webp').end(bytes)
    }
  })
  app.get('/api/mock-up-pictures/:id/passes', async (req, res) => {
    const { bytes, fileName } = await savePasses({ ...context, compute }, getActor(req), idParam.parse(req.params.id))
    res.attachment(fileName)
    res.end(Buffer.from(bytes))
  })
  app.get('/api/mock-up-pictures/:id/save', async (req, res) => {
    const actor = getActor(req)
    const { format } = z.object({ format: pictureFormatSchema }).parse(req.query)
    const { bytes, fileName } = await savePicture({ ...context, compute }, actor, idParam.parse(req.params.id), format)
    res.attachment(fileName)
    res.end(Buffer.from(bytes))
  })
}
