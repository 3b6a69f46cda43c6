import type { Express } from 'express'
import { z } from 'zod'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import { route } from '../http/route'
import { sendStored } from '../http/send-file'
import { getActor } from '../http/session'
import type { Context } from '../platform/context'
import { acceptRows, takeBackRows } from './accept-rows'
import { assignMaterial, proposeMaterials } from './assign-material'
import { createBatch, listBatches, sortBatch } from './batches'
import { chooseFixes } from './choose-fixes'
import { claimFiles, findSizesHere } from './claim-files'
import { editBatchItems, renameBatchItems } from './edit-rows'
import { mapSourceFolder } from './map-source-folder'
import { regroup, undoRegroup } from './regroup/regroup'
import type { Uploads } from './uploads'
import { getBatch, getBatchEvidence, getBatchItemFile, getRows } from './worklist'

const fileParams = z.object({
  id: z.coerce.number().int(),
  itemId: z.coerce.number().int(),
  index: z.coerce.number().int().min(0),
})

export function mountIntakeRoutes(app: Express, context: Context, uploads: Uploads): void {
  const { db } = context
  route(app, ENDPOINTS.listBatches, ({ actor }) => listBatches(db, actor))
  route(app, ENDPOINTS.createBatch, async ({ actor, body }) => ({ id: await createBatch(context, actor, body) }))
  route(app, ENDPOINTS.getBatch, ({ actor, params }) => getBatch(db, actor, params.batchId))
  route(app, ENDPOINTS.getRows, ({ actor, params, query }) => getRows(db, actor, params.batchId, query.ids))
  route(app, ENDPOINTS.claimFiles, async ({ actor, params, body }) => ({
    taken: await claimFiles(context, actor, params.batchId, body),
  }))
  route(app, ENDPOINTS.findSizesHere, async ({ actor, params, body }) => ({
    sizes: await findSizesHere(context, actor, params.batchId, body),
  }))
  route(app, ENDPOINTS.sortBatch, async ({ actor, params, body }) => {
    await uploads.finishWhole(params.batchId)
    await sortBatch(context, actor, params.batchId, body?.expected)
    return DONE
  })
  route(app, ENDPOINTS.editBatchItems, async ({ actor, params, body }) => {
    await editBatchItems(context, actor, params.batchId, body)
    return DONE
  })
  route(app, ENDPOINTS.proposeMaterials, ({ actor, params, query }) =>
    proposeMaterials(context, actor, params.batchId, params.itemId, query.part),
  )
  route(app, ENDPOINTS.assignMaterial, async ({ actor, params, body }) => {
    await assignMaterial(context, actor, params.batchId, body)
    return DONE
  })
  route(app, ENDPOINTS.regroup, ({ actor, params, body }) => regroup(context, actor, params.batchId, body))
  route(app, ENDPOINTS.undoRegroup, async ({ actor, params, body }) => {
    await undoRegroup(context, actor, params.batchId, body.undo)
    return DONE
  })
  route(app, ENDPOINTS.renameBatchItems, async ({ actor, params, body }) => {
    await renameBatchItems(context, actor, params.batchId, body.names)
    return DONE
  })
  route(app, ENDPOINTS.mapSourceFolder, async ({ actor, params, body }) => {
    await mapSourceFolder(context, actor, params.batchId, body)
    return DONE
  })
  route(app, ENDPOINTS.acceptRows, ({ actor, params, body }) => acceptRows(context, actor, params.batchId, body.ids))
  route(app, ENDPOINTS.takeBackRows, ({ actor, params, body }) => takeBackRows(context, actor, params.batchId, body.ids))
  route(app, ENDPOINTS.chooseFixes, ({ actor, params, body }) => chooseFixes(context, actor, params.batchId, body))
  app.get('/api/batches/:id/items/:itemId/findings/:index/:which', async (req, res) => {
    const actor = getActor(req)
    const which = z.enum(['before', 'after']).parse(req.params.which)
    const hash = await getBatchEvidence(db, actor, { ...fileParams.parse(req.params), which })
    await sendStored(res, context.storage, { hash, mediaType: 'image/webp' })
  })
  app.get('/api/batches/:id/items/:itemId/files/:index', async (req, res) => {
    const actor = getActor(req)
    const { id, itemId, index } = fileParams.parse(req.params)
    await sendStored(res, context.storage, await getBatchItemFile(db, actor, id, itemId, index))
  })
}
