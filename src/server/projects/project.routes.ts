import type { Express } from 'express'
import { z } from 'zod'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import { route } from '../http/route'
import { sendStored } from '../http/send-file'
import { getActor } from '../http/session'
import type { Context } from '../platform/context'
import { editProject } from './edit-project'
import { changeGuests } from './guests'
import {
  createProject,
  getExportFile,
  getExportManifest,
  getProject,
  getProjectRow,
  listProjects,
  orderExport,
  pinItems,
  unpinItems,
} from './projects'

const zipParams = z.object({ id: z.coerce.number().int(), exportId: z.coerce.number().int() })

export function mountProjectRoutes(app: Express, context: Context): void {
  const { db } = context
  route(app, ENDPOINTS.listProjects, ({ actor }) => listProjects(context, actor))
  route(app, ENDPOINTS.createProject, async ({ actor, body }) => ({ id: await createProject(context, actor, body) }))
  route(app, ENDPOINTS.getProject, ({ actor, params }) => getProject(context, actor, params.id))
  route(app, ENDPOINTS.changeGuests, async ({ actor, params, body }) => {
    const { libraryId } = await getProjectRow(db, actor, params.id)
    await changeGuests(context, actor, { id: params.id, libraryId }, body.personIds)
    return DONE
  })
  route(app, ENDPOINTS.pinItems, ({ actor, params, body }) => pinItems(context, actor, params.id, body.ids))
  route(app, ENDPOINTS.unpinItems, async ({ actor, params, body }) => {
    await unpinItems(context, actor, params.id, body.ids)
    return DONE
  })
  route(app, ENDPOINTS.editProject, async ({ actor, params, body }) => {
    await editProject(context, actor, params.id, body)
    return DONE
  })
  route(app, ENDPOINTS.orderExport, async ({ actor, params, body }) => ({
    id: await orderExport(context, actor, params.id, body),
  }))
  app.get('/api/projects/:id/exports/:exportId/manifest', async (req, res) => {
    const { id, exportId } = zipParams.parse(req.params)
    const { manifest, fileName } = await getExportManifest(db, getActor(req), id, exportId)
    res.attachment(fileName)
    res.type('json').end(`${JSON.stringify(manifest, null, 2)}\n`)
  })
  app.get('/api/projects/:id/exports/:exportId/zip', async (req, res) => {
    const actor = getActor(req)
    const { id, exportId } = zipParams.parse(req.params)
    const { hash, fileName } = await getExportFile(db, actor, id, exportId)
    await sendStored(res, context.storage, { hash, mediaType: 'application/zip' }, fileName)
  })
}
