import { createWriteStream } from 'node:fs'
import type { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import yauzl from 'yauzl'
import { FileError } from '#core/findings/failure'

export interface ArchiveEntry {
  bytes: number
  /** Opens its bytes; the archive closes when they were read, or the stream is destroyed. */
  open: () => Promise<Readable>
  close: () => void
}

/** One entry of a zip by its path, without unpacking the others; null where there is none. @throws FileError */
export async function findEntry(diskPath: string, path: string): Promise<ArchiveEntry | null> {
  const archive = await yauzl.openPromise(diskPath, { lazyEntries: true, autoClose: false }).catch(() => {
    throw new FileError('malformed', 'The archive does not open: it is damaged or was cut off.')
  })
  for await (const entry of archive.eachEntry()) {
    if (entry.fileName !== path) continue
    return {
      bytes: entry.uncompressedSize,
      open: async () => {
        const stream = await archive.openReadStreamPromise(entry)
        stream.once('close', () => archive.close())
        return stream
      },
      close: () => archive.close(),
    }
  }
  archive.close()
  return null
}

/** Writes one entry of a zip as a file. @throws FileError when it is not there, or does not unpack */
export async function takeEntry(diskPath: string, path: string, to: string): Promise<void> {
  const entry = await findEntry(diskPath, path)
  if (!entry) throw new FileError('notFound', `${path} is not in the archive.`)
  try {
    await pipeline(await entry.open(), createWriteStream(to))
  } catch {
    throw new FileError('malformed', `${path} does not unpack; the archive is damaged there.`)
  }
}
