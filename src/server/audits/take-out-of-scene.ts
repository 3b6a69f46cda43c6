import { randomUUID } from 'node:crypto'
import { mkdir, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { addBatchFile, insertBatch, sortBatch } from '../intake/batches'
import { openSceneFiles } from '../intake/scene-files'
import type { Actor } from '../platform/access'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { ProblemError } from '../platform/problem'
import { getAuditRow } from './audits'

/** Materials and models of a scene as a batch in Intake, of the library that the scene is audited for: a library may begin from an old project's own. */
export async function takeOutOfScene(
  context: Context & { compute: ComputePool },
  actor: Actor,
  auditId: number,
  { materials, models }: { materials: readonly number[]; models: readonly number[] },
): Promise<number> {
  const row = await getAuditRow(context.db, actor, auditId)
  if (!row.result) throw new ProblemError('conflict', 'The scene is not read yet; wait until it is.')
  const files = await openSceneFiles(context, row.batchId)
  const written = await context.compute.run('takeOut', { files, materials: [...materials], models: [...models] })
  if (written.length === 0) throw new ProblemError('badRequest', 'None of these is in the scene.')
  const folder = join(tmpdir(), `muscovite-out-${randomUUID()}`)
  try {
    const batchId = await insertBatch(context.db, actor, row.libraryId, { title: `Out of ${row.title}` })
    for (const { path, bytes } of written) {
      await mkdir(dirname(join(folder, path)), { recursive: true })
      await writeFile(join(folder, path), bytes)
      await addBatchFile(context, actor, batchId, path, join(folder, path))
    }
    await sortBatch(context, actor, batchId, written.length)
    return batchId
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}
