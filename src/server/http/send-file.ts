import type { Response } from 'express'
import type { Storage } from '../platform/storage/storage'

/** Bytes under a hash never change, so whoever has them need not ask again; the cache stays private to the person. */
export async function sendStored(
  res: Response,
  storage: Storage,
  file: { hash: string; mediaType: string },
  download?: string,
): Promise<void> {
  const path = await storage.localPath(file.hash)
  res.set({
    'Content-Type': file.mediaType,
    'Cache-Control': 'private, max-age=31536000, immutable',
    'X-Content-Type-Options': 'nosniff',
  })
  if (download) res.attachment(download)
  await new Promise<void>((resolve, reject) =>
    res.sendFile(path, { cacheControl: false, dotfiles: 'allow' }, error => {
      // A reader who goes away in the middle is no fault of ours.
      const wentAway = error && 'code' in error && (error.code === 'ECONNABORTED' || error.code === 'EPIPE')
      if (error && !wentAway && !res.headersSent) reject(error)
      else resolve()
    }),
  )
}
