import { AsyncLocalStorage } from 'node:async_hooks'
import { mkdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { FileStore } from '@tus/file-store'
import { Server, type Upload } from '@tus/server'
import type { Express, Response } from 'express'
import { uploadMetadataSchema } from '#shared/contracts/intake.contract'
import type { Person } from '#shared/contracts/session.contract'
import type { Context } from '../services/context'
import { addBatchFile, getReceivingBatch } from '../services/intake'
import { ProblemError } from '../services/problem'
import type { Settings } from '../settings'
import { getActor } from './session'

export const UPLOADS_PATH = '/api/uploads'
const STALE_AFTER_MS = 7 * 24 * 3600 * 1000

/** express-session's own `end` takes a callback for content; the upload server ends its answers with nothing but a callback. */
function takeEndCallbacks(res: Response): void {
  const end = res.end.bind(res) as (...rest: unknown[]) => Response
  res.end = ((...given: unknown[]) => {
    if (typeof given[0] !== 'function') return end(...given)
    res.once('finish', given[0] as () => void)
    return end()
  }) as typeof res.end
}

/** Resumable uploads (the open tus protocol). A finished one becomes a file of its batch, under its hash. */
export async function mountUploads(app: Express, context: Context, settings: Settings): Promise<void> {
  const folder = join(settings.dataFolder, 'uploads')
  await mkdir(folder, { recursive: true })
  const callers = new AsyncLocalStorage<Person>()
  const refuse = (error: unknown) => {
    const { code, message } =
      error instanceof ProblemError ? error : new ProblemError('badRequest', 'The upload does not say which batch it is for.')
    return { status_code: code === 'notFound' ? 404 : code === 'conflict' ? 409 : 400, body: JSON.stringify({ code, message }) }
  }
  const readMetadata = (upload: Upload) => uploadMetadataSchema.parse(upload.metadata ?? {})
  const store = new FileStore({ directory: folder, expirationPeriodInMilliseconds: STALE_AFTER_MS })
  const tus = new Server({
    path: UPLOADS_PATH,
    datastore: store,
    maxSize: settings.maxUploadBytes,
    relativeLocation: true,
    onUploadCreate: async (_req, upload) => {
      try {
        const { batchId } = readMetadata(upload)
        await getReceivingBatch(context.db, callers.getStore()!, batchId)
        return {}
      } catch (error) {
        throw refuse(error)
      }
    },
    onUploadFinish: async (_req, upload) => {
      try {
        const { batchId, path } = readMetadata(upload)
        // An empty file is whole as soon as it is begun, and the upload server still asks for it after this.
        const isEmpty = upload.size === 0
        const whole = join(folder, isEmpty ? `${upload.id}.empty` : upload.id)
        if (isEmpty) await writeFile(whole, '')
        await addBatchFile(context, callers.getStore()!, batchId, path, whole)
        if (!isEmpty) await store.configstore.delete(upload.id)
        return {}
      } catch (error) {
        throw refuse(error)
      }
    },
  })
  app.all(`${UPLOADS_PATH}{/*rest}`, async (req, res) => {
    const actor = await getActor(context.db, req)
    takeEndCallbacks(res)
    await callers.run(actor, () => tus.handle(req, res))
  })
  // Uploads nobody came back for.
  const sweep = () => store.deleteExpired().catch(() => {})
  await sweep()
  setInterval(sweep, 3600_000).unref()
}
