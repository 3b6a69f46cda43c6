import { and, asc, eq } from 'drizzle-orm'
import { checkStandard, resolveRules } from '#core/standard/category-rules'
import type { Batch, BatchItem } from '#shared/contracts/intake.contract'
import { keyFigure } from '#shared/key-figure'
import { loadRetired } from '../house/categories'
import { loadRules } from '../house/load-rules'
import { toFindingView } from '../items/finding-view'
import { type Actor, mayEdit } from '../platform/access'
import { type Connection, isOneOf } from '../platform/database'
import { notFound } from '../platform/problem'
import { findPreviews, previewOf } from '../previews/previews'
import { batchFiles, batchItems } from '../tables/intake.table'
import { files, items } from '../tables/library.table'
import { getBatchRow, selectSummaries, toSummary } from './batches'
import { decisionOf, describeConflicts, findTwins } from './conflicts'
import { type BatchItemRow, factsOf, needsWidth } from './rows'
import { describeSourceFolders, rememberedSourceFolders } from './source-folders'

export async function getBatch(db: Connection, actor: Actor, id: number): Promise<Batch> {
  const [summary] = await selectSummaries(db, actor, id)
  if (!summary) throw notFound('This batch')
  const rows = await db
    .select({ row: batchItems, itemCode: items.code })
    .from(batchItems)
    .leftJoin(items, eq(items.id, batchItems.itemId))
    .where(eq(batchItems.batchId, id))
    .orderBy(asc(batchItems.category), asc(batchItems.name), asc(batchItems.id))
  const found = await findPreviews(
    db,
    rows.map(r => r.row),
  )
  const known = await describeConflicts(
    db,
    rows.map(r => r.row),
  )
  const twins = await findTwins(
    db,
    rows.map(r => r.row),
  )
  const { libraryId, maker } = summary.batch
  const remembered = await rememberedSourceFolders(db, { libraryId, maker })
  const rules = await loadRules(db)
  const others = await db
    .select()
    .from(batchFiles)
    .where(and(eq(batchFiles.batchId, id), isOneOf(batchFiles.outcome, ['leftOver', 'failed'])))
    .orderBy(asc(batchFiles.path))
  return {
    ...toSummary(summary),
    mayEdit: mayEdit(actor),
    sourceFolders: describeSourceFolders(
      rows.map(r => r.row),
      remembered,
      await loadRetired(db),
    ),
    items: rows.map(({ row, itemCode }): BatchItem => {
      const conflict = toConflictView(row, summary.batch.maker, known)
      return {
        ...row,
        needsWidth: needsWidth(row),
        ...checkStandard(resolveRules(row.category, rules), row.name, factsOf(row, summary.batch)),
        figure: keyFigure(row.kind, { ...row.facts, ...(row.widthMm ? { widthMm: row.widthMm } : {}) }),
        findings: row.findings.map((f, i) =>
          toFindingView(f, {
            before: f.before ? `/api/batches/${id}/items/${row.id}/findings/${i}/before?${f.before.slice(0, 8)}` : null,
            after: f.after ? `/api/batches/${id}/items/${row.id}/findings/${i}/after?${f.after.slice(0, 8)}` : null,
          }),
        ),
        fixes: row.fixes.map(({ code, finding, subject }) => ({ code, finding, subject: subject ?? null })),
        files: row.files.map((f, i) => ({ path: f.path, role: f.role, url: `/api/batches/${id}/items/${row.id}/files/${i}` })),
        preview: previewOf(found, row.inputKey, row.category)?.url ?? null,
        itemCode,
        conflict,
        decision: conflict ? decisionOf(row) : null,
        twinOf: conflict || row.decision === 'keepBoth' ? null : (twins.get(row.id)?.name ?? null),
      }
    }),
    notInItems: others.map(({ path, size, outcome, code, message }) => ({ path, size, outcome, code, message })),
  }
}

function toConflictView(
  { conflict, name }: BatchItemRow,
  maker: string,
  known: Awaited<ReturnType<typeof describeConflicts>>,
): BatchItem['conflict'] {
  const held = conflict ? known.get(conflict.itemId) : undefined
  if (!conflict || !held) return null
  const { kind, differentBits } = conflict
  // Two things of one name are told apart by whose they are.
  const isTaken = kind === 'sameName' && name.toLowerCase() === held.name.toLowerCase()
  const otherName = isTaken ? `${name} ${maker !== '' && !name.includes(maker) ? maker : '2'}` : null
  return { kind, differentBits, otherName, ...held }
}

/** Hash of one file of a batch item, for the lead's pictures and the live view. */
export async function getBatchItemFile(db: Connection, actor: Actor, batchId: number, itemId: number, index: number) {
  await getBatchRow(db, actor, batchId)
  const [row] = await db
    .select({ files: batchItems.files })
    .from(batchItems)
    .where(and(eq(batchItems.id, itemId), eq(batchItems.batchId, batchId)))
  const file = row?.files[index]
  if (!file) throw notFound('This file')
  const [stored] = await db.select().from(files).where(eq(files.hash, file.hash))
  return { ...stored, path: file.path }
}

/** Hash of the picture of a row's finding: as it is, or as its fix would make it. */
export async function getBatchEvidence(
  db: Connection,
  actor: Actor,
  { id, itemId, index, which }: { id: number; itemId: number; index: number; which: 'before' | 'after' },
): Promise<string> {
  await getBatchRow(db, actor, id)
  const [row] = await db
    .select({ findings: batchItems.findings })
    .from(batchItems)
    .where(and(eq(batchItems.id, itemId), eq(batchItems.batchId, id)))
  const hash = row?.findings[index]?.[which]
  if (!hash) throw notFound('This picture')
  return hash
}
