import { and, asc, eq, isNull, sql } from 'drizzle-orm'
import type { OwnPicture, OwnPictureList, SetOwnPictures } from '#shared/contracts/own-picture.contract'
import { type Actor, mayEdit, mayRead, maySeeVersion } from '../../platform/access'
import type { Context } from '../../platform/context'
import { type Connection, isOneOf } from '../../platform/database'
import { recordEvents } from '../../platform/events'
import { publish } from '../../platform/notify'
import { notAllowed, notFound } from '../../platform/problem'
import { storeFile } from '../../platform/storage/stored-files'
import { findPreviews, previewOf } from '../../previews/previews'
import { files, items, versionFiles, versions } from '../../tables/library.table'
import { ownPictures } from '../../tables/own-picture.table'
import { people } from '../../tables/people.table'

type Row = typeof ownPictures.$inferSelect

export const ownPictureUrl = (id: number): string => `/api/own-pictures/${id}`

export const toOwnPicture = (
  row: Omit<Row, 'sourceHash' | 'personId' | 'createdAt' | 'droppedAt'>,
  by: string,
  at: string,
): OwnPicture => ({
  id: row.id,
  state: row.state,
  reason: row.reason,
  url: row.state === 'ready' ? ownPictureUrl(row.id) : null,
  fileName: row.fileName,
  width: row.width,
  height: row.height,
  originalWidth: row.originalWidth,
  originalHeight: row.originalHeight,
  score: row.score,
  faults: row.faults,
  by,
  at,
})

const toView = (row: Row, by: string): OwnPicture => toOwnPicture(row, by, row.createdAt.toISOString())

/** Sets a file that lies on disk as the picture of an item's current version; it is shown once it is reduced. */
export async function bringOwnPicture(
  context: Context,
  actor: Actor,
  itemId: number,
  fileName: string,
  diskPath: string,
): Promise<void> {
  const { versionId } = await findEditable(context.db, actor, itemId)
  const stored = await storeFile(context, diskPath, fileName)
  await addOwnPicture(context, actor, versionId, fileName, stored.hash)
}

/** Sets a picture that came along with an item as its picture. */
export async function takeDeliveredPicture(context: Context, actor: Actor, itemId: number, hash: string): Promise<void> {
  const { versionId } = await findEditable(context.db, actor, itemId)
  const [file] = await context.db
    .select({ path: versionFiles.path })
    .from(versionFiles)
    .where(and(eq(versionFiles.versionId, versionId), eq(versionFiles.hash, hash), eq(versionFiles.role, 'picture')))
  if (!file) throw notFound('This picture among what came along')
  await addOwnPicture(context, actor, versionId, file.path.split('/').pop() ?? file.path, hash)
}

async function findEditable(db: Connection, actor: Actor, itemId: number): Promise<{ versionId: number }> {
  if (!mayEdit(actor)) throw notAllowed("Setting an item's picture")
  const [row] = await db
    .select({ versionId: items.currentVersionId })
    .from(items)
    .where(and(eq(items.id, itemId), mayRead(actor, items.libraryId)))
  if (!row?.versionId) throw notFound('This item')
  return { versionId: row.versionId }
}

async function addOwnPicture({ db, queue }: Context, actor: Actor, versionId: number, fileName: string, sourceHash: string) {
  await db.transaction(async tx => {
    const [{ id }] = await tx
      .insert(ownPictures)
      .values({ versionId, fileName, sourceHash, state: 'reducing', personId: actor.id })
      .returning({ id: ownPictures.id })
    await queue.send(tx, 'reduce-picture', [{ id }], 50)
  })
}

/** What the reducing of a picture gave, or why it could not be. */
export async function settleOwnPicture(
  db: Context['db'],
  id: number,
  result: Partial<Pick<Row, 'hash' | 'width' | 'height' | 'originalWidth' | 'originalHeight' | 'score' | 'faults' | 'reason'>>,
): Promise<void> {
  await db.transaction(async tx => {
    if (result.hash) {
      const [row] = await tx.select().from(ownPictures).where(eq(ownPictures.id, id))
      // The one before gives way only to one that can be shown.
      if (row)
        await tx
          .update(ownPictures)
          .set({ droppedAt: new Date() })
          .where(and(eq(ownPictures.versionId, row.versionId), sql`${ownPictures.id} < ${id}`, isNull(ownPictures.droppedAt)))
    }
    const state = result.hash ? 'ready' : 'refused'
    const [row] = await tx
      .update(ownPictures)
      .set({ ...result, state })
      .where(eq(ownPictures.id, id))
      .returning()
    await tellOfPictures(tx, row ? [row.id] : [])
    if (row && state === 'ready') {
      const [item] = await tx.select({ itemId: versions.itemId }).from(versions).where(eq(versions.id, row.versionId))
      await recordEvents(tx, [
        { personId: row.personId, subject: 'item', subjectId: item.itemId, verb: 'pictured', after: { picture: row.fileName } },
      ])
    }
  })
}

const tellOfPictures = async (tx: Connection, ids: readonly number[]) => {
  if (ids.length === 0) return
  const rows = await tx
    .selectDistinct({ itemId: items.id, libraryId: items.libraryId })
    .from(ownPictures)
    .innerJoin(versions, eq(versions.id, ownPictures.versionId))
    .innerJoin(items, eq(items.id, versions.itemId))
    .where(isOneOf(ownPictures.id, [...ids]))
  for (const row of rows) await publish(tx, { topic: 'item', ...row })
}

/** What is shown of each version, or is about to be: the newest that is ready, else the newest. */
export async function findOwnPictures(db: Connection, versionIds: readonly number[]): Promise<Map<number, OwnPicture>> {
  if (versionIds.length === 0) return new Map()
  const rows = await db
    .select({ picture: ownPictures, by: people.name })
    .from(ownPictures)
    .innerJoin(people, eq(people.id, ownPictures.personId))
    .where(and(isOneOf(ownPictures.versionId, [...versionIds]), isNull(ownPictures.droppedAt)))
    .orderBy(sql`${ownPictures.state} = 'ready'`, asc(ownPictures.id))
  return new Map(rows.map(({ picture, by }) => [picture.versionId, toView(picture, by)]))
}

/** Every picture of somebody's own that stands for the current version of an item, the lowest score first. */
export async function listOwnPictures(db: Connection, actor: Actor): Promise<OwnPictureList> {
  const rows = await db
    .select({ picture: ownPictures, by: people.name, item: items, inputKey: versions.inputKey })
    .from(ownPictures)
    .innerJoin(people, eq(people.id, ownPictures.personId))
    .innerJoin(versions, eq(versions.id, ownPictures.versionId))
    .innerJoin(items, eq(items.currentVersionId, versions.id))
    .where(and(eq(ownPictures.state, 'ready'), isNull(ownPictures.droppedAt), mayRead(actor, items.libraryId)))
    .orderBy(asc(ownPictures.score), asc(items.code))
  const found = await findPreviews(
    db,
    rows.map(r => ({ inputKey: r.inputKey, category: r.item.category })),
  )
  return rows.map(({ picture, by, item, inputKey }) => ({
    ...toView(picture, by),
    code: item.code,
    name: item.name,
    rigPicture: previewOf(found, inputKey, item.category)?.url ?? null,
  }))
}

/** Puts the rig's pictures in the place of these, or these back. */
export async function setOwnPictures(context: Context, actor: Actor, { ids, isDropped }: SetOwnPictures): Promise<void> {
  if (!mayEdit(actor)) throw notAllowed("Setting an item's picture")
  await context.db.transaction(async tx => {
    const rows = await tx
      .select({ id: ownPictures.id, itemId: items.id, fileName: ownPictures.fileName })
      .from(ownPictures)
      .innerJoin(versions, eq(versions.id, ownPictures.versionId))
      .innerJoin(items, eq(items.id, versions.itemId))
      .where(and(isOneOf(ownPictures.id, [...ids]), mayRead(actor, items.libraryId)))
    if (rows.length === 0) throw notFound('These pictures')
    const changed = rows.map(r => r.id)
    await tx
      .update(ownPictures)
      .set({ droppedAt: isDropped ? new Date() : null })
      .where(isOneOf(ownPictures.id, changed))
    await recordEvents(
      tx,
      rows.map(r => ({
        personId: actor.id,
        subject: 'item' as const,
        subjectId: r.itemId,
        verb: isDropped ? 'unpictured' : 'pictured',
        after: { picture: r.fileName },
      })),
    )
    await tellOfPictures(tx, changed)
  })
}

/** Hash of a reduced picture, if the asker may see its item. */
export async function getOwnPictureFile(db: Connection, actor: Actor, id: number): Promise<string> {
  const [row] = await db
    .select({ hash: ownPictures.hash })
    .from(ownPictures)
    .innerJoin(versions, eq(versions.id, ownPictures.versionId))
    .innerJoin(items, eq(items.id, versions.itemId))
    .innerJoin(files, eq(files.hash, ownPictures.hash))
    .where(and(eq(ownPictures.id, id), maySeeVersion(actor, versions.id, items.libraryId)))
  if (!row?.hash) throw notFound('This picture')
  return row.hash
}
