import { createHash } from 'node:crypto'
import { createWriteStream } from 'node:fs'
import { mkdir } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { Transform } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import yauzl from 'yauzl'
import { FileError, toFailure } from '#core/findings/failure'
import type { FailedFile, SourceFile } from './source-file'

export interface ArchiveLimits {
  maxEntries: number
  maxTotalBytes: number
  /** Unpacked over packed size of one entry, past which it counts as a bomb once it is over 10 MB. */
  maxRatio: number
}

export const DEFAULT_LIMITS: ArchiveLimits = { maxEntries: 100_000, maxTotalBytes: 64 * 1024 ** 3, maxRatio: 400 }

/** Files that operating systems leave in archives and that nobody means to send. */
const isLitter = (path: string) => /(^|\/)(__MACOSX|\.DS_Store|Thumbs\.db|desktop\.ini)(\/|$)/i.test(path)

/**
 * Unpacks a zip into `folder`. An entry that would leave the folder, or that blows up, is refused and named; the rest goes on.
 * What an entry claims of its size is not believed: bytes are counted as they come, and hashed (SHA-256, hexadecimal) on the way.
 */
export async function unpackArchive(
  diskPath: string,
  folder: string,
  limits: ArchiveLimits = DEFAULT_LIMITS,
): Promise<{ files: (SourceFile & { hash: string })[]; failures: FailedFile[] }> {
  const files: (SourceFile & { hash: string })[] = []
  const failures: FailedFile[] = []
  let archive: yauzl.ZipFile
  try {
    archive = await new Promise((resolve, reject) =>
      // Names are checked here, entry by entry, so that one bad name does not end the whole archive.
      yauzl.open(diskPath, { lazyEntries: true, decodeStrings: false, validateEntrySizes: false }, (error, zip) =>
        error ? reject(error) : resolve(zip),
      ),
    )
  } catch {
    throw new FileError('malformed', 'The archive does not open: it is damaged or was cut off.')
  }
  let total = 0
  let count = 0
  await new Promise<void>((resolve, reject) => {
    archive.on('error', () => reject(new FileError('malformed', 'The archive breaks off; what was read until then was kept.')))
    archive.on('end', resolve)
    archive.on('entry', (entry: yauzl.Entry) => {
      takeEntry(entry).then(
        () => archive.readEntry(),
        error => {
          reject(error)
        },
      )
    })
    archive.readEntry()
  }).catch(error => failures.push({ path: '', ...toFailure(error) }))
  archive.close()
  return { files, failures }

  async function takeEntry(entry: yauzl.Entry): Promise<void> {
    const path = (entry.fileName as unknown as Buffer).toString('utf8').replaceAll('\\', '/')
    if (path.endsWith('/') || isLitter(path)) return
    if (++count > limits.maxEntries)
      throw new FileError('archiveBomb', `The archive has more than ${limits.maxEntries} files; the rest was left out.`)
    if (path.includes('\0') || path.startsWith('/') || /^[a-z]:/i.test(path) || path.split('/').includes('..')) {
      failures.push({
        path,
        code: 'unsafePath',
        message: 'The archive would write this file outside its own folder; it was left out.',
      })
      return
    }
    if (entry.isEncrypted?.() || entry.generalPurposeBitFlag & 1) {
      failures.push({
        path,
        code: 'unsupported',
        message: 'The file is encrypted inside the archive; send it without a password.',
      })
      return
    }
    const target = join(folder, path)
    let size = 0
    const digest = createHash('sha256')
    const guard = new Transform({
      transform(chunk: Buffer, _encoding, done) {
        size += chunk.length
        total += chunk.length
        digest.update(chunk)
        const ratio = size / Math.max(1, entry.compressedSize)
        if ((size > 10 * 1024 ** 2 && ratio > limits.maxRatio) || total > limits.maxTotalBytes)
          done(new FileError('archiveBomb', 'The file unpacks to far more than it should; it was left out.'))
        else done(null, chunk)
      },
    })
    try {
      // First of all: a stream that breaks before anybody listens ends the process.
      await mkdir(dirname(target), { recursive: true })
      const stream = await new Promise<NodeJS.ReadableStream>((resolve, reject) =>
        archive.openReadStream(entry, (error, s) => (error ? reject(error) : resolve(s))),
      )
      await pipeline(stream, guard, createWriteStream(target))
      files.push({ path, diskPath: target, size, hash: digest.digest('hex') })
    } catch (error) {
      const failure =
        error instanceof FileError
          ? toFailure(error)
          : { code: 'malformed' as const, message: 'This file does not unpack; the archive is damaged here.' }
      failures.push({ path, ...failure })
      if (total > limits.maxTotalBytes) throw error
    }
  }
}
