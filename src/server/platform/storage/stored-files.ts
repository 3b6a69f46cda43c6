import { inArray } from 'drizzle-orm'
import { MEDIA_TYPES, resolveType } from '#core/codecs/sniff'
import type { SourceFile } from '#files/reading/source-file'
import { readHead } from '#files/reading/source-file'
import { files } from '../../tables/library.table'
import type { Connection } from '../database'
import type { Storage, StoredFile } from './storage'

/** Makes the database know of bytes that storage has. */
export async function rememberFile(db: Connection, storage: Storage, stored: StoredFile, path: string): Promise<void> {
  const mediaType = MEDIA_TYPES[resolveType(path, await readHead(await storage.localPath(stored.hash)))]
  await db
    .insert(files)
    .values({ ...stored, mediaType })
    .onConflictDoNothing()
}

/** Puts bytes of our own making into storage and database; their hash. */
export async function rememberBytes(
  { db, storage }: { db: Connection; storage: Storage },
  bytes: Uint8Array,
  mediaType: string,
): Promise<string> {
  const stored = await storage.putBytes(bytes)
  await db
    .insert(files)
    .values({ ...stored, mediaType })
    .onConflictDoNothing()
  return stored.hash
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
    .where(inArray(files.hash, [...new Set(wanted.map(w => w.hash))]))
  const sizes = new Map(rows.map(r => [r.hash, r.size]))
  return Promise.all(
    wanted.map(async ({ path, hash }) => ({ path, diskPath: await storage.localPath(hash), size: sizes.get(hash) ?? 0 })),
  )
}
