import { and, asc, desc, eq, isNull, sql } from 'drizzle-orm'
import type { CarriedItems, CarryItems } from '#shared/contracts/items.contract'
import type { Library } from '#shared/contracts/session.contract'
import { lockItems } from '../items/lock-items'
import { takeCode } from '../items/take-code'
import { addVersion, readFacts } from '../items/version-store'
import { getLibrary } from '../people/libraries'
import { type Actor, mayEdit } from '../platform/access'
import type { Context } from '../platform/context'
import type { Connection } from '../platform/database'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notAllowed } from '../platform/problem'
import { findings, formerCodes, items, versionFiles, versions } from '../tables/library.table'
import { ownPictures } from '../tables/own-picture.table'

type Item = typeof items.$inferSelect

/**
 * Items into another library: moved with all their versions, or copied at the current one as items of their own. Either way they get a
 * code of that library; a moved item answers to its former code too, and has it again when it comes back.
 * @throws ProblemError for somebody who is no lead, or may not see the library
 */
export async function carryItems(context: Context, actor: Actor, { ids, library, as }: CarryItems): Promise<CarriedItems> {
  if (!mayEdit(actor)) throw notAllowed('Carrying items into another library')
  const target = await getLibrary(context.db, actor, library)
  const left = new Set<number>()
  const result: CarriedItems = { changed: [], refused: [], made: [] }
  await context.db.transaction(async tx => {
    const held = await lockItems(tx, actor, ids)
    const carried: number[] = []
    for (const item of held.values()) {
      const reason =
        item.libraryId === target.id ? 'It is there already.' : as === 'move' ? await whyPinned(tx, item, target) : null
      if (reason) {
        result.refused.push({ id: item.id, code: item.code, reason })
        continue
      }
      result.changed.push(item.id)
      if (as === 'move') left.add(item.libraryId)
      carried.push(as === 'move' ? await moveItem(tx, actor, item, target) : await copyItem(tx, actor, item, target))
    }
    if (as === 'copy') result.made = carried
    if (carried.length === 0) return
    for (const libraryId of [target.id, ...left]) await publish(tx, { topic: 'library', libraryId })
  })
  return result
}

/** What is a client's may not be seen through somebody else's project. */
async function whyPinned(tx: Connection, item: Item, target: Library): Promise<string | null> {
  if (target.kind === 'house') return null
  const { rows } = await tx.execute(sql`
    select from pins join projects p on p.id = pins.project_id where pins.item_id = ${item.id} and p.library_id <> ${target.id} limit 1`)
  return rows.length > 0 ? 'A project outside that library uses it; copy it instead.' : null
}

async function moveItem(tx: Connection, actor: Actor, item: Item, target: Library): Promise<number> {
  const [former] = await tx
    .delete(formerCodes)
    .where(and(eq(formerCodes.itemId, item.id), eq(formerCodes.libraryId, target.id)))
    .returning({ code: formerCodes.code })
  const code = former?.code ?? (await takeCode(tx, target.id, item.category))
  await tx.insert(formerCodes).values({ code: item.code, itemId: item.id, libraryId: item.libraryId })
  await tx.update(items).set({ libraryId: target.id, code, updatedAt: new Date() }).where(eq(items.id, item.id))
  await tell(tx, actor, item.id, 'moved', target.id, { name: item.name })
  await recordEvents(tx, [
    { personId: actor.id, subject: 'library', subjectId: item.libraryId, verb: 'gave away', after: { name: item.name } },
  ])
  await publish(tx, { topic: 'item', libraryId: target.id, itemId: item.id })
  return item.id
}

/** An item of its own at the current version of another, in a library. Returns its id. */
export async function copyItem(tx: Connection, actor: Actor, item: Item, target: Pick<Library, 'id'>): Promise<number> {
  const code = await takeCode(tx, target.id, item.category)
  const [version] = await tx.select().from(versions).where(eq(versions.id, item.currentVersionId!))
  const { category, kind, name, state } = item
  const [copy] = await tx
    .insert(items)
    .values({ libraryId: target.id, category, kind, code, name, state, copiedFromId: version.id })
    .returning({ id: items.id })
  const ofVersion = eq(versionFiles.versionId, version.id)
  const found = await tx.select().from(findings).where(eq(findings.versionId, version.id)).orderBy(asc(findings.id))
  const versionId = await addVersion(tx, actor, copy.id, {
    ...version,
    note: `Copied at version ${version.number}`,
    files: await tx.select().from(versionFiles).where(ofVersion).orderBy(asc(versionFiles.position)),
    facts: await readFacts(tx, version.id),
    findings: found.map(f => ({
      ...f,
      subject: f.subject ?? undefined,
      before: f.beforeHash ?? undefined,
      after: f.afterHash ?? undefined,
    })),
  })
  if (state === 'approved') {
    // What is approved is what it was copied from, as it is.
    const isApproved = item.approvedVersionId === version.id
    await tx
      .update(items)
      .set(isApproved ? { approvedVersionId: versionId } : { state: 'inReview' })
      .where(eq(items.id, copy.id))
  }
  await copyPicture(tx, version.id, versionId)
  await tell(tx, actor, copy.id, 'copied', target.id, { name })
  return copy.id
}

async function copyPicture(tx: Connection, fromId: number, versionId: number): Promise<void> {
  const [picture] = await tx
    .select()
    .from(ownPictures)
    .where(and(eq(ownPictures.versionId, fromId), eq(ownPictures.state, 'ready'), isNull(ownPictures.droppedAt)))
    .orderBy(desc(ownPictures.id))
    .limit(1)
  if (!picture) return
  const { id: _, ...rest } = picture
  await tx.insert(ownPictures).values({ ...rest, versionId })
}

/** Of the item nothing is told that names a library: those who see it later may not know of the one it was in. */
const tell = (
  tx: Connection,
  actor: Actor,
  itemId: number,
  verb: 'moved' | 'copied',
  libraryId: number,
  after: { name: string },
) =>
  recordEvents(tx, [
    { personId: actor.id, subject: 'item', subjectId: itemId, verb },
    { personId: actor.id, subject: 'library', subjectId: libraryId, verb: 'received', after },
  ])
