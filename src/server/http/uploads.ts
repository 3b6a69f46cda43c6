import { AsyncLocalStorage } from 'node:async_hooks'
import { mkdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { FileStore } from '@tus/file-store'
import { Server, type Upload } from '@tus/server'
import type { Express, Response } from 'express'
import { z } from 'zod'
import { uploadMetadataSchema } from '#shared/contracts/intake.contract'
import type { Person } from '#shared/contracts/session.contract'
import type { Context } from '../services/context'
import { addBatchFile, getReceivingBatch } from '../services/intake'
import { getPerson } from '../services/people'
import { ProblemError } from '../services/problem'
import type { Settings } from '../settings'
import { getActor } from './session'

export const UPLOADS_PATH = '/api/uploads'
const STALE_AFTER_MS = 7 * 24 * 3600 * 1000
const SWEEP_EVERY_MS = 3600 * 1000

/** express-session's own `end` takes a callback for content; the upload server ends its answers with nothing but a callback. */
function takeEndCallbacks(res: Response): void {
  const end = res.end.bind(res) as (...rest: unknown[]) => Response
  res.end = ((...given: unknown[]) => {
    if (typeof given[0] !== 'function') return end(...given)
    res.once('finish', given[0] as () => void)
    return end()
  }) as typeof res.end
}

/** What the server notes of an upload when it begins: what its sender said of it, and who that was. */
const noteSchema = uploadMetadataSchema.extend({ personId: z.coerce.number().int() })

export interface Uploads {
  /** Puts what lies whole into its batch: the server may have ended between an upload's last byte and its end. */
  finishWhole: (batchId: number) => Promise<void>
}

/** Resumable uploads (the open tus protocol). A finished one becomes a file of its batch, under its hash. */
export async function mountUploads(app: Express, context: Context, settings: Settings): Promise<Uploads> {
  const folder = join(settings.dataFolder, 'uploads')
  await mkdir(folder, { recursive: true })
  const callers = new AsyncLocalStorage<Person>()
  const refuse = (error: unknown) => {
    const { code, message } =
      error instanceof ProblemError ? error : new ProblemError('badRequest', 'The upload does not say which batch it is for.')
    return { status_code: code === 'notFound' ? 404 : code === 'conflict' ? 409 : 400, body: JSON.stringify({ code, message }) }
  }
  const store = new FileStore({ directory: folder, expirationPeriodInMilliseconds: STALE_AFTER_MS })
  const tus = new Server({
    path: UPLOADS_PATH,
    datastore: store,
    maxSize: settings.maxUploadBytes,
    relativeLocation: true,
    onUploadCreate: async (_req, { metadata }) => {
      try {
        const caller = callers.getStore()!
        const { batchId, path } = uploadMetadataSchema.parse(metadata ?? {})
        await getReceivingBatch(context.db, caller, batchId)
        return { metadata: { batchId: String(batchId), path, personId: String(caller.id) } }
      } catch (error) {
        throw refuse(error)
      }
    },
    onUploadFinish: async (_req, upload) => {
      try {
        await finish(upload)
        return {}
      } catch (error) {
        throw refuse(error)
      }
    },
  })

  const finishing = new Map<string, Promise<void>>()
  /** Once at a time: the last bytes, a question and the end of the receiving may all come upon the same upload. */
  const finish = (upload: Upload): Promise<void> => {
    const running = finishing.get(upload.id) ?? putInBatch(upload).finally(() => finishing.delete(upload.id))
    finishing.set(upload.id, running)
    return running
  }
  const putInBatch = async ({ id, size, metadata }: Upload): Promise<void> => {
    const { batchId, path, personId } = noteSchema.parse(metadata ?? {})
    // An empty file is whole as soon as it is begun, and the upload server still asks for it after this.
    const isEmpty = size === 0
    const whole = join(folder, isEmpty ? `${id}.empty` : id)
    if (isEmpty) await writeFile(whole, '')
    const sender = await getPerson(context.db, personId)
    if (!sender) throw new ProblemError('conflict', 'Whoever sent this is not a member any more.')
    await addBatchFile(context, sender, batchId, path, whole)
    if (!isEmpty) await store.configstore.delete(id)
  }
  const findWhole = async (id: string): Promise<Upload | null> => {
    const upload = await store.getUpload(id).catch(() => null)
    return upload?.size !== undefined && upload.offset === upload.size ? upload : null
  }
  const finishEvery = async (isMeant: (upload: Upload) => boolean): Promise<void> => {
    for (const id of (await store.configstore.list?.()) ?? []) {
      const upload = await findWhole(id)
      if (!upload || !isMeant(upload)) continue
      try {
        await finish(upload)
        if (upload.size === 0) await store.remove(id)
      } catch (error) {
        // What its batch does not take any more lies here until it is stale.
        if (!(error instanceof ProblemError)) throw error
      }
    }
  }

  app.head(`${UPLOADS_PATH}/:id`, async (req, res, next) => {
    await getActor(context.db, req)
    const upload = await findWhole(req.params.id)
    if (!upload) {
      next()
      return
    }
    // To its sender a whole upload is a finished one, so finished it has to be.
    await finish(upload)
    res.set({
      'Tus-Resumable': '1.0.0',
      'Cache-Control': 'no-store',
      'Upload-Offset': String(upload.offset),
      'Upload-Length': String(upload.size),
    })
    res.end()
  })
  app.all(`${UPLOADS_PATH}{/*rest}`, async (req, res) => {
    const actor = await getActor(context.db, req)
    takeEndCallbacks(res)
    await callers.run(actor, () => tus.handle(req, res))
  })

  const sweep = async () => {
    const longAgo = Date.now() - SWEEP_EVERY_MS
    await finishEvery(({ creation_date }) => Date.parse(creation_date ?? '') < longAgo)
    // Uploads nobody came back for.
    await store.deleteExpired()
  }
  const sweepQuietly = () => void sweep().catch(() => {})
  sweepQuietly()
  setInterval(sweepQuietly, SWEEP_EVERY_MS).unref()
  return { finishWhole: batchId => finishEvery(({ metadata }) => metadata?.batchId === String(batchId)) }
}
