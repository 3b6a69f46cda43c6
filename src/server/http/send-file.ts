import { readFile, stat } from 'node:fs/promises'
import type { Response } from 'express'
import { LRUCache } from 'lru-cache'
import type { Storage } from '../platform/storage/storage'

/** Pictures of the wall are a few kilobytes, and everybody looks at the same ones. */
const SMALL_BYTES = 512 * 1024
const small = new LRUCache<string, Buffer>({ maxSize: 64 * 1024 ** 2, sizeCalculation: bytes => Math.max(1, bytes.length) })

/** Bytes under a hash never change, so whoever has them need not ask again; the cache stays private to the person. */
export async function sendStored(
  res: Response,
  storage: Storage,
  file: { hash: string; mediaType: string },
  download?: string,
): Promise<void> {
  res.set({
    'Content-Type': file.mediaType,
    'Cache-Control': 'private, max-age=31536000, immutable',
    'X-Content-Type-Options': 'nosniff',
  })
  if (download) res.attachment(download)
  const path = await storage.localPath(file.hash)
  const held = small.get(file.hash) ?? (await readSmall(path, file.hash))
  if (held) {
    res.end(held)
    return
  }
  await new Promise<void>((resolve, reject) =>
    res.sendFile(path, { cacheControl: false, dotfiles: 'allow' }, error => {
      // A reader who goes away in the middle is no fault of ours.
      const wentAway = error && 'code' in error && (error.code === 'ECONNABORTED' || error.code === 'EPIPE')
      if (error && !wentAway && !res.headersSent) reject(error)
      else resolve()
    }),
  )
}

async function readSmall(path: string, hash: string): Promise<Buffer | null> {
  const { size } = await stat(path)
  if (size > SMALL_BYTES) return null
  const bytes = await readFile(path)
  small.set(hash, bytes)
  return bytes
}
