import { and, eq, ne } from 'drizzle-orm'
import { FileError } from '#core/findings/failure'
import { writeFacts, writeFindings } from '../items/version-store'
import { publish } from '../platform/notify'
import type { Jobs } from '../platform/queue'
import type { WorkContext } from '../platform/work-context'
import { findings, items, versions } from '../tables/library.table'
import { inspectVersion, listVersionFiles } from './inspect-version'

/**
 * Checks an item's current version anew, after something that its checks depend on was changed: the category, or whether it repeats.
 * Nothing where that version has another one after it by now. What targets lose is another measurement's.
 */
export async function checkItemJob(context: WorkContext, { itemId, versionId }: Jobs['check-item']): Promise<void> {
  const { db } = context
  const [held] = await db
    .select({ item: items, version: versions })
    .from(items)
    .innerJoin(versions, eq(versions.id, items.currentVersionId))
    .where(eq(items.id, itemId))
  if (held?.version.id !== versionId) return
  try {
    const files = await listVersionFiles(context, versionId)
    const inspected = await inspectVersion(context, held.item, held.version, files)
    await db.transaction(async tx => {
      const [now] = await tx.select().from(items).where(eq(items.id, itemId)).for('update')
      if (now.currentVersionId !== versionId || now.category !== held.item.category) return
      await tx.delete(findings).where(and(eq(findings.versionId, versionId), ne(findings.code, 'targetLosesLook')))
      await writeFindings(tx, versionId, inspected.findings)
      await writeFacts(tx, versionId, inspected.facts)
      await publish(tx, { topic: 'item', libraryId: now.libraryId, itemId })
    })
  } catch (error) {
    // A file that does not read any more: what was found before stays.
    if (!(error instanceof FileError)) throw error
  }
}
