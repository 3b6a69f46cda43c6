import type { Express } from 'express'
import { z } from 'zod'
import { parseCompareKeys } from '#shared/compare-key'
import { PICTURE_FORMATS } from '#shared/contracts/compare.contract'
import { ENDPOINTS } from '#shared/contracts/endpoints'
import { route } from '../http/route'
import { sendStored } from '../http/send-file'
import { getActor, getAnybody } from '../http/session'
import { SnapshotCache } from '../http/snapshot-answers'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { getComparison } from './compare'
import { getPreviewFile } from './previews'
import { saveComparison, savePicture } from './save-picture'

/** Which bytes a picture's address means is a question of access alone; pages ask it for every picture that they show. */
const KEPT_HASHES = 20_000

const idParam = z.coerce.number().int().positive()
const widthParam = z.union([z.null(), z.coerce.number().int().positive()])

export function mountPreviewRoutes(app: Express, context: Context, compute: ComputePool): void {
  const { pool, storage } = context
  const saving = { ...context, compute }
  const hashes = new SnapshotCache<string>(KEPT_HASHES)
  route(app, ENDPOINTS.getComparison, ({ actor, query }) => getComparison(context, actor, parseCompareKeys(query.of)))
  app.get('/api/previews/:id', async (req, res) => {
    const actor = getAnybody(req)
    const id = idParam.parse(req.params.id)
    const width = widthParam.parse(req.query.w ?? null)
    const hash = await hashes.get(req, () => getPreviewFile(pool, actor.id, id, { width }))
    await sendStored(res, storage, { hash, mediaType: 'image/webp' })
  })
  app.get('/api/previews/:id/file', async (req, res) => {
    const actor = getActor(req)
    const format = z.enum(PICTURE_FORMATS).parse(req.query.format)
    const name = z
      .string()
      .regex(/^[\w-]{1,60}$/)
      .catch('preview')
      .parse(req.query.name)
    const { bytes, mediaType, extension } = await savePicture(saving, actor, idParam.parse(req.params.id), format)
    res.attachment(`${name}.${extension}`).type(mediaType).send(Buffer.from(bytes))
  })
  app.get('/api/compare/file', async (req, res) => {
    const actor = getActor(req)
    const format = z.enum(PICTURE_FORMATS).parse(req.query.format)
    const keys = parseCompareKeys(z.string().max(600).parse(req.query.of))
    const { bytes, mediaType, extension } = await saveComparison(saving, actor, keys, format)
    res
      .attachment(`compare-${keys.map(k => k.code).join('-')}.${extension}`)
      .type(mediaType)
      .send(Buffer.from(bytes))
  })
  app.get('/api/previews/:id/linear', async (req, res) => {
    await sendStored(res, storage, {
      hash: await getPreviewFile(pool, getActor(req).id, idParam.parse(req.params.id), 'linear'),
      mediaType: 'image/x-exr',
    })
  })
}
