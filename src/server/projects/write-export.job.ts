import { randomUUID } from 'node:crypto'
import { rm } from 'node:fs/promises'
import { join } from 'node:path'
import { asc, eq } from 'drizzle-orm'
import { FileError } from '#core/findings/failure'
import { groupBy } from '#core/group-by'
import type { ExportItem } from '#files/exports/write-export'
import { inputsOf } from '../items/version-source'
import { isOneOf } from '../platform/database'
import { publish } from '../platform/notify'
import type { Jobs } from '../platform/queue'
import { storeFile, toSourceFiles } from '../platform/storage/stored-files'
import type { WorkContext } from '../platform/work-context'
import { facts, items, versionFiles, versions } from '../tables/library.table'
import { projectExports, projects } from '../tables/project.table'

/** Writes the zip that a person ordered: what was pinned at that time. */
export async function writeExportJob(context: WorkContext, { exportId }: Jobs['write-export']): Promise<void> {
  const { db } = context
  const [row] = await db
    .select({ ordered: projectExports, project: projects })
    .from(projectExports)
    .innerJoin(projects, eq(projects.id, projectExports.projectId))
    .where(eq(projectExports.id, exportId))
  if (row?.ordered.state !== 'waiting' && row?.ordered.state !== 'writing') return
  const { ordered, project } = row
  const isThis = eq(projectExports.id, exportId)
  const tell = () => publish(db, { topic: 'project', libraryId: project.libraryId, projectId: project.id })
  await db.update(projectExports).set({ state: 'writing', done: 0 }).where(isThis)
  await tell()
  const zipPath = join(context.temporaryFolder, `export-${exportId}-${randomUUID()}.zip`)
  try {
    const list = await collectItems(context, ordered.pins)
    const { manifest } = await context.exportPool.run(
      'export',
      {
        items: list,
        request: ordered.request,
        about: { project: { code: project.code, title: project.title }, source: { projectId: project.id, exportId } },
        zipPath,
      },
      share => {
        db.update(projectExports)
          .set({ done: Math.round(share * list.length) })
          .where(isThis)
          .then(tell)
          .catch(() => {})
      },
    )
    const { hash, size } = await storeFile(context, zipPath, 'export.zip')
    const message =
      manifest.failures.length > 0
        ? `${manifest.failures.length} of ${list.length} items could not be written: ${manifest.failures.map(f => f.code).join(', ')}. The manifest says why.`
        : null
    await db
      .update(projectExports)
      .set({ state: 'ready', done: list.length, total: list.length, message, hash, size, manifest })
      .where(isThis)
  } catch (error) {
    if (!(error instanceof FileError)) throw error
    await db.update(projectExports).set({ state: 'failed', message: error.message }).where(isThis)
  } finally {
    await rm(zipPath, { force: true })
  }
  await tell()
}

async function collectItems(
  { db, storage }: WorkContext,
  pinned: readonly { itemId: number; versionId: number }[],
): Promise<ExportItem[]> {
  const versionIds = pinned.map(p => p.versionId)
  const [rows, fileRows, factRows] = await Promise.all([
    db
      .select({ item: items, version: versions })
      .from(versions)
      .innerJoin(items, eq(items.id, versions.itemId))
      .where(isOneOf(versions.id, versionIds))
      .orderBy(asc(items.code)),
    db.select().from(versionFiles).where(isOneOf(versionFiles.versionId, versionIds)).orderBy(asc(versionFiles.position)),
    db.select().from(facts).where(isOneOf(facts.versionId, versionIds)),
  ])
  const sources = await toSourceFiles(db, storage, fileRows)
  const filesOf = groupBy(
    fileRows.map((f, i) => ({ ...f, file: sources[i] })),
    f => f.versionId,
  )
  const factsOf = groupBy(factRows, f => f.versionId)
  return rows.map(({ item, version }) => {
    const textFact = (name: string) => factsOf.get(version.id)?.find(f => f.name === name)?.text ?? ''
    return {
      code: item.code,
      version: version.number,
      category: item.category,
      maker: textFact('maker'),
      licence: textFact('licence'),
      source: { kind: item.kind, name: item.name, ...inputsOf(version), files: filesOf.get(version.id) ?? [] },
    }
  })
}
