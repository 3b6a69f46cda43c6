import { mkdtemp, readdir, rm, stat } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { basename, join } from 'node:path'
import { resolveType } from '#core/codecs/sniff'
import { toFailure } from '#core/findings/failure'
import { unpackArchive } from './archive'
import { type FailedFile, readHead, type SourceFile, sourceFileAt } from './source-file'

export interface CollectedSources {
  files: SourceFile[]
  failures: FailedFile[]
  /** Removes what archives were unpacked into. */
  dispose: () => Promise<void>
}

/** Lists the files at paths given by a person: files, folders walked whole, archives unpacked to a temporary folder. */
export async function collectSources(paths: readonly string[]): Promise<CollectedSources> {
  const files: SourceFile[] = []
  const failures: FailedFile[] = []
  const temporary: string[] = []
  const take = async (diskPath: string, path: string): Promise<void> => {
    if (resolveType(path, await readHead(diskPath)) !== 'zip') {
      files.push(await sourceFileAt(diskPath, path))
      return
    }
    const folder = await mkdtemp(join(tmpdir(), 'muscovite-'))
    temporary.push(folder)
    try {
      const unpacked = await unpackArchive(diskPath, folder)
      files.push(...unpacked.files)
      failures.push(...unpacked.failures.map(f => ({ ...f, path: f.path || path })))
    } catch (error) {
      failures.push({ path, ...toFailure(error) })
    }
  }
  for (const given of paths) {
    try {
      const info = await stat(given)
      if (!info.isDirectory()) {
        await take(given, basename(given))
        continue
      }
      const entries = await readdir(given, { recursive: true, withFileTypes: true })
      for (const entry of entries.filter(e => e.isFile()).sort((a, b) => a.name.localeCompare(b.name))) {
        const diskPath = join(entry.parentPath, entry.name)
        await take(diskPath, diskPath.slice(given.length).replace(/^\/+/, ''))
      }
    } catch {
      failures.push({ path: given, code: 'notFound', message: 'There is no such file or folder, or it may not be read.' })
    }
  }
  return {
    files,
    failures,
    dispose: async () => {
      await Promise.all(temporary.map(folder => rm(folder, { recursive: true, force: true })))
    },
  }
}
