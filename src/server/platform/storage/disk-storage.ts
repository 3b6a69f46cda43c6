import { createHash, randomUUID } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { access, copyFile, mkdir, rename, rm, stat, unlink, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import type { Storage, StoredFile } from './storage'

/** A folder with one file for each hash, spread over 256 subfolders. */
export class DiskStorage implements Storage {
  constructor(private readonly folder: string) {}

  async takeFile(diskPath: string): Promise<StoredFile> {
    const digest = createHash('sha256')
    for await (const chunk of createReadStream(diskPath)) digest.update(chunk)
    const hash = digest.digest('hex')
    const { size } = await stat(diskPath)
    if (await this.has(hash)) await unlink(diskPath)
    else {
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
    return { hash, size }
  }

  async putBytes(bytes: Uint8Array): Promise<StoredFile> {
    const hash = createHash('sha256').update(bytes).digest('hex')
    if (!(await this.has(hash))) {
      const target = await this.prepare(hash)
      const partial = `${target}.${randomUUID()}`
      await writeFile(partial, bytes)
      await rename(partial, target)
    }
    return { hash, size: bytes.length }
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
    if (!/^[0-9a-f]{64}$/.test(hash)) throw new RangeError('hash: not a SHA-256')
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
