import { createHash } from 'node:crypto'
import { createWriteStream } from 'node:fs'
import { type FileHandle, mkdir, open, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { Transform } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { promisify } from 'node:util'
import { inflateRaw } from 'node:zlib'
import yauzl from 'yauzl'
import { FileError, toFailure } from '#core/findings/failure'
import { hashBytes } from './hash-bytes'
import type { FailedFile, SourceFile } from './source-file'

export interface ArchiveLimits {
  maxEntries: number
  maxTotalBytes: number
  /** Unpacked over packed size of one entry, past which it counts as a bomb once it is over 10 MB. */
  maxRatio: number
}

export const DEFAULT_LIMITS: ArchiveLimits = { maxEntries: 100_000, maxTotalBytes: 64 * 1024 ** 3, maxRatio: 400 }

/** So many entries are unpacked together, because reading, hashing and writing each wait for another part of the machine. */
const AT_ONCE = 6

/** What is packed into no more than this is unpacked as a whole. */
const WHOLE_BYTES = 16 * 1024 ** 2

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
      yauzl.open(
        diskPath,
        { lazyEntries: true, autoClose: false, decodeStrings: false, validateEntrySizes: false },
        (error, zip) => (error ? reject(error) : resolve(zip)),
      ),
    )
  } catch {
    throw new FileError('malformed', 'The archive does not open: it is damaged or was cut off.')
  }
  const handle = await open(diskPath)
  let total = 0
  let count = 0
  const inFlight = new Set<Promise<void>>()
  try {
    let breach: unknown = null
    for await (const entry of entriesOf(archive)) {
      const taken: Promise<void> = takeEntry(entry)
        .catch(error => {
          breach ??= error
        })
        .finally(() => inFlight.delete(taken))
      inFlight.add(taken)
      if (inFlight.size >= AT_ONCE) await Promise.race(inFlight)
      if (breach) break
    }
    await Promise.all(inFlight)
    if (breach) throw breach
  } catch (error) {
    failures.push({ path: '', ...toFailure(error) })
    await Promise.all(inFlight)
  }
  archive.close()
  await handle.close()
  // They end in whatever order; what comes of an archive is the same each time.
  files.sort((a, b) => (a.path < b.path ? -1 : 1))
  return { files, failures }

  function isBomb(size: number, entry: yauzl.Entry): boolean {
    const ratio = size / Math.max(1, entry.compressedSize)
    return (size > 10 * 1024 ** 2 && ratio > limits.maxRatio) || total > limits.maxTotalBytes
  }

  async function unpackInPieces(entry: yauzl.Entry, target: string): Promise<{ size: number; hash: string }> {
    let size = 0
    const digest = createHash('sha256')
    const guard = new Transform({
      transform(chunk: Buffer, _encoding, done) {
        size += chunk.length
        total += chunk.length
        digest.update(chunk)
        if (isBomb(size, entry)) done(bomb())
        else done(null, chunk)
      },
    })
    const stream = await archive.openReadStreamPromise(entry)
    await pipeline(stream, guard, createWriteStream(target))
    return { size, hash: digest.digest('hex') }
  }

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
    try {
      // First of all: a stream that breaks before anybody listens ends the process.
      await mkdir(dirname(target), { recursive: true })
      const bytes = await readWhole(handle, archive, entry)
      if (bytes) {
        total += bytes.length
        if (isBomb(bytes.length, entry)) throw bomb()
        const [hash] = await Promise.all([hashBytes(bytes), writeFile(target, bytes)])
        files.push({ path, diskPath: target, size: bytes.length, hash })
      } else files.push({ path, diskPath: target, ...(await unpackInPieces(entry, target)) })
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

const bomb = () => new FileError('archiveBomb', 'The file unpacks to far more than it should; it was left out.')

const inflate = promisify(inflateRaw)
const [STORED, DEFLATED] = [0, 8]

/** The bytes of a small entry at once, read and inflated off this thread; null where it is large, or packed in another way. */
async function readWhole(handle: FileHandle, archive: yauzl.ZipFile, entry: yauzl.Entry): Promise<Buffer<ArrayBuffer> | null> {
  const { compressedSize, compressionMethod } = entry
  if (compressedSize > WHOLE_BYTES || (compressionMethod !== STORED && compressionMethod !== DEFLATED)) return null
  const { fileDataStart } = await archive.readLocalFileHeaderPromise(entry, { minimal: true })
  const packed = Buffer.allocUnsafe(compressedSize)
  const { bytesRead } = await handle.read(packed, 0, compressedSize, fileDataStart)
  if (bytesRead < compressedSize) throw new FileError('malformed', 'The archive ends in the middle of this file.')
  if (compressionMethod === STORED) return packed
  return inflate(packed, { maxOutputLength: 2 * WHOLE_BYTES }).catch(error => {
    if (error.code === 'ERR_BUFFER_TOO_LARGE') return null
    throw error
  })
}

async function* entriesOf(archive: yauzl.ZipFile): AsyncGenerator<yauzl.Entry> {
  for (;;) {
    const entry = await new Promise<yauzl.Entry | null>((resolve, reject) => {
      archive.once('entry', resolve)
      archive.once('end', () => resolve(null))
      archive.once('error', () =>
        reject(new FileError('malformed', 'The archive breaks off; what was read until then was kept.')),
      )
      archive.readEntry()
    })
    archive.removeAllListeners('entry').removeAllListeners('end').removeAllListeners('error')
    if (entry === null) return
    yield entry
  }
}
