import { and, eq, inArray, sql } from 'drizzle-orm'
import { computeSizeFacts } from '#core/material/analyse-material'
import type { OpenPbrParameters } from '#core/material/open-pbr'
import type { Facts, FactValue } from '#files/inspect-item'
import type { BulkResult } from '#shared/contracts/items.contract'
import { FIX_WORDS } from '#shared/fix-words'
import { factOrder } from '#shared/units'
import { type Actor, mayEdit } from '../db/access'
import type { Connection } from '../db/database'
import { batchItems, type SeenFinding } from '../db/intake.table'
import { categories, facts, findings, items, versionFiles, versions } from '../db/library.table'
import { publish } from '../db/notify'
import { refreshDocuments } from '../db/search'
import type { Context } from './context'
import { recordEvents } from './events'
import { type BatchItemRow, getBatchRow, needsWidth } from './intake'
import { requestPreview } from './previews'
import { notAllowed } from './problem'

/** Makes library items of rows of the worklist. Rows that are not ready are refused by name; the others go on. */
export async function fileBatchItems(
  context: Context,
  actor: Actor,
  batchId: number,
  ids: readonly number[],
): Promise<BulkResult> {
  const batch = await getBatchRow(context.db, actor, batchId)
  if (!mayEdit(actor)) throw notAllowed('Filing a delivery')
  const result: BulkResult = { changed: [], refused: [] }
  const wishes: { inputKey: string; category: string }[] = []
  await context.db.transaction(async tx => {
    const rows = await tx
      .select()
      .from(batchItems)
      .where(and(eq(batchItems.batchId, batchId), inArray(batchItems.id, [...ids])))
      .orderBy(batchItems.category, batchItems.name)
      .for('update')
    for (const row of rows) {
      const reason = reasonNotToFile(row)
      if (reason) {
        result.refused.push({ id: row.id, code: row.name, reason })
        continue
      }
      const itemId = await createItem(tx, actor, batch.libraryId, row, { maker: batch.maker, licence: batch.licence })
      await tx.update(batchItems).set({ state: 'filed', itemId }).where(eq(batchItems.id, row.id))
      result.changed.push(row.id)
      wishes.push(row)
    }
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId })
  })
  for (const { inputKey, category } of wishes)
    await requestPreview(context.db, context.queue, { inputKey, category, quality: 'draft' }, 10)
  return result
}

/** "Filed from Intake, mended: green flipped" */
const describeOrigin = ({ appliedFixes }: BatchItemRow): string =>
  appliedFixes.length === 0
    ? 'Filed from Intake'
    : `Filed from Intake, mended: ${[...new Set(appliedFixes.map(f => FIX_WORDS[f.code].done))].join(', ')}`

function reasonNotToFile(row: BatchItemRow): string | null {
  switch (row.state) {
    case 'measuring':
      return 'It is still being measured.'
    case 'failed':
      return row.message ?? 'Its files could not be read.'
    case 'filed':
      return 'It is filed already.'
    case 'setAside':
      return 'It is set aside.'
    case 'ready':
      return needsWidth(row) ? 'Its real-world width is not known yet.' : null
    default:
      return row.state satisfies never
  }
}

async function createItem(
  tx: Connection,
  actor: Actor,
  libraryId: number,
  row: BatchItemRow,
  origin: { maker: string; licence: string },
): Promise<number> {
  const code = await takeCode(tx, row.category)
  const [item] = await tx
    .insert(items)
    .values({ libraryId, category: row.category, kind: row.kind, code, name: row.name })
    .returning({ id: items.id })
  const given: Facts = {
    ...row.facts,
    ...(row.kind === 'material'
      ? computeSizeFacts(row.widthMm, Number(row.facts.widthPx ?? 0), Number(row.facts.heightPx ?? 0))
      : {}),
    ...(row.category.startsWith('vegetation') ? { botanicalName: row.name } : {}),
    ...(origin.maker ? { maker: origin.maker } : {}),
    ...(origin.licence ? { licence: origin.licence } : {}),
    sourcePath: row.files[0]?.path ?? '',
  }
  await addVersion(tx, actor, item.id, { ...row, note: describeOrigin(row), facts: given })
  await refreshDocuments(tx, [item.id])
  await recordEvents(tx, [
    { personId: actor.id, subject: 'item', subjectId: item.id, verb: 'filed', after: { code, name: row.name } },
  ])
  return item.id
}

/** The next number of a category; the row lock keeps two people from getting the same one. */
async function takeCode(tx: Connection, category: string): Promise<string> {
  const [row] = await tx
    .update(categories)
    .set({ lastNumber: sql`${categories.lastNumber} + 1` })
    .where(eq(categories.path, category))
    .returning({ prefix: categories.prefix, number: categories.lastNumber })
  return `${row.prefix}-${String(row.number).padStart(4, '0')}`
}

export interface NewVersion {
  note: string
  widthMm: number | null
  constants: Partial<OpenPbrParameters>
  inputKey: string
  files: readonly {
    role: string
    path: string
    hash: string
    byContentOnly: boolean
    handednessHint: 'openGl' | 'directX' | null
  }[]
  facts: Readonly<Facts>
  findings: readonly SeenFinding[]
}

/** Adds the next version of an item and makes it the current one. Returns its id. */
export async function addVersion(tx: Connection, actor: Actor, itemId: number, given: NewVersion): Promise<number> {
  const [{ last }] = await tx
    .select({ last: sql<number>`coalesce(max(${versions.number}), 0)::int` })
    .from(versions)
    .where(eq(versions.itemId, itemId))
  const { note, widthMm, constants, inputKey } = given
  const [version] = await tx
    .insert(versions)
    .values({ itemId, number: last + 1, authorId: actor.id, note, widthMm, constants, inputKey })
    .returning({ id: versions.id })
  if (given.files.length > 0)
    await tx.insert(versionFiles).values(
      given.files.map(({ role, path, hash, byContentOnly, handednessHint }, position) => ({
        versionId: version.id,
        position,
        role,
        path,
        hash,
        byContentOnly,
        handednessHint,
      })),
    )
  const entries = Object.entries(given.facts).sort(([a], [b]) => factOrder(a) - factOrder(b))
  if (entries.length > 0)
    await tx
      .insert(facts)
      .values(entries.map(([name, value], position) => ({ versionId: version.id, name, position, ...toColumns(value) })))
  if (given.findings.length > 0)
    await tx.insert(findings).values(
      given.findings.map(({ code, severity, subject, evidence, before, after }) => ({
        versionId: version.id,
        code,
        severity,
        subject,
        evidence,
        beforeHash: before,
        afterHash: after,
      })),
    )
  await tx.update(items).set({ currentVersionId: version.id, updatedAt: new Date() }).where(eq(items.id, itemId))
  return version.id
}

const toColumns = (value: FactValue) =>
  typeof value === 'number' ? { number: value } : typeof value === 'boolean' ? { truth: value } : { text: value }
