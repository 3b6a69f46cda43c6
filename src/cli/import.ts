import { createReadStream } from 'node:fs'
import { basename } from 'node:path'
import * as tus from 'tus-js-client'
import { z } from 'zod'
import { collectPaths, type LocalFile } from '#files/reading/collect-paths'
import { hashFile } from '#files/reading/hash-bytes'
import { type Batch, type BatchItem, batchItemSchema, batchSchema } from '#shared/contracts/intake.contract'
import { claimFile, findKnownSizes, SENT_AT_ONCE, sendingOptions } from '#shared/sending'
import { type Client, type Credentials, ImportError, signIn } from './client'
import type { Output } from './output'

export interface ImportWish extends Credentials {
  path: string
  /** Key or title of a library. */
  library: string
  title?: string
  maker?: string
  licence?: string
  /** Wait until everything is sorted and measured. */
  wait: boolean
}

export interface ImportResult {
  batchId: number
  address: string
  files: number
  /** Of these, those that were there already and were not sent. */
  known: number
  /** Null when nobody waited. */
  batch: Batch | null
  /** Its rows, once they are measured. */
  rows: BatchItem[]
}

const ASK_EVERY_MS = 1000

/**
 * Takes what lies at a path into a running Muscovite as a delivery of its own, over its ordinary interface. Given again after it broke
 * off, it sends only what did not arrive: the rest is known by its hash.
 * @param report gets short lines on how it goes on
 * @throws ImportError with what went wrong and what was kept
 */
export async function importDelivery(wish: ImportWish, report: (line: string) => void): Promise<ImportResult> {
  const files = await collectPaths(wish.path).catch(() => {
    throw new ImportError(`${wish.path} is not there, or may not be read.`)
  })
  if (files.length === 0) throw new ImportError(`${wish.path} holds no files.`)
  const client = await signIn(wish)
  const library = client.libraries.find(l => [l.key, l.title].some(n => n.toLowerCase() === wish.library.toLowerCase()))
  if (!library)
    throw new ImportError(
      `There is no library ${wish.library} for ${client.name}. There are: ${client.libraries.map(l => l.key).join(', ')}.`,
    )
  const { id: batchId } = z.object({ id: z.number() }).parse(
    await client.ask('POST', '/api/batches', {
      library: library.key,
      title: wish.title ?? basename(wish.path).replace(/\.zip$/i, ''),
      maker: wish.maker ?? '',
      licence: wish.licence ?? '',
    }),
  )
  const address = `${wish.server}/intake/${batchId}`
  const known = await sendAll(client, batchId, files, report)
  await client.ask('POST', `/api/batches/${batchId}/sort`, { expected: new Set(files.map(f => f.path)).size })
  const result = { batchId, address, files: files.length, known }
  if (!wish.wait) return { ...result, batch: null, rows: [] }
  for (;;) {
    await new Promise(resolve => setTimeout(resolve, ASK_EVERY_MS))
    const batch = batchSchema.parse(await client.ask('GET', `/api/batches/${batchId}`))
    if (batch.state === 'failed') throw new ImportError(`${batch.message ?? 'It could not be sorted.'} ${address}`)
    if (batch.state === 'open' && batch.measuring === 0) return { ...result, batch, rows: await readRows(client, batch) }
    report(batch.state === 'open' ? `measured ${batch.rowIds.length - batch.measuring} of ${batch.rowIds.length}` : 'sorting')
  }
}

const ROWS_AT_ONCE = 400

async function readRows(client: Client, { id, rowIds }: Batch): Promise<BatchItem[]> {
  const rows: BatchItem[] = []
  for (let at = 0; at < rowIds.length; at += ROWS_AT_ONCE) {
    const ids = rowIds.slice(at, at + ROWS_AT_ONCE).join()
    rows.push(...z.array(batchItemSchema).parse(await client.ask('GET', `/api/batches/${id}/rows?ids=${ids}`)))
  }
  return rows
}

/** Sends files into a batch, resumably, and not what is there already; gives how many were. */
export async function sendAll(
  client: Client,
  batchId: number,
  files: readonly LocalFile[],
  report: (line: string) => void,
): Promise<number> {
  let done = 0
  let known = 0
  const post = (to: string, body: unknown) => client.ask('POST', to, body)
  const knownSizes = await findKnownSizes(post, batchId, files)
  const isHereAlready = async ({ path, diskPath, size }: LocalFile) =>
    knownSizes.has(size) && (await claimFile(post, batchId, { path, hash: await hashFile(diskPath), size }))
  const queue = files.values()
  await Promise.all(
    Array.from({ length: SENT_AT_ONCE }, async () => {
      for (const file of queue) {
        if (await isHereAlready(file)) known++
        else await send(client, batchId, file)
        done++
        if (done % 25 === 0 || done === files.length) report(`${done} of ${files.length} files`)
      }
    }),
  )
  return known
}

const send = (client: Client, batchId: number, { path, diskPath, size }: LocalFile): Promise<void> =>
  new Promise((resolve, reject) => {
    const upload = new tus.Upload(createReadStream(diskPath) as never, {
      ...sendingOptions(batchId, path, client.server),
      uploadSize: size,
      headers: client.headers,
      storeFingerprintForResuming: false,
      onSuccess: () => resolve(),
      onError: error =>
        reject(new ImportError(`${path} could not be sent: ${error.message}. What was sent before is kept in the batch.`)),
    })
    upload.start()
  })

/** Exit status: 0 taken in, 1 not, or something in it failed. */
export async function runImport(wish: ImportWish, json: boolean, { print, report }: Output): Promise<number> {
  let result: ImportResult
  try {
    result = await importDelivery(wish, report)
  } catch (error) {
    if (!(error instanceof ImportError)) throw error
    report(`muscovite: ${error.message}`)
    return 1
  }
  const { batch, rows, ...rest } = result
  const failed = batch?.failed ?? 0
  const summary = batch
    ? {
        items: rows.length,
        findings: rows.reduce((sum, i) => sum + i.findings.length, 0),
        mustFix: rows.filter(i => i.findings.some(f => f.severity === 'mustFix')).length,
        inLibrary: rows.filter(i => i.conflict !== null).length,
        leftOver: batch.notInItems.filter(f => f.outcome === 'leftOver').length,
        failed,
      }
    : null
  if (json) print(`${JSON.stringify({ ...rest, ...summary })}\n`)
  else {
    const lines = [`${rest.files} files taken in as delivery ${rest.batchId}, ${rest.known} of them here already.`]
    if (summary)
      lines.push(
        `${summary.items} items: ${summary.findings} findings, ${summary.mustFix} items with something that must be fixed, ${summary.inLibrary} like one in the library.`,
        `${summary.leftOver} files left over, ${failed} failed.`,
      )
    print(`${[...lines, rest.address].join('\n')}\n`)
  }
  return failed > 0 ? 1 : 0
}
