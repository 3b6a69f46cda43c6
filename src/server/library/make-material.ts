import { and, asc, eq } from 'drizzle-orm'
import { computeSizeFacts } from '#core/material/analyse-material'
import type { Facts } from '#files/items/inspect-item'
import { splitAlpha } from '#files/writing/split-alpha'
import type { MadeMaterial, MakeMaterial } from '#shared/contracts/items.contract'
import { GIVEN_FACTS } from '#shared/units'
import { getCategory } from '../house/categories'
import { computeInputKey } from '../items/input-key'
import { takeCode } from '../items/take-code'
import { addVersion, readFacts } from '../items/version-store'
import { type Actor, mayEdit, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notAllowed, notFound, ProblemError } from '../platform/problem'
import { storeBytes } from '../platform/storage/stored-files'
import { requestPreviews } from '../previews/previews'
import { items, versionFiles, versions } from '../tables/library.table'

/**
 * A material of a stand-alone map, in the same library: its picture as base colour, its alpha as opacity. The map stays what it is.
 * @throws ProblemError for somebody who is no lead, for what is no map, or a category that holds no materials
 */
export async function makeMaterial(context: Context, actor: Actor, id: number, wish: MakeMaterial): Promise<MadeMaterial> {
  if (!mayEdit(actor)) throw notAllowed('Making a material')
  const { db, storage, queue } = context
  const [held] = await db
    .select({ item: items, version: versions })
    .from(items)
    .innerJoin(versions, eq(versions.id, items.currentVersionId))
    .where(and(eq(items.id, id), mayRead(actor, items.libraryId)))
  if (!held) throw notFound('This item')
  const { item, version } = held
  const [picture] = await db
    .select()
    .from(versionFiles)
    .where(and(eq(versionFiles.versionId, version.id), eq(versionFiles.role, 'map')))
    .orderBy(asc(versionFiles.position))
  if (item.kind !== 'map' || !picture) throw new ProblemError('badRequest', 'Only of a map can a material be made.')
  const place = await getCategory(db, wish.category)
  if (place.kind !== 'material')
    throw new ProblemError('badRequest', `${place.title} does not hold materials.`, { category: 'Choose another.' })
  const known = await readFacts(db, version.id)
  const alpha = await splitAlpha(await storage.localPath(picture.hash))
  const common = { byContentOnly: false, handednessHint: null }
  const files = [{ ...common, role: 'baseColor', path: picture.path, hash: picture.hash }]
  if (alpha) {
    const { hash } = await storeBytes(context, alpha, 'image/png')
    files.push({ ...common, role: 'opacity', path: picture.path.replace(/(\.[^./]+)?$/, '_opacity.png'), hash })
  }
  const { widthMm, tiling } = wish
  const facts: Facts = {
    ...Object.fromEntries(Object.entries(known).filter(([name]) => GIVEN_FACTS.includes(name))),
    ...computeSizeFacts(widthMm, Number(known.widthPx ?? 0), Number(known.heightPx ?? 0)),
    sourcePath: String(known.sourcePath ?? picture.path),
    madeFrom: item.code,
  }
  const inputKey = computeInputKey({ files, widthMm, tiling, constants: {} })
  return db.transaction(async tx => {
    const code = await takeCode(tx, item.libraryId, wish.category)
    const [made] = await tx
      .insert(items)
      .values({ libraryId: item.libraryId, category: wish.category, kind: 'material', code, name: wish.name })
      .returning({ id: items.id })
    const note = `Made from ${item.code}, version ${version.number}`
    const versionId = await addVersion(tx, actor, made.id, {
      ...{ note, widthMm, tiling, constants: {}, inputKey, files, facts, findings: [] },
    })
    await recordEvents(tx, [
      { personId: actor.id, subject: 'item', subjectId: made.id, verb: 'madeFrom', after: { code: item.code, name: wish.name } },
    ])
    await publish(tx, { topic: 'library', libraryId: item.libraryId })
    await queue.send(tx, 'check-item', [{ itemId: made.id, versionId }])
    await requestPreviews(tx, queue, [{ inputKey, category: wish.category, quality: 'draft' }], MADE_PRIORITY)
    return { id: made.id, code }
  })
}

/** Somebody waits for it. */
const MADE_PRIORITY = 30
