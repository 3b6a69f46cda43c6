import { basename } from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { Express, Request } from 'express'
import { z } from 'zod'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import { tableQuerySchema } from '#shared/contracts/table.contract'
import { SCREEN_COPY_SIDES } from '#shared/picture-widths'
import { route } from '../http/route'
import { sendStored } from '../http/send-file'
import { getActor } from '../http/session'
import { SnapshotAnswers } from '../http/snapshot-answers'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { carryItems } from './carry-items'
import { getChips } from './chips'
import { editItem, prioritizePictures, requestFinalPreview, setItemStates } from './edit-items'
import { getFamily } from './family'
import { setItemFacts } from './item-facts'
import { makeMaterial } from './make-material'
import { ScreenCopies } from './pictures/screen-copies'
import { renameItems } from './rename-items'
import { requestFix } from './request-fix'
import { setCells } from './set-cells'
import { countView, getFindingPicture, getSheet, getVersionFile, noteLook } from './sheet'
import { standBeside } from './stand-beside'
import { listFacetValues, suggestWords } from './suggest-words'
import { exportTable, getTable } from './table'
import { getColorMap, getWall, listCategories } from './wall'

const idParam = z.coerce.number().int().positive()
const screenPxSchema = z.coerce.number().pipe(z.union(SCREEN_COPY_SIDES.map(px => z.literal(px))))

export function mountItemRoutes(app: Express, context: Context, compute: ComputePool): void {
  const { db, pool, storage } = context
  const answers = new SnapshotAnswers()
  route(app, ENDPOINTS.listCategories, ({ actor }) => listCategories(context, actor), answers)
  route(app, ENDPOINTS.getWall, ({ actor, query }) => getWall(context, actor, query), answers)
  route(app, ENDPOINTS.getTable, ({ actor, query }) => getTable(context, actor, query), answers)
  app.get('/api/items/table.csv', async (req, res) => {
    const lines = exportTable(context, getActor(req), tableQuerySchema.parse(req.query))
    res.type('text/csv; charset=utf-8').attachment('items.csv')
    await pipeline(Readable.from(lines), res)
  })
  route(app, ENDPOINTS.getColorMap, ({ actor, query }) => getColorMap(context, actor, query), answers)
  route(app, ENDPOINTS.suggestWords, ({ actor, query }) => suggestWords(context, actor, query))
  route(app, ENDPOINTS.listFacetValues, ({ actor, query }) => listFacetValues(context, actor, query))
  route(app, ENDPOINTS.getChips, ({ actor, query }) => getChips(pool, actor, query.ids))
  route(
    app,
    ENDPOINTS.getSheet,
    async ({ actor, params, query }) => {
      const sheet = await getSheet(pool, actor, params.code, query.version ?? null)
      // What somebody looks at is rendered before what nobody has asked for.
      if (sheet.preview?.quality !== 'final' || sheet.preview.isOlder) await prioritizePictures(context, sheet.version.id)
      return sheet
    },
    answers,
  )
  route(app, ENDPOINTS.getFamily, ({ actor, query }) => getFamily(context, actor, query))
  route(app, ENDPOINTS.carryItems, ({ actor, body }) => carryItems(context, actor, body))
  route(app, ENDPOINTS.setStates, ({ actor, body }) => setItemStates(context, actor, body.ids, body.state))
  route(app, ENDPOINTS.setFacts, ({ actor, body }) => setItemFacts(context, actor, body.items))
  route(app, ENDPOINTS.setCells, ({ actor, body }) => setCells(context, actor, body.items))
  route(app, ENDPOINTS.renameItems, async ({ actor, body }) => {
    const { changed, refused } = await renameItems(context, actor, body.names)
    return { changed, refused }
  })
  route(app, ENDPOINTS.editItem, async ({ actor, params, body }) => {
    await editItem(context, actor, params.id, body)
    return DONE
  })
  route(app, ENDPOINTS.standBeside, ({ actor, params, body }) => standBeside(context, actor, params.id, body.name))
  route(app, ENDPOINTS.makeMaterial, ({ actor, params, body }) => makeMaterial(context, actor, params.id, body))
  route(app, ENDPOINTS.renderFinal, async ({ actor, params }) => {
    await requestFinalPreview(context, actor, params.id)
    return DONE
  })
  route(app, ENDPOINTS.countView, async ({ actor, params }) => {
    await countView(db, actor, params.id)
    await noteLook(db, actor, params.id)
    return DONE
  })

  route(app, ENDPOINTS.fixItem, async ({ actor, params, body }) => {
    await requestFix(context, actor, params.id, body.findingIds)
    return DONE
  })
  app.get('/api/findings/:id/:which', async (req, res) => {
    const actor = getActor(req)
    const which = z.enum(['before', 'after']).parse(req.params.which)
    const hash = await getFindingPicture(db, actor, idParam.parse(req.params.id), which)
    await sendStored(res, storage, { hash, mediaType: 'image/webp' })
  })
  const versionFile = (req: Request) =>
    getVersionFile(db, getActor(req), idParam.parse(req.params.id), z.coerce.number().int().min(0).parse(req.params.position))
  const copies = new ScreenCopies({ ...context, compute })
  app.get('/api/versions/:id/files/:position/screen', async (req, res) => {
    const longerPx = screenPxSchema.parse(req.query.px)
    await sendStored(res, storage, await copies.get(await versionFile(req), longerPx))
  })
  app.get('/api/versions/:id/files/:position', async (req, res) => {
    const file = await versionFile(req)
    await sendStored(res, storage, file, req.query.download === undefined ? undefined : basename(file.path))
  })
}
