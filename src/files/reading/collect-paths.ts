import { readdir, stat } from 'node:fs/promises'
import { basename, join, relative } from 'node:path'

export interface LocalFile {
  diskPath: string
  /** By which it is known in the delivery: relative, forward slashes, beginning with the folder's own name. */
  path: string
  size: number
}

/** Every file at or below a path, in order; hidden ones are nobody's delivery. Rejects where there is nothing at the path. */
export async function collectPaths(path: string): Promise<LocalFile[]> {
  const info = await stat(path)
  if (!info.isDirectory()) return [{ diskPath: path, path: basename(path), size: info.size }]
  const entries = await readdir(path, { recursive: true, withFileTypes: true })
  const found = entries
    .filter(e => e.isFile())
    .map(e => join(e.parentPath, e.name))
    .map(diskPath => ({ diskPath, path: `${basename(path)}/${relative(path, diskPath).replaceAll('\\', '/')}` }))
    .filter(f => !f.path.split('/').some(part => part.startsWith('.')))
    .sort((a, b) => a.path.localeCompare(b.path))
  return Promise.all(found.map(async f => ({ ...f, size: (await stat(f.diskPath)).size })))
}
