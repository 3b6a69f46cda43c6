import { and, eq, sql } from 'drizzle-orm'
import { deltaE00 } from '#core/color/difference'
import { fromHex } from '#core/color/srgb'
import { tokenizeName } from '#core/file-names'
import { assignMaterialFix, orderFixes } from '#core/fixes/fix'
import { suggestCategory } from '#core/standard/categories'
import type { AssignMaterial, MaterialChoice } from '#shared/contracts/intake.contract'
import { type Actor, mayEdit, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notAllowed, notFound, ProblemError } from '../platform/problem'
import { findPreviews, previewOf } from '../previews/previews'
import { batchItems, type ChosenFix } from '../tables/intake.table'
import { facts, items, versions } from '../tables/library.table'
import { getBatchRow } from './batches'

const MOST_CHOICES = 12
/** Two colours nearer than this pass for the same material in another light (CIEDE2000). */
const ALIKE = 12
const NEUTRAL = 100

/**
 * House materials for a part without a material, the likeliest first: by the words of the part, of the material it wears and of the
 * model, against the names and categories of what the asker may use; then by the colour it has.
 */
export async function proposeMaterials(
  { db }: Pick<Context, 'db'>,
  actor: Actor,
  batchId: number,
  itemId: number,
  part: string,
): Promise<MaterialChoice[]> {
  await getBatchRow(db, actor, batchId)
  const [row] = await db
    .select()
    .from(batchItems)
    .where(and(eq(batchItems.id, itemId), eq(batchItems.batchId, batchId)))
  const finding = row?.findings.find(f => f.code === 'defaultSurface' && f.subject === part)
  if (!finding) throw notFound('This part')
  const own = [part, String(finding.evidence.material ?? '')].flatMap(text => tokenizeName(text))
  const near = tokenizeName(row.name)
  const wanted = suggestCategory('material', own)
  const color = fromHex(String(finding.evidence.color ?? ''))
  const candidates = await db
    .select({ item: items, version: versions, meanColor: facts.text })
    .from(items)
    .innerJoin(versions, eq(versions.id, sql`coalesce(${items.approvedVersionId}, ${items.currentVersionId})`))
    .leftJoin(facts, and(eq(facts.versionId, versions.id), eq(facts.name, 'meanColor')))
    .where(and(mayRead(actor, items.libraryId), eq(items.kind, 'material'), sql`${items.state} <> 'withdrawn'`))
  const ranked = candidates
    .map(({ item, version, meanColor }) => {
      const words = new Set(tokenizeName(item.name))
      const named = own.filter(w => words.has(w)).length
      const around = near.filter(w => words.has(w)).length
      const fits = wanted.confidence > 0.3 && item.category.startsWith(wanted.path)
      const mean = fromHex(meanColor ?? '')
      const away = color && mean ? deltaE00(color, mean) : NEUTRAL
      const looks = away < ALIKE
      const score =
        named * 4 + around * 2 + (fits ? 2 : 0) + (item.state === 'approved' ? 0.5 : 0) + (looks ? 1 - away / ALIKE : 0)
      const reason = named > 0 ? 'name' : fits ? 'category' : around > 0 ? 'model' : looks ? 'look' : 'any'
      return { item, version, score, reason } as const
    })
    .sort((a, b) => b.score - a.score || a.item.code.localeCompare(b.item.code))
    .slice(0, MOST_CHOICES)
  const found = await findPreviews(
    db,
    ranked.map(({ item, version }) => ({ inputKey: version.inputKey, category: item.category })),
  )
  return ranked.map(({ item, version, reason }) => ({
    code: item.code,
    name: item.name,
    reason,
    preview: previewOf(found, version.inputKey, item.category)?.url ?? null,
  }))
}

/** Assigns a house material to parts of a row; the files are made anew by the measuring that follows. Another choice replaces it. */
export async function assignMaterial(
  context: Context,
  actor: Actor,
  batchId: number,
  { itemId, parts, code }: AssignMaterial,
): Promise<void> {
  const batch = await getBatchRow(context.db, actor, batchId)
  if (!mayEdit(actor)) throw notAllowed('Fixing a delivery')
  await context.db.transaction(async tx => {
    const [row] = await tx
      .select()
      .from(batchItems)
      .where(and(eq(batchItems.id, itemId), eq(batchItems.batchId, batchId)))
      .for('update')
    if (row?.kind !== 'model') throw notFound('This model')
    if (row.state !== 'ready') throw new ProblemError('conflict', 'It is being measured, or accepted already.')
    const [held] = await tx
      .select({ version: versions, code: items.code })
      .from(items)
      .innerJoin(versions, eq(versions.id, sql`coalesce(${items.approvedVersionId}, ${items.currentVersionId})`))
      .where(and(mayRead(actor, items.libraryId), eq(items.kind, 'material'), eq(items.code, code)))
    if (!held) throw notFound('This material')
    const { id: versionId, widthMm } = held.version
    const assigned = parts.map(
      (part): ChosenFix => ({ ...assignMaterialFix(part, { code, versionId, widthMm }), finding: 'defaultSurface' }),
    )
    const others = row.fixes.filter(f => !(f.code === 'assignMaterial' && parts.includes(f.subject ?? '')))
    await tx
      .update(batchItems)
      .set({
        fixes: orderFixes([...others, ...assigned]) as ChosenFix[],
        sourceFiles: row.sourceFiles ?? row.files,
        state: 'measuring',
        message: null,
      })
      .where(eq(batchItems.id, itemId))
    await recordEvents(tx, [
      {
        personId: actor.id,
        subject: 'batch',
        subjectId: batchId,
        verb: 'fixed',
        after: { codes: ['defaultSurface'], items: [itemId], parts, code },
      },
    ])
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId, rowIds: [itemId] })
    await context.queue.send(tx, 'measure-item', [{ batchItemId: itemId }])
  })
}
