import { randomUUID } from 'node:crypto'
import { copyFile, mkdir } from 'node:fs/promises'
import { basename, join } from 'node:path'
import { collectPaths } from '#files/reading/collect-paths'
import type { Actor } from '../platform/access'
import type { Context } from '../platform/context'
import { ProblemError } from '../platform/problem'
import { addBatchFile, createBatch, sortBatch } from './batches'

export interface ImportWish {
  /** A file, an archive or a folder on this machine. It is copied, and stays. */
  path: string
  library: string
  title?: string
  maker?: string
}

/** Takes what lies on this machine in as a delivery of its own. Gives the batch. */
export async function importPath(
  context: Context & { temporaryFolder: string },
  actor: Actor,
  { path, library, title, maker = '' }: ImportWish,
): Promise<number> {
  const files = await collectPaths(path)
  if (files.length === 0) throw new ProblemError('badRequest', `${basename(path)} holds no files.`)
  const batchId = await createBatch(context, actor, { library, title: title ?? basename(path), maker, licence: '' })
  await mkdir(context.temporaryFolder, { recursive: true })
  for (const file of files) {
    const copy = join(context.temporaryFolder, randomUUID())
    await copyFile(file.diskPath, copy)
    await addBatchFile(context, actor, batchId, file.path, copy)
  }
  await sortBatch(context, actor, batchId)
  return batchId
}
