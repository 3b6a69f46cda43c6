import { asc, eq } from 'drizzle-orm'
import { computeSizeFacts } from '#core/material/analyse-material'
import type { Facts } from '#files/items/inspect-item'
import { type ItemSource, withGivenFacts } from '#files/items/item-source'
import { rulesFor } from '../house/load-rules'
import { seeFindings } from '../items/derived-files'
import { inputsOf, openSource } from '../items/version-source'
import { readFacts } from '../items/version-store'
import type { WorkContext } from '../platform/work-context'
import type { SeenFinding } from '../tables/intake.table'
import { type items, versionFiles, type versions } from '../tables/library.table'

type Item = typeof items.$inferSelect
type Version = typeof versions.$inferSelect
export type StoredFile = typeof versionFiles.$inferSelect

export const listVersionFiles = ({ db }: Pick<WorkContext, 'db'>, versionId: number): Promise<StoredFile[]> =>
  db.select().from(versionFiles).where(eq(versionFiles.versionId, versionId)).orderBy(asc(versionFiles.position))

/** A version of an item with these files, opened as what came with it says. */
export async function openVersion(
  context: WorkContext,
  item: Item,
  version: Version,
  files: readonly Omit<StoredFile, 'versionId' | 'position'>[],
): Promise<ItemSource> {
  const source = await openSource(context, { ...item, ...inputsOf(version) }, files)
  return withGivenFacts(source, await readFacts(context.db, version.id))
}

/** Measures such files against the rules of the item's category. Facts that people gave stay; those that are measured are new. */
export async function inspectVersion(
  context: WorkContext,
  item: Item,
  version: Version,
  files: readonly Omit<StoredFile, 'versionId' | 'position'>[],
): Promise<{ facts: Facts; findings: SeenFinding[] }> {
  const inspection = await context.intakePool.run('inspect', {
    source: await openVersion(context, item, version, files),
    category: item.category,
    rules: await rulesFor(context.db, item.category),
  })
  const measured = inspection.facts
  const sizes =
    item.kind === 'material' || item.kind === 'map'
      ? computeSizeFacts(version.widthMm, Number(measured.widthPx ?? 0), Number(measured.heightPx ?? 0))
      : {}
  return {
    facts: { ...(await readFacts(context.db, version.id)), ...measured, ...sizes },
    findings: await seeFindings(context, inspection),
  }
}
