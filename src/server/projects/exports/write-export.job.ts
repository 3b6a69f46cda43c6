import { randomUUID } from 'node:crypto'
import { rm } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { FileError } from '#core/findings/failure'
import { loadRefusals } from '../../house/load-licences'
import { readProfile } from '../../house/load-profiles'
import { publish } from '../../platform/notify'
import type { Jobs } from '../../platform/queue'
import { storeFile } from '../../platform/storage/stored-files'
import type { WorkContext } from '../../platform/work-context'
import { projectExports, projects } from '../../tables/project.table'
import { collectItems } from './collect-items'

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
    const all = await collectItems(
      context,
      ordered.pins.map(p => p.versionId),
    )
    const refusalOf = await loadRefusals(db, project)
    const refused = all.flatMap(({ code, version, licence }) => {
      const message = refusalOf(licence)
      return message === null ? [] : [{ code, version, message }]
    })
    const list = all.filter(item => refusalOf(item.licence) === null)
    const { manifest } = await context.exportPool.run(
      'export',
      {
        items: list,
        profile: readProfile(ordered.profile),
        about: { project: { code: project.code, title: project.title }, source: { projectId: project.id, exportId }, refused },
        zipPath,
      },
      {
        onProgress: share => {
          db.update(projectExports)
            .set({ done: Math.round(share * list.length) })
            .where(isThis)
            .then(tell)
            .catch(() => {})
        },
      },
    )
    const { hash, size } = await storeFile(context, zipPath, 'export.zip')
    const message =
      manifest.failures.length > 0
        ? `${manifest.failures.length} of ${all.length} items are not in it: ${manifest.failures.map(f => f.code).join(', ')}. The manifest says why.`
        : null
    await db
      .update(projectExports)
      .set({ state: 'ready', done: list.length, total: all.length, message, hash, size, manifest })
      .where(isThis)
  } catch (error) {
    if (!(error instanceof FileError)) throw error
    await db.update(projectExports).set({ state: 'failed', message: error.message }).where(isThis)
  } finally {
    await rm(zipPath, { force: true })
  }
  await tell()
}
