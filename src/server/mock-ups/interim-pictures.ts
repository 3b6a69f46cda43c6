import { eq, sql } from 'drizzle-orm'
import type { Connection } from '../platform/database'
import { mockUpInterimPictures as interim } from '../tables/mock-up.table'

/** Keeps how a picture looks so far in place of how it looked before. */
export async function keepInterim(db: Connection, pictureId: number, bytes: Uint8Array): Promise<void> {
  const values = { pictureId, number: 1, bytes: Buffer.from(bytes) }
  await db
    .insert(interim)
    .values(values)
    .onConflictDoUpdate({
      target: interim.pictureId,
      set: { bytes: values.bytes, number: sql`${interim.number} + 1` },
    })
}

export async function forgetInterim(db: Connection, pictureId: number): Promise<void> {
  await db.delete(interim).where(eq(interim.pictureId, pictureId))
}

/** Bytes of a picture as far as it has come, as WebP; null where there is nothing to be seen of it yet, or it is ended. */
export async function readInterim(db: Connection, pictureId: number): Promise<Buffer | null> {
  const [found] = await db.select({ bytes: interim.bytes }).from(interim).where(eq(interim.pictureId, pictureId))
  return found?.bytes ?? null
}
