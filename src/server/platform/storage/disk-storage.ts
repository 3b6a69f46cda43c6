import { randomUUID } from 'node:crypto'
import { access, copyFile, mkdir, readdir, rename, rm, stat, unlink, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import type { Storage } from './storage'

const HASH = /^[0-9a-f]{64}$/

/** A folder with one file for each hash, spread over 256 subfolders. */
export class DiskStorage implements Storage {
  constructor(private readonly folder: string) {}

  get sharedFolder(): string {
    return this.folder
  }

  async place(hash: string, diskPath: string): Promise<void> {
    if (await this.has(hash)) {
      await rm(diskPath, { force: true })
      return
    }
    const target = await this.prepare(hash)
    await rename(diskPath, target).catch(async error => {
      if (error.code !== 'EXDEV') throw error
      // Another file system: copied under a temporary name first, so that no half file ever has a hash for a name.
      const partial = `${target}.${randomUUID()}`
      await copyFile(diskPath, partial)
      await rename(partial, target)
      await rm(diskPath, { force: true })
    })
  }

  async put(hash: string, bytes: Uint8Array): Promise<void> {
    if (await this.has(hash)) return
    const target = await this.prepare(hash)
    const partial = `${target}.${randomUUID()}`
    await writeFile(partial, bytes)
    await rename(partial, target)
  }

  async remove(hash: string): Promise<void> {
    await rm(this.pathOf(hash), { force: true })
  }

  async *list(): AsyncIterable<{ hash: string; size: number; modifiedAt: Date }> {
    for (const entry of await readdir(this.folder, { withFileTypes: true })) {
      if (!entry.isDirectory() || !/^[0-9a-f]{2}$/.test(entry.name)) continue
      for (const name of await readdir(join(this.folder, entry.name))) {
        if (!HASH.test(name)) continue
        const info = await stat(join(this.folder, entry.name, name)).catch(() => null)
        if (info) yield { hash: name, size: info.size, modifiedAt: info.mtime }
      }
    }
  }

  async localPath(hash: string): Promise<string> {
    return this.pathOf(hash)
  }

  async check(): Promise<void> {
    const probe = join(this.folder, `.probe-${randomUUID()}`)
    try {
      await mkdir(this.folder, { recursive: true })
      await writeFile(probe, 'x')
      await unlink(probe)
    } catch {
      throw new Error(`The folder ${this.folder} cannot be written.`)
    }
  }

  private pathOf(hash: string): string {
    if (!HASH.test(hash)) throw new RangeError('hash: not a SHA-256')
    return join(this.folder, hash.slice(0, 2), hash)
  }

  private async prepare(hash: string): Promise<string> {
    const path = this.pathOf(hash)
    await mkdir(dirname(path), { recursive: true })
    return path
  }

  private has(hash: string): Promise<boolean> {
    return access(this.pathOf(hash)).then(
      () => true,
      () => false,
    )
  }
}

export function openStorage(url: string): Storage {
  if (url.startsWith('file:')) return new DiskStorage(fileURLToPath(url))
  throw new Error(`MUSCOVITE_STORAGE_URL: ${url.split(':')[0]} is not supported; give a file:// address.`)
}
