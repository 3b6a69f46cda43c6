import { randomUUID } from 'node:crypto'
import { copyFile, mkdir, readdir, stat } from 'node:fs/promises'
import { basename, join, relative } from 'node:path'
import type { Actor } from '../db/access'
import type { Context } from './context'
import { addBatchFile, createBatch, sortBatch } from './intake'
import { ProblemError } from './problem'

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
  const files = await listFiles(path)
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

/** Every file at or below a path, under the path it is known by in the delivery; hidden ones are nobody's delivery. */
async function listFiles(path: string): Promise<{ diskPath: string; path: string }[]> {
  const info = await stat(path)
  if (!info.isDirectory()) return [{ diskPath: path, path: basename(path) }]
  const entries = await readdir(path, { recursive: true, withFileTypes: true })
  return entries
    .filter(e => e.isFile())
    .map(e => join(e.parentPath, e.name))
    .map(diskPath => ({ diskPath, path: `${basename(path)}/${relative(path, diskPath)}` }))
    .filter(f => !f.path.split('/').some(part => part.startsWith('.')))
    .sort((a, b) => a.path.localeCompare(b.path))
}
