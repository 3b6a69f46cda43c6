import { createHash } from 'node:crypto'
import { stat } from 'node:fs/promises'
import { sql } from 'drizzle-orm'
import { MEDIA_TYPES, resolveType } from '#core/codecs/sniff'
import { hashFile } from '#files/reading/hash-bytes'
import type { SourceFile } from '#files/reading/source-file'
import { readHead } from '#files/reading/source-file'
import { files } from '../../tables/library.table'
import { type Connection, inChunks, isOneOf } from '../database'
import type { Storage, StoredFile } from './storage'

/**
 * Bytes and their row in the database. The row always comes first, with the time: what is collected is chosen by that time and taken
 * away while its row is locked, so bytes that somebody is just bringing are never those that somebody is just throwing away.
 */
interface Store {
  db: Connection
  storage: Storage
}

const AT_ONCE = 16

const noteFiles = (db: Connection, rows: readonly (StoredFile & { mediaType: string })[]) =>
  db
    .insert(files)
    .values([...rows])
    .onConflictDoUpdate({ target: files.hash, set: { lastPutAt: sql`now()` } })

/**
 * Takes a file that lies on disk over; its type is told by its head and by the path it came under.
 * @param hash where it is known already
 */
export async function storeFile(store: Store, diskPath: string, path: string, hash?: string): Promise<StoredFile> {
  const stored = { hash: hash ?? (await hashFile(diskPath)), size: (await stat(diskPath)).size }
  await storeHashedFiles(store, [{ ...stored, diskPath, path }])
  return stored
}

/** The same for many whose hashes are known. */
export async function storeHashedFiles(
  { db, storage }: Store,
  given: readonly (StoredFile & { diskPath: string; path: string })[],
): Promise<void> {
  for (const chunk of inChunks(given)) {
    const typed = await eachOf(chunk, async ({ hash, size, diskPath, path }) => ({
      hash,
      size,
      mediaType: MEDIA_TYPES[resolveType(path, await readHead(diskPath))],
    }))
    await noteFiles(db, [...new Map(typed.map(t => [t.hash, t])).values()])
    await eachOf(chunk, ({ hash, diskPath }) => storage.place(hash, diskPath))
  }
}

/** Keeps bytes of our own making. */
export async function storeBytes({ db, storage }: Store, bytes: Uint8Array, mediaType: string): Promise<StoredFile> {
  const stored = { hash: createHash('sha256').update(bytes).digest('hex'), size: bytes.length }
  await noteFiles(db, [{ ...stored, mediaType }])
  await storage.put(stored.hash, bytes)
  return stored
}

/** Stored files as the core's file layer wants them: delivery path, place on disk, size. */
export async function toSourceFiles(
  db: Connection,
  storage: Storage,
  wanted: readonly { path: string; hash: string }[],
): Promise<SourceFile[]> {
  if (wanted.length === 0) return []
  const rows = await db
    .select({ hash: files.hash, size: files.size })
    .from(files)
    .where(isOneOf(files.hash, [...new Set(wanted.map(w => w.hash))]))
  const sizes = new Map(rows.map(r => [r.hash, r.size]))
  return Promise.all(
    wanted.map(async ({ path, hash }) => ({ path, diskPath: await storage.localPath(hash), size: sizes.get(hash) ?? 0 })),
  )
}

/** Runs over a list with a few at a time; the disk is waited for, not the processor. */
async function eachOf<T, R>(list: readonly T[], work: (one: T) => Promise<R>): Promise<R[]> {
  const done: R[] = []
  for (let at = 0; at < list.length; at += AT_ONCE) done.push(...(await Promise.all(list.slice(at, at + AT_ONCE).map(work))))
  return done
}
