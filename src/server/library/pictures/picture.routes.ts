import { randomUUID } from 'node:crypto'
import { createWriteStream } from 'node:fs'
import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { Transform } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { Express, Request } from 'express'
import { z } from 'zod'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import { route } from '../../http/route'
import { sendStored } from '../../http/send-file'
import { getActor, getAnybody } from '../../http/session'
import type { ComputePool } from '../../platform/compute/compute-pool'
import type { Context } from '../../platform/context'
import { ProblemError } from '../../platform/problem'
import type { Settings } from '../../platform/settings'
import { bringOwnPicture, getOwnPictureFile, listOwnPictures, setOwnPictures, takeDeliveredPicture } from './own-pictures'

/** A picture of 16K square, losslessly compressed, is below this. */
const MAX_PICTURE_BYTES = 1024 ** 3
/** What somebody drops on the search line is a photograph. */
const MAX_LOOK_BYTES = 100 * 1024 ** 2

const idOf = z.coerce.number().int().positive()
const nameOf = z
  .string()
  .min(1)
  .max(200)
  .regex(/\.(png|jpe?g|webp|tiff?|hdr|exr)$/i, 'A picture is a PNG, JPEG, WebP, TIFF, Radiance HDR or OpenEXR file.')

export function mountPictureRoutes(app: Express, context: Context, settings: Settings, compute: ComputePool): void {
  const { db } = context
  const folder = join(settings.dataFolder, 'temporary')
  route(app, ENDPOINTS.listOwnPictures, ({ actor }) => listOwnPictures(db, actor))
  route(app, ENDPOINTS.setOwnPictures, async ({ actor, body }) => {
    await setOwnPictures(context, actor, body)
    return DONE
  })
  route(app, ENDPOINTS.takeDeliveredPicture, async ({ actor, params, body }) => {
    await takeDeliveredPicture(context, actor, params.id, body.hash)
    return DONE
  })
  /** The body is the file itself, streamed to disk and gone afterwards. */
  const withPicture = async <T>(req: Request, mostBytes: number, use: (path: string) => Promise<T>): Promise<T> => {
    await mkdir(folder, { recursive: true })
    const path = join(folder, randomUUID())
    try {
      await pipeline(req, limitBytes(mostBytes), createWriteStream(path))
      return await use(path)
    } finally {
      await rm(path, { force: true })
    }
  }
  app.put('/api/items/:id/own-picture', async (req, res) => {
    const actor = getActor(req)
    const id = idOf.parse(req.params.id)
    const name = nameOf.parse(req.query.name)
    await withPicture(req, MAX_PICTURE_BYTES, path => bringOwnPicture(context, actor, id, name, path))
    res.json(DONE)
  })
  // Nothing of it is kept: what it looks like goes into the address.
  app.put('/api/looks', async (req, res) => {
    getActor(req)
    const look = await withPicture(req, MAX_LOOK_BYTES, diskPath => compute.run('look', { diskPath }))
    res.json({ look })
  })
  app.get('/api/own-pictures/:id', async (req, res) => {
    const actor = getAnybody(req)
    const hash = await getOwnPictureFile(db, actor, idOf.parse(req.params.id))
    await sendStored(res, context.storage, { hash, mediaType: 'image/webp' })
  })
}

function limitBytes(most: number): Transform {
  let seen = 0
  return new Transform({
    transform(chunk: Buffer, _encoding, done) {
      seen += chunk.length
      if (seen > most) done(new ProblemError('tooLarge', 'A picture may have 1 GB at most; nothing was changed.'))
      else done(null, chunk)
    },
  })
}
