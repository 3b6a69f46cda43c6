import { randomUUID } from 'node:crypto'
import { copyFile, mkdir, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { extname, join } from 'node:path'
import { and, asc, eq } from 'drizzle-orm'
import type { z } from 'zod'
import { safeName } from '#core/hand-over/delivered-name'
import { OPEN_PBR_DEFAULTS, type OpenPbrMaterial, type OpenPbrParameters } from '#core/material/open-pbr'
import { writeMaterialX } from '#core/targets/materialx/write-materialx'
import { isMapRole } from '#files/items/item-source'
import type { proposeShiftSchema, ShiftProposed } from '#shared/contracts/mock-ups.contract'
import { addBatchFile, insertBatch, sortBatch } from '../intake/batches'
import { putDerivedFiles } from '../items/derived-files'
import { computeInputKey } from '../items/input-key'
import { takeCode } from '../items/take-code'
import { inputsOf, openSource } from '../items/version-source'
import { addVersion, readFacts } from '../items/version-store'
import { type Actor, isGuest, mayEdit, mayRead } from '../platform/access'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notAllowed, notFound, ProblemError } from '../platform/problem'
import { requestPreviews } from '../previews/previews'
import { items, versionFiles, versions } from '../tables/library.table'
import { getMockUpRow } from './mock-ups'

type Proposal = z.output<typeof proposeShiftSchema> & { where: string }
type StoredFile = typeof versionFiles.$inferSelect
type Held = { item: typeof items.$inferSelect; version: typeof versions.$inferSelect }

/** Somebody waits for it. */
const PROPOSED_PRIORITY = 30

/**
 * A material as it was adjusted in a mock-up, with its maps worked out anew: by a lead as the next version or as an item of its own, to be
 * approved; by anybody as a delivery in Intake, for a lead to decide about.
 * @throws ProblemError where a version newer than the adjusted one is there, or for what is not the asker's to do
 */
export async function proposeShift(
  context: Context & { compute: ComputePool },
  actor: Actor,
  id: number,
  given: z.output<typeof proposeShiftSchema>,
): Promise<ShiftProposed> {
  if (isGuest(actor) || (given.as !== 'intake' && !mayEdit(actor))) throw notAllowed('Adjusting an item')
  const { db, storage, compute } = context
  const wish: Proposal = { ...given, where: (await getMockUpRow(db, actor, id)).title }
  const [held] = await db
    .select({ item: items, version: versions })
    .from(items)
    .innerJoin(versions, eq(versions.itemId, items.id))
    .where(and(eq(items.id, wish.itemId), eq(versions.number, wish.version), mayRead(actor, items.libraryId)))
  if (held?.item.kind !== 'material') throw notFound('This material')
  const { item, version } = held
  if (wish.as === 'version' && item.currentVersionId !== version.id)
    throw new ProblemError(
      'conflict',
      `${item.code} has a newer version than the ${version.number} that was adjusted. Bring that one in first, or make an item of its own.`,
    )
  const files = await db
    .select()
    .from(versionFiles)
    .where(eq(versionFiles.versionId, version.id))
    .orderBy(asc(versionFiles.position))
  const source = await openSource({ db, storage }, { ...item, ...inputsOf(version) }, files)
  const shifted = await compute.run('shift', { source, shift: wish.shift })
  const constants = { ...shifted.constants, ...wish.constants }
  const made = await putDerivedFiles(context, files, shifted.files)
  if (wish.as === 'intake') return { batchId: await sendToIntake(context, actor, held, made, constants, wish), made: null }
  return { batchId: null, made: await keepInLibrary(context, actor, held, made, constants, wish) }
}

async function keepInLibrary(
  { db, queue }: Context,
  actor: Actor,
  { item, version }: Held,
  files: readonly StoredFile[],
  constants: Partial<OpenPbrParameters>,
  { as, name, where, version: number }: Proposal,
) {
  const { widthMm, tiling } = version
  const inputKey = computeInputKey({ files, widthMm, tiling, constants })
  return db.transaction(async tx => {
    const [now] = await tx.select({ current: items.currentVersionId }).from(items).where(eq(items.id, item.id)).for('update')
    if (as === 'version' && now.current !== version.id)
      throw new ProblemError('conflict', `${item.code} was given a version meanwhile; nothing was changed.`)
    const facts = await readFacts(tx, version.id)
    let own = { id: item.id, code: item.code }
    if (as === 'item') {
      const { libraryId, category } = item
      const code = await takeCode(tx, libraryId, category)
      const values = { libraryId, category, kind: item.kind, code, name, state: 'inReview' as const }
      own = (await tx.insert(items).values(values).returning({ id: items.id, code: items.code }))[0]
      facts.madeFrom = item.code
    }
    const note = `Adjusted in ${where}${as === 'item' ? `, from ${item.code}, version ${number}` : ''}`
    const versionId = await addVersion(tx, actor, own.id, {
      ...{ note, widthMm, tiling, constants, inputKey, files, facts, findings: [] },
    })
    // The approved version stays the approved one until somebody approves the new.
    if (as === 'version' && item.state === 'approved')
      await tx.update(items).set({ state: 'inReview' }).where(eq(items.id, item.id))
    const [row] = await tx.select({ number: versions.number }).from(versions).where(eq(versions.id, versionId))
    await recordEvents(tx, [
      {
        personId: actor.id,
        subject: 'item',
        subjectId: own.id,
        verb: as === 'item' ? 'madeFrom' : 'tuned',
        after: as === 'item' ? { code: item.code, name } : { note },
      },
    ])
    await publish(tx, { topic: 'item', libraryId: item.libraryId, itemId: own.id })
    await publish(tx, { topic: 'library', libraryId: item.libraryId })
    await queue.send(tx, 'check-item', [{ itemId: own.id, versionId }])
    await requestPreviews(tx, queue, [{ inputKey, category: item.category, quality: 'draft' }], PROPOSED_PRIORITY)
    return { id: own.id, code: own.code, version: row.number, inputKey }
  })
}

/** Its maps as a delivery; what has none as a definition. */
async function sendToIntake(
  context: Context,
  actor: Actor,
  { item, version }: Held,
  files: readonly StoredFile[],
  constants: Partial<OpenPbrParameters>,
  { name, where }: Proposal,
): Promise<number> {
  const folder = join(tmpdir(), `muscovite-proposed-${randomUUID()}`)
  const maps = files.filter(f => isMapRole(f.role))
  const stem = safeName(name)
  const facts = await readFacts(context.db, version.id)
  try {
    await mkdir(folder, { recursive: true })
    const batchId = await insertBatch(context.db, actor, item.libraryId, {
      title: `${name}, from ${where} (${item.code}, version ${version.number})`,
      maker: textOf(facts.maker),
      licence: textOf(facts.licence),
    })
    for (const { role, path, hash, handednessHint } of maps) {
      // Under the name that was given, so that this is what Intake proposes.
      const way = handednessHint === null ? '' : `_${HANDEDNESS_WORDS[handednessHint]}`
      const own = `${stem}_${role}${way}${extname(path)}`
      await copyFile(await context.storage.localPath(hash), join(folder, own))
      await addBatchFile(context, actor, batchId, `${stem}/${own}`, join(folder, own))
    }
    if (maps.length === 0) {
      const material: OpenPbrMaterial = {
        ...{ name, textures: {}, tileSizeM: null },
        parameters: { ...OPEN_PBR_DEFAULTS, ...constants },
      }
      await writeFile(join(folder, 'definition.mtlx'), writeMaterialX(material, new Map()))
      await addBatchFile(context, actor, batchId, `${stem}/${stem}.mtlx`, join(folder, 'definition.mtlx'))
    }
    await sortBatch(context, actor, batchId, Math.max(1, maps.length))
    return batchId
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

/** As names of normal maps say which way green points. */
const HANDEDNESS_WORDS = { openGl: 'gl', directX: 'dx' } as const

const textOf = (fact: unknown): string => (typeof fact === 'string' ? fact : '')
