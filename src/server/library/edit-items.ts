import { and, asc, eq } from 'drizzle-orm'
import { computeSizeFacts } from '#core/material/analyse-material'
import { OPEN_PBR_DEFAULTS, type OpenPbrParameters } from '#core/material/open-pbr'
import { checkStandard, resolveRules } from '#core/standard/category-rules'
import type { ItemState } from '#shared/contracts/chip.contract'
import type { BulkResult, EditItem } from '#shared/contracts/items.contract'
import { factWord } from '#shared/units'
import { getCategory } from '../house/categories'
import { loadRules } from '../house/load-rules'
import { loadTagWords } from '../house/load-word-lines'
import { computeInputKey } from '../items/input-key'
import { addVersion, readFacts } from '../items/version-store'
import { type Actor, mayEdit, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import { isOneOf } from '../platform/database'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notAllowed, notFound, ProblemError } from '../platform/problem'
import { FINALS_PRIORITY, requestPreviews } from '../previews/previews'
import { findings, items, versionFiles, versions } from '../tables/library.table'
import { requestChecks } from './request-checks'

/** What somebody looks at gets its final before the others do. */
const LOOKED_AT_PRIORITY = 10

/** Sets the state of items. Approving pins down the current version, and asks for its final picture. */
export async function setItemStates(
  context: Context,
  actor: Actor,
  ids: readonly number[],
  state: ItemState,
): Promise<BulkResult> {
  if (!mayEdit(actor)) throw notAllowed(state === 'approved' ? 'Approving' : 'Changing the state of an item')
  const result: BulkResult = { changed: [], refused: [] }
  const wishes: { inputKey: string; category: string }[] = []
  const [rules, words] = [await loadRules(context.db), await loadTagWords(context.db)]
  await context.db.transaction(async tx => {
    const rows = await tx
      .select({ item: items, inputKey: versions.inputKey })
      .from(items)
      .innerJoin(versions, eq(versions.id, items.currentVersionId))
      .where(and(isOneOf(items.id, [...ids]), mayRead(actor, items.libraryId)))
      .orderBy(asc(items.id))
      .for('update')
    for (const { item, inputKey } of rows) {
      if (state === 'approved') {
        const blocking = await tx
          .select({ code: findings.code })
          .from(findings)
          .where(and(eq(findings.versionId, item.currentVersionId!), eq(findings.severity, 'mustFix')))
        if (blocking.length > 0) {
          const many = blocking.length === 1 ? 'One finding' : `${blocking.length} findings`
          result.refused.push({ id: item.id, code: item.code, reason: `${many} must be fixed first.` })
          continue
        }
        const known = await readFacts(tx, item.currentVersionId!)
        const { missingFacts } = checkStandard(resolveRules(item.category, rules), item.name, known, words.firsts)
        if (missingFacts.length > 0) {
          const words = missingFacts.map(factWord).join(', ')
          result.refused.push({ id: item.id, code: item.code, reason: `Its category asks for its ${words}.` })
          continue
        }
        wishes.push({ inputKey, category: item.category })
      }
      const approvedVersionId = state === 'approved' ? item.currentVersionId : item.approvedVersionId
      if (item.state !== state || approvedVersionId !== item.approvedVersionId) {
        await tx.update(items).set({ state, approvedVersionId, updatedAt: new Date() }).where(eq(items.id, item.id))
        await recordEvents(tx, [
          {
            personId: actor.id,
            subject: 'item',
            subjectId: item.id,
            verb: 'state',
            before: { state: item.state },
            after: { state },
          },
        ])
        await publish(tx, { topic: 'item', libraryId: item.libraryId, itemId: item.id })
      }
      result.changed.push(item.id)
    }
    await requestPreviews(
      tx,
      context.queue,
      wishes.map(wish => ({ ...wish, quality: 'final' })),
      FINALS_PRIORITY,
    )
  })
  return result
}

/** Renames, moves or resizes an item. A new size is a new version; the old one stays as it is. */
export async function editItem(context: Context, actor: Actor, id: number, edit: EditItem): Promise<void> {
  if (!mayEdit(actor)) throw notAllowed('Changing an item')
  await context.db.transaction(async tx => {
    const [row] = await tx
      .select({ item: items, version: versions })
      .from(items)
      .innerJoin(versions, eq(versions.id, items.currentVersionId))
      .where(and(eq(items.id, id), mayRead(actor, items.libraryId)))
      .for('update')
    if (!row) throw notFound('This item')
    const { item, version } = row
    const category = edit.category === undefined ? item.category : edit.category
    if (category !== item.category) {
      const place = await getCategory(tx, category)
      if (place.kind !== item.kind)
        throw new ProblemError('badRequest', `${place.title} does not hold ${item.kind}s.`, { category: 'Choose another.' })
    }
    const name = edit.name ?? item.name
    if (name !== item.name || category !== item.category) {
      await tx.update(items).set({ name, category, updatedAt: new Date() }).where(eq(items.id, id))
      await recordEvents(tx, [
        {
          personId: actor.id,
          subject: 'item',
          subjectId: id,
          verb: 'edited',
          before: { name: item.name, category: item.category },
          after: { name, category },
        },
      ])
    }
    let { inputKey } = version
    const widthMm = edit.widthMm ?? version.widthMm
    const constants = edit.constants ?? version.constants
    const tiling = edit.tiling ?? version.tiling
    const isResized = widthMm !== version.widthMm || tiling !== version.tiling
    const tuned = describeTuning(version.constants, constants)
    if ((item.kind === 'material' || item.kind === 'map') && (isResized || tuned.length > 0)) {
      const files = await tx
        .select()
        .from(versionFiles)
        .where(eq(versionFiles.versionId, version.id))
        .orderBy(asc(versionFiles.position))
      const seen = await tx.select().from(findings).where(eq(findings.versionId, version.id))
      const old = await readFacts(tx, version.id)
      inputKey = computeInputKey({ files, widthMm, tiling, constants })
      await addVersion(tx, actor, id, {
        note: edit.note ?? [...describeSize(version, { widthMm, tiling }), ...tuned].join('; '),
        widthMm,
        tiling,
        constants,
        inputKey,
        files,
        facts: {
          ...old,
          ...(widthMm !== null ? computeSizeFacts(widthMm, Number(old.widthPx ?? 0), Number(old.heightPx ?? 0)) : {}),
        },
        findings: seen
          .filter(f => widthMm === null || f.code !== 'realWorldSizeMissing')
          .map(f => ({
            ...f,
            subject: f.subject ?? undefined,
            before: f.beforeHash ?? undefined,
            after: f.afterHash ?? undefined,
          })),
      })
      await recordEvents(tx, [
        {
          personId: actor.id,
          subject: 'item',
          subjectId: id,
          verb: isResized ? 'resized' : 'tuned',
          before: isResized ? { widthMm: version.widthMm, tiling: version.tiling } : pick(version.constants, constants),
          after: isResized ? { widthMm, tiling } : pick(constants, version.constants),
        },
      ])
      // The approved version stays the approved one until somebody approves the new.
      if (item.state === 'approved') await tx.update(items).set({ state: 'inReview' }).where(eq(items.id, id))
    }
    await publish(tx, { topic: 'item', libraryId: item.libraryId, itemId: id })
    // What is usual depends on the category, and a seam is one only of what repeats.
    if (category !== item.category || tiling !== version.tiling) await requestChecks(tx, context.queue, eq(items.id, id))
    await requestPreviews(tx, context.queue, [{ inputKey, category, quality: 'draft' }], 30)
  })
}

/** Puts the final picture of an item's current version next in line. */
export async function requestFinalPreview({ db, queue }: Context, actor: Actor, id: number): Promise<void> {
  const [row] = await db
    .select({ inputKey: versions.inputKey, category: items.category })
    .from(items)
    .innerJoin(versions, eq(versions.id, items.currentVersionId))
    .where(and(eq(items.id, id), mayRead(actor, items.libraryId)))
  if (!row) throw notFound('This item')
  await db.transaction(tx => requestPreviews(tx, queue, [{ ...row, quality: 'final' }], 40))
}

/** Puts what is missing of a version that somebody is looking at ahead of the others: its draft, and its final where it is approved. */
export async function prioritizePictures({ db, queue }: Context, versionId: number): Promise<void> {
  const [row] = await db
    .select({ inputKey: versions.inputKey, category: items.category, approved: items.approvedVersionId })
    .from(items)
    .innerJoin(versions, eq(versions.itemId, items.id))
    .where(eq(versions.id, versionId))
  if (!row) return
  await db.transaction(async tx => {
    await requestPreviews(tx, queue, [{ ...row, quality: 'draft' }], 35)
    if (row.approved === versionId) await requestPreviews(tx, queue, [{ ...row, quality: 'final' }], LOOKED_AT_PRIORITY)
  })
}

type Constants = Partial<OpenPbrParameters>
const changedNames = (a: Constants, b: Constants): (keyof Constants)[] =>
  ([...new Set([...Object.keys(a), ...Object.keys(b)])] as (keyof Constants)[]).filter(
    name => JSON.stringify(a[name] ?? OPEN_PBR_DEFAULTS[name]) !== JSON.stringify(b[name] ?? OPEN_PBR_DEFAULTS[name]),
  )

/** Of one set of parameters, those that differ in the other. */
const pick = (from: Constants, other: Constants): Constants =>
  Object.fromEntries(changedNames(from, other).map(name => [name, from[name] ?? OPEN_PBR_DEFAULTS[name]]))

type Size = Pick<typeof versions.$inferSelect, 'widthMm' | 'tiling'>
const describeSize = (before: Size, after: Size): string[] => [
  ...(before.widthMm === after.widthMm ? [] : [`Real-world width ${before.widthMm ?? 'unknown'} to ${after.widthMm} mm`]),
  ...(before.tiling === after.tiling ? [] : [after.tiling === 'once' ? 'Stands once, does not repeat' : 'Repeats']),
]

/** A line for each parameter that changed: "fuzzWeight 0 to 0.4". */
const describeTuning = (before: Constants, after: Constants): string[] =>
  changedNames(before, after).map(
    name => `${name} ${before[name] ?? OPEN_PBR_DEFAULTS[name]} to ${after[name] ?? OPEN_PBR_DEFAULTS[name]}`,
  )
