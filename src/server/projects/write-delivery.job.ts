import { join } from 'node:path'
import { asc, eq } from 'drizzle-orm'
import { FileError } from '#core/findings/failure'
import type { DeliveryItem } from '#files/exports/write-delivery'
import { inputsOf } from '../items/version-source'
import { publish } from '../platform/notify'
import { toSourceFiles } from '../platform/storage/stored-files'
import type { WorkContext } from '../platform/work-context'
import { facts, files, items, versionFiles, versions } from '../tables/library.table'
import { deliveries, pins, projects } from '../tables/project.table'

/** Writes the zip a person ordered. */
export async function writeDeliveryJob(context: WorkContext, { deliveryId }: { deliveryId: number }): Promise<void> {
  const { db, storage } = context
  const [row] = await db
    .select({ delivery: deliveries, project: projects })
    .from(deliveries)
    .innerJoin(projects, eq(projects.id, deliveries.projectId))
    .where(eq(deliveries.id, deliveryId))
  if (!row || row.delivery.state === 'ready' || row.delivery.state === 'failed') return
  const { delivery, project } = row
  const tell = () => publish(db, { topic: 'project', libraryId: project.libraryId, projectId: project.id })
  await db.update(deliveries).set({ state: 'writing' }).where(eq(deliveries.id, deliveryId))
  await tell()
  const list = await collectItems(context, project.id)
  try {
    const zipPath = join(context.temporaryFolder, `delivery-${deliveryId}-${process.pid}.zip`)
    const { manifest } = await context.intakePool.run(
      'deliver',
      { items: list, request: delivery.request, project: { code: project.code, title: project.title }, zipPath },
      share => {
        db.update(deliveries)
          .set({ done: Math.round(share * list.length) })
          .where(eq(deliveries.id, deliveryId))
          .then(tell)
          .catch(() => {})
      },
    )
    const stored = await storage.takeFile(zipPath)
    await db.transaction(async tx => {
      await tx
        .insert(files)
        .values({ ...stored, mediaType: 'application/zip' })
        .onConflictDoNothing()
      const message =
        manifest.failures.length > 0
          ? `${manifest.failures.length} of ${list.length} items could not be written: ${manifest.failures.map(f => f.code).join(', ')}. The manifest says why.`
          : null
      await tx
        .update(deliveries)
        .set({ state: 'ready', done: list.length, total: list.length, message, ...stored })
        .where(eq(deliveries.id, deliveryId))
    })
  } catch (error) {
    if (!(error instanceof FileError)) throw error
    await db.update(deliveries).set({ state: 'failed', message: error.message }).where(eq(deliveries.id, deliveryId))
  }
  await tell()
}

async function collectItems({ db, storage }: WorkContext, projectId: number): Promise<DeliveryItem[]> {
  const pinned = await db
    .select({ item: items, version: versions })
    .from(pins)
    .innerJoin(items, eq(items.id, pins.itemId))
    .innerJoin(versions, eq(versions.id, pins.versionId))
    .where(eq(pins.projectId, projectId))
    .orderBy(asc(items.code))
  return Promise.all(
    pinned.map(async ({ item, version }) => {
      const list = await db
        .select()
        .from(versionFiles)
        .where(eq(versionFiles.versionId, version.id))
        .orderBy(asc(versionFiles.position))
      const sources = await toSourceFiles(db, storage, list)
      const known = await db.select().from(facts).where(eq(facts.versionId, version.id))
      const textFact = (name: string) => known.find(f => f.name === name)?.text ?? ''
      return {
        code: item.code,
        version: version.number,
        category: item.category,
        maker: textFact('maker'),
        licence: textFact('licence'),
        source: {
          kind: item.kind,
          name: item.name,
          ...inputsOf(version),
          files: list.map((f, i) => ({ ...f, file: sources[i] })),
        },
      }
    }),
  )
}
