import { rm } from 'node:fs/promises'
import { basename } from 'node:path'
import { pipeline } from 'node:stream/promises'
import type { Express } from 'express'
import { z } from 'zod'
import { DELIVERED_MAP_NAMES } from '#core/hand-over/delivered-maps'
import { findEntry } from '#files/reading/archive-entry'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import { route } from '../http/route'
import { sendStored } from '../http/send-file'
import { getActor } from '../http/session'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { notFound } from '../platform/problem'
import { editProject } from './edit-project'
import { getExportFile, getExportManifest } from './exports/exports'
import { checkHandOver } from './exports/hand-over-check'
import { handOverItem, handOverMap } from './exports/hand-over-item'
import { orderExport } from './exports/order-export'
import { listStanding } from './exports/standing'
import { changeGuests } from './guests'
import { createProject, getProject, getProjectRow, listProjects, pinItems, unpinItems } from './projects'

const zipParams = z.object({ id: z.coerce.number().int(), exportId: z.coerce.number().int() })

const itemParams = z.object({ code: z.string().min(1).max(40) })
const itemQuery = z.object({
  version: z.coerce.number().int().positive().optional(),
  profileId: z.coerce.number().int().positive().optional(),
  /** One map alone. */
  map: z.enum(DELIVERED_MAP_NAMES).optional(),
  isCopy: z.stringbool().optional(),
})

export function mountProjectRoutes(app: Express, context: Context, compute: ComputePool): void {
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
  route(app, ENDPOINTS.checkHandOver, ({ actor, params, query }) => checkHandOver(context, actor, params.id, query.materials))
  app.get('/api/items/:code/hand-over', async (req, res) => {
    const { map, ...wish } = { ...itemParams.parse(req.params), ...itemQuery.parse(req.query) }
    if (map) {
      const { fileName, bytes } = await handOverMap({ ...context, compute }, getActor(req), { ...wish, map })
      res.attachment(fileName).end(bytes)
      return
    }
    const { zipPath, fileName } = await handOverItem({ ...context, compute }, getActor(req), wish)
    res.attachment(fileName)
    res.sendFile(zipPath, { dotfiles: 'allow' }, () => void rm(zipPath, { force: true }))
  })
  app.get('/api/projects/:id/exports/:exportId/manifest', async (req, res) => {
    const { id, exportId } = zipParams.parse(req.params)
    const { manifest, fileName } = await getExportManifest(db, getActor(req), id, exportId)
    res.attachment(fileName)
    res.type('json').end(`${JSON.stringify(manifest, null, 2)}\n`)
  })
  route(app, ENDPOINTS.listStanding, ({ actor, body }) => listStanding(db, actor, body.items))
  app.get('/api/projects/:id/exports/:exportId/files/*path', async (req, res) => {
    const { id, exportId } = zipParams.parse(req.params)
    const path = (req.params.path as unknown as string[]).join('/')
    const { hash } = await getExportFile(db, getActor(req), id, exportId)
    const entry = await findEntry(await context.storage.localPath(hash), path)
    if (!entry) throw notFound(`${path} of this hand-over`)
    res.attachment(basename(path)).set('Content-Length', String(entry.bytes))
    // A reader who goes away in the middle is no fault of ours.
    await pipeline(await entry.open(), res).catch(error => {
      if (!res.destroyed) throw error
    })
  })
  app.get('/api/projects/:id/exports/:exportId/zip', async (req, res) => {
    const actor = getActor(req)
    const { id, exportId } = zipParams.parse(req.params)
    const { hash, fileName } = await getExportFile(db, actor, id, exportId)
    await sendStored(res, context.storage, { hash, mediaType: 'application/zip' }, fileName)
  })
}
