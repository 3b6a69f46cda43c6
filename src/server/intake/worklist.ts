import { and, asc, count, eq } from 'drizzle-orm'
import { tokenizeName } from '#core/file-names'
import { checkStandard, resolveRules } from '#core/standard/category-rules'
import { proposeCategory } from '#core/standard/propose-category'
import type { Batch, BatchItem } from '#shared/contracts/intake.contract'
import { keyFigure } from '#shared/key-figure'
import { loadRetired } from '../house/categories'
import { loadRules } from '../house/load-rules'
import { loadTagWords } from '../house/load-word-lines'
import { toFindingView } from '../items/finding-view'
import { type Actor, mayEdit, mayRead } from '../platform/access'
import { type Connection, isOneOf } from '../platform/database'
import { notFound } from '../platform/problem'
import { findPreviews, previewOf } from '../previews/previews'
import { batchFiles, batchItems } from '../tables/intake.table'
import { files, items } from '../tables/library.table'
import { getBatchRow, selectSummaries, toSummary } from './batches'
import { decisionOf, describeConflicts, findTwins } from './conflicts'
import { loadEarlierCategories } from './earlier-categories'
import { type BatchItemRow, factsOf, needsWidth, wordsOfRow } from './rows'
import { describeSourceFolders, rememberedSourceFolders } from './source-folders'

/** So many files that belong to no row are listed; of the others there is the count. */
const LISTED_FILES = 500

/** A batch without its rows, but with their ids in the order of the worklist: a page asks for those that it shows. */
export async function getBatch(db: Connection, actor: Actor, id: number): Promise<Batch> {
  const [summary] = await selectSummaries(db, actor, id)
  if (!summary) throw notFound('This batch')
  const { libraryId, maker } = summary.batch
  const isOther = and(eq(batchFiles.batchId, id), isOneOf(batchFiles.outcome, ['leftOver', 'failed']))
  const [rows, others, [{ otherCount }], remembered, retired] = await Promise.all([
    db
      .select({
        id: batchItems.id,
        kind: batchItems.kind,
        state: batchItems.state,
        sourceFolder: batchItems.sourceFolder,
        category: batchItems.category,
        categoryConfidence: batchItems.categoryConfidence,
      })
      .from(batchItems)
      .where(eq(batchItems.batchId, id))
      .orderBy(asc(batchItems.category), asc(batchItems.name), asc(batchItems.id)),
    db.select().from(batchFiles).where(isOther).orderBy(asc(batchFiles.path)).limit(LISTED_FILES),
    db.select({ otherCount: count() }).from(batchFiles).where(isOther),
    rememberedSourceFolders(db, { libraryId, maker }),
    loadRetired(db),
  ])
  return {
    ...toSummary(summary),
    mayEdit: mayEdit(actor),
    sourceFolders: describeSourceFolders(rows, remembered, retired),
    measuring: rows.filter(r => r.state === 'measuring').length,
    rowIds: rows.map(r => r.id),
    notInItems: others.map(({ path, size, outcome, code, message }) => ({ path, size, outcome, code, message })),
    notInItemsCount: otherCount,
  }
}

/** What weighs less changes nothing. */
const MOST_VOTES = 4

/** Rows of a worklist by their ids; those that are gone are left out. */
export async function getRows(db: Connection, actor: Actor, id: number, ids: readonly number[]): Promise<BatchItem[]> {
  const batch = await getBatchRow(db, actor, id)
  const rows = await db
    .select({ row: batchItems, itemCode: items.code })
    .from(batchItems)
    .leftJoin(items, and(eq(items.id, batchItems.itemId), mayRead(actor, items.libraryId)))
    .where(and(eq(batchItems.batchId, id), isOneOf(batchItems.id, ids)))
  const plain = rows.map(r => r.row)
  const [found, known, twins, rules, earlier, words] = await Promise.all([
    findPreviews(db, plain),
    describeConflicts(db, plain),
    findTwins(db, id, plain),
    loadRules(db),
    loadEarlierCategories(db, batch),
    loadTagWords(db),
  ])
  return rows.map(({ row, itemCode }): BatchItem => {
    const conflict = toConflictView(row, batch.maker, known)
    const facts = factsOf(row, batch)
    const own = resolveRules(row.category, rules)
    return {
      id: row.id,
      kind: row.kind,
      name: row.name,
      category: row.category,
      categoryConfidence: row.categoryConfidence,
      votes: proposeCategory(row.kind, {
        words: tokenizeName(row.name),
        folders: row.sourceFolder.split(' / '),
        facts: row.facts,
        earlier: earlier.get(row.kind),
      }).votes.slice(0, MOST_VOTES),
      sourceFolder: row.sourceFolder,
      ...wordsOfRow(row, facts, own, words),
      givenFacts: row.givenFacts,
      widthMm: row.widthMm,
      tiling: row.tiling,
      state: row.state,
      message: row.message,
      facts: row.facts,
      inputKey: row.inputKey,
      needsWidth: needsWidth(row),
      ...checkStandard(own, row.name, facts, words.firsts),
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
  })
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
