import { AsyncLocalStorage } from 'node:async_hooks'
import { createWriteStream } from 'node:fs'
import { mkdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { FileStore } from '@tus/file-store'
import { Server, type Upload } from '@tus/server'
import type { Express, Response } from 'express'
import type { Logger } from 'pino'
import { z } from 'zod'
import { uploadMetadataSchema } from '#shared/contracts/intake.contract'
import type { Person } from '#shared/contracts/session.contract'
import { statusOf, toProblem } from '../http/problems'
import { getActor } from '../http/session'
import { getPerson } from '../platform/access'
import type { Context } from '../platform/context'
import { toLogText } from '../platform/log-text'
import { ProblemError } from '../platform/problem'
import type { Settings } from '../platform/settings'
import type { RunningHashes } from '../platform/storage/running-hashes'
import { addBatchFile, getReceivingBatch } from './batches'
import { UploadLocks } from './upload-locks'

export const UPLOADS_PATH = '/api/uploads'
const STALE_AFTER_MS = 7 * 24 * 3600 * 1000
const WRITTEN_AT_ONCE = 4 * 1024 ** 2
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

/** @throws ProblemError */
function readMetadata<T>(schema: z.ZodType<T>, metadata: unknown): T {
  const read = schema.safeParse(metadata ?? {})
  if (!read.success) throw new ProblemError('badRequest', 'The upload does not say which batch it is for.')
  return read.data
}

/** Keeps uploads in a folder, and has each hashed while it comes. */
class HashingStore extends FileStore {
  constructor(
    private readonly hashes: RunningHashes,
    private readonly folder: string,
    private readonly refuse: (error: unknown) => unknown,
  ) {
    super({ directory: folder, expirationPeriodInMilliseconds: STALE_AFTER_MS })
  }

  override async write(...[readable, id, offset]: Parameters<FileStore['write']>): Promise<number> {
    const path = join(this.folder, id)
    // What comes faster than it is written is written in one go: a turn to the disk for each piece of the network's costs more than the writing.
    const file = createWriteStream(path, { flags: 'r+', start: offset, highWaterMark: WRITTEN_AT_ONCE })
    await pipeline(readable, file).catch(error => Promise.reject(this.refuse(error)))
    const written = offset + file.bytesWritten
    this.hashes.advance(id, path, written)
    return written
  }
}

export interface Uploads {
  /** Puts what lies whole into its batch: the server may have ended between an upload's last byte and its end. */
  finishWhole: (batchId: number) => Promise<void>
  close: () => Promise<void>
}

/** Resumable uploads (the open tus protocol). A finished one becomes a file of its batch, under its hash. */
export async function mountUploads(
  app: Express,
  context: Context,
  { settings, hashes, databaseUrl, log }: { settings: Settings; hashes: RunningHashes; databaseUrl: string; log: Logger },
): Promise<Uploads> {
  // Where every server sees it: the rest of an upload may come over another one.
  const folder = join(context.storage.sharedFolder, 'uploads')
  await mkdir(folder, { recursive: true })
  const locks = new UploadLocks(databaseUrl)
  const callers = new AsyncLocalStorage<Person>()
  /** What is the server's own trouble is told as such: the sender tries again by itself. */
  const refuse = (error: unknown) => {
    const expected = toProblem(error)
    if (!expected) log.error({ error: toLogText(error) }, 'an upload could not be kept')
    const problem = expected ?? { code: 'internal', message: 'The server could not keep this file.' }
    return { status_code: statusOf(problem), body: JSON.stringify(problem) }
  }
  const store = new HashingStore(hashes, folder, refuse)
  const tus = new Server({
    path: UPLOADS_PATH,
    datastore: store,
    locker: locks,
    maxSize: settings.maxUploadBytes,
    relativeLocation: true,
    onUploadCreate: async (_req, { metadata }) => {
      try {
        const caller = callers.getStore()!
        const { batchId, path } = readMetadata(uploadMetadataSchema, metadata)
        await getReceivingBatch(context.db, caller, batchId)
        return { metadata: { batchId: String(batchId), path, personId: String(caller.id) } }
      } catch (error) {
        throw refuse(error)
      }
    },
    onUploadFinish: async (_req, upload) => {
      try {
        await finish(upload.id)
        return {}
      } catch (error) {
        throw refuse(error)
      }
    },
  })

  /**
   * Once: the last bytes, a question and the end of the receiving may all come upon the same upload, at any of the servers. One that is
   * in its batch has no note any more.
   */
  const finish = (id: string): Promise<void> =>
    locks.run(`finish/${id}`, async () => {
      const upload = await store.configstore.get(id)
      if (upload) await putInBatch(upload)
    })
  const putInBatch = async ({ id, size, metadata }: Upload): Promise<void> => {
    const { batchId, path, personId } = readMetadata(noteSchema, metadata)
    // An empty file is whole as soon as it is begun, and the upload server still asks for it after this.
    const isEmpty = size === 0
    const whole = join(folder, isEmpty ? `${id}.empty` : id)
    if (isEmpty) await writeFile(whole, '')
    const sender = await getPerson(context.db, personId)
    if (!sender) throw new ProblemError('conflict', 'Whoever sent this is not a member any more.')
    await addBatchFile(context, sender, batchId, path, whole, await hashes.digest(id, whole, size ?? 0))
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
        await finish(upload.id)
        if (upload.size === 0) await store.remove(id)
      } catch (error) {
        // What its batch does not take any more lies here until it is stale.
        if (!(error instanceof ProblemError)) throw error
      }
    }
  }

  app.head(`${UPLOADS_PATH}/:id`, async (req, res, next) => {
    getActor(req)
    const upload = await findWhole(req.params.id)
    if (!upload) {
      next()
      return
    }
    // To its sender a whole upload is a finished one, so finished it has to be.
    await finish(upload.id)
    res.set({
      'Tus-Resumable': '1.0.0',
      'Cache-Control': 'no-store',
      'Upload-Offset': String(upload.offset),
      'Upload-Length': String(upload.size),
    })
    res.end()
  })
  app.all(`${UPLOADS_PATH}{/*rest}`, async (req, res) => {
    const actor = getActor(req)
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
  return {
    finishWhole: batchId => finishEvery(({ metadata }) => metadata?.batchId === String(batchId)),
    close: () => locks.close(),
  }
}
