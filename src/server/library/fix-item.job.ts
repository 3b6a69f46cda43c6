import { and, eq } from 'drizzle-orm'
import { FileError } from '#core/findings/failure'
import { orderFixes, proposeFix } from '#core/fixes/fix'
import { FIX_WORDS } from '#shared/fix-words'
import { putDerivedFiles } from '../items/derived-files'
import { computeInputKey } from '../items/input-key'
import { inputsOf } from '../items/version-source'
import { addVersion } from '../items/version-store'
import { isOneOf } from '../platform/database'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import type { Jobs } from '../platform/queue'
import type { WorkContext } from '../platform/work-context'
import { requestPreviews } from '../previews/previews'
import { findings, items, versions } from '../tables/library.table'
import { people } from '../tables/people.table'
import { inspectVersion, listVersionFiles, openVersion } from './inspect-version'

/**
 * Computes the files that answer findings of a version, measures what comes out, and adds it as the next version. When somebody else
 * has changed the item meanwhile, nothing is done: the findings may no longer hold.
 */
export async function fixItemJob(context: WorkContext, job: Jobs['fix-item']): Promise<void> {
  const { db } = context
  const [held] = await db
    .select({ item: items, version: versions })
    .from(items)
    .innerJoin(versions, eq(versions.id, items.currentVersionId))
    .where(eq(items.id, job.itemId))
  const [person] = await db.select().from(people).where(eq(people.id, job.personId))
  if (!held || !person || held.version.id !== job.versionId) return
  const { item, version } = held
  const rows = await db
    .select()
    .from(findings)
    .where(and(eq(findings.versionId, version.id), isOneOf(findings.id, job.findingIds)))
  const fixes = orderFixes(rows.flatMap(f => proposeFix({ ...f, subject: f.subject ?? undefined }) ?? []))
  if (fixes.length === 0) return
  const files = await listVersionFiles(context, version.id)
  try {
    const source = await openVersion(context, item, version, files)
    const derived = await context.intakePool.run('fix', { source, fixes, materials: {} })
    const fixed = await putDerivedFiles(context, files, derived)
    const inspected = await inspectVersion(context, item, version, fixed)
    const inputKey = computeInputKey({ files: fixed, ...inputsOf(version) })
    await db.transaction(async tx => {
      const [now] = await tx.select({ current: items.currentVersionId }).from(items).where(eq(items.id, item.id)).for('update')
      if (now.current !== version.id) return
      await addVersion(tx, person, item.id, {
        note: `Fixed: ${[...new Set(fixes.map(f => FIX_WORDS[f.code].done))].join(', ')}`,
        ...inputsOf(version),
        inputKey,
        files: fixed,
        ...inspected,
      })
      // The approved version stays the approved one until somebody approves the new.
      if (item.state === 'approved') await tx.update(items).set({ state: 'inReview' }).where(eq(items.id, item.id))
      const codes = rows.map(f => f.code)
      await recordEvents(tx, [{ personId: person.id, subject: 'item', subjectId: item.id, verb: 'fixed', after: { codes } }])
      await publish(tx, { topic: 'item', libraryId: item.libraryId, itemId: item.id })
      await requestPreviews(tx, context.queue, [{ inputKey, category: item.category, quality: 'draft' }], 30)
    })
  } catch (error) {
    if (!(error instanceof FileError)) throw error
    const after = { reason: error.message }
    await recordEvents(db, [{ personId: person.id, subject: 'item', subjectId: item.id, verb: 'notFixed', after }])
    await publish(db, { topic: 'item', libraryId: item.libraryId, itemId: item.id })
  }
}
