import { randomUUID } from 'node:crypto'
import { rm } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { FileError } from '#core/findings/failure'
import type { CorrectionWish } from '#files/audits/put-back'
import { insertBatch, putBatchFile } from '../intake/batches'
import { openSceneFiles } from '../intake/scene-files'
import { findVersionSource } from '../items/version-source'
import { getPerson } from '../platform/access'
import type { Jobs } from '../platform/queue'
import { storeFile } from '../platform/storage/stored-files'
import type { WorkContext } from '../platform/work-context'
import { type KeptAudit, type KeptWish, sceneAudits } from '../tables/audit.table'
import { type AuditRow, beginAudit, isCorrectable, tellAudit } from './audits'

/** Puts back what was chosen, writes the scene, and has what was written audited in its turn. */
export async function correctSceneJob(context: WorkContext, { auditId }: Jobs['correct-scene']): Promise<void> {
  const { db } = context
  const isThis = eq(sceneAudits.id, auditId)
  const [row] = await db.select().from(sceneAudits).where(isThis)
  if (!row?.result || !row.wish || (row.correctionState !== 'waiting' && row.correctionState !== 'writing')) return
  await db.update(sceneAudits).set({ correctionState: 'writing' }).where(isThis)
  await tellAudit(db, row)
  const outPath = join(context.temporaryFolder, `scene-${auditId}-${randomUUID()}.glb`)
  try {
    const { wishes, refused } = await openWishes(context, row.result, row.wish)
    const files = await openSceneFiles(context, row.batchId)
    const corrected = await context.exportPool.run('correctScene', { files, wishes, outPath })
    const name = nameOf(row)
    const stored = await storeFile(context, outPath, name)
    const again = await auditAgain(context, row, name, stored)
    const named = corrected.refused.map(r => ({ name: nameIn(row.result!, r), why: r.why }))
    await db
      .update(sceneAudits)
      .set({
        correctionState: 'ready',
        correctionMessage: null,
        corrected: { done: corrected.done, refused: [...refused, ...named], auditId: again },
        correctedHash: stored.hash,
        correctedSize: stored.size,
      })
      .where(isThis)
  } catch (error) {
    if (!(error instanceof FileError)) throw error
    await db.update(sceneAudits).set({ correctionState: 'failed', correctionMessage: error.message }).where(isThis)
  } finally {
    await rm(outPath, { force: true })
  }
  await tellAudit(db, row)
}

export const nameOf = ({ title }: Pick<AuditRow, 'title'>): string =>
  `${title.replace(/\.(glb|gltf|usdz|usda|usdc|obj|fbx|dae|zip)$/i, '')} corrected.glb`

/** What was chosen, each with the version that takes its place; what has none is named. */
async function openWishes(context: WorkContext, result: KeptAudit, wish: KeptWish) {
  const wishes: CorrectionWish[] = []
  const refused: { name: string; why: string }[] = []
  const chosen = [
    ...result.materials
      .filter(m => wish.materials?.includes(m.index))
      .map(thing => ({ thing, kind: 'material' as const, index: thing.index, materialName: thing.ofModel })),
    ...result.models
      .filter(m => wish.models?.includes(m.node))
      .map(thing => ({ thing, kind: 'model' as const, index: thing.node, standsInFrame: thing.standsInFrame })),
    ...result.lights
      .filter(l => wish.lights?.includes(l.node))
      .map(thing => ({ thing, kind: 'light' as const, index: thing.node, share: thing.share ?? 1 })),
  ]
  for (const { thing, ...which } of chosen) {
    const { name, code } = thing
    const replacement = code === null ? undefined : result.replacements[code]
    const found = replacement && isCorrectable(result, thing) ? await findVersionSource(context, replacement.inputKey) : null
    if (!found) refused.push({ name, why: 'The library has nothing that would take its place.' })
    else wishes.push({ ...which, stamp: { code: code!, version: replacement!.version }, source: found.source })
  }
  return { wishes, refused }
}

const nameIn = (
  { materials, models, lights }: KeptAudit,
  { kind, index }: { kind: 'material' | 'model' | 'light'; index: number },
): string =>
  (kind === 'material'
    ? materials.find(m => m.index === index)
    : (kind === 'model' ? models : lights).find(thing => thing.node === index)
  )?.name ?? ''

/** The written scene as a scene of its own, looked at like any other. Null where whoever asked is gone. */
async function auditAgain(
  context: WorkContext,
  row: AuditRow,
  name: string,
  stored: { hash: string; size: number },
): Promise<number | null> {
  const actor = await getPerson(context.db, row.personId)
  if (!actor) return null
  const batchId = await insertBatch(context.db, actor, row.libraryId, { title: name, purpose: 'scene' })
  await putBatchFile(context.db, batchId, name, stored)
  return beginAudit(context, actor, { batchId, projectId: row.projectId })
}
