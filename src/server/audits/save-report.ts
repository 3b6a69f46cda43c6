import { format } from 'date-fns'
import type { Actor } from '../platform/access'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { ProblemError } from '../platform/problem'
import { getAudit, getAuditRow } from './audits'

/** So many materials are shown with their pictures. */
const MOST_PICTURES = 60

/** An audit as a document to send or to file. */
export async function saveReport(
  context: Context & { compute: ComputePool },
  actor: Actor,
  id: number,
): Promise<{ bytes: Uint8Array; fileName: string }> {
  const { pictures } = await getAuditRow(context.db, actor, id)
  const audit = await getAudit(context, actor, id)
  if (audit.state !== 'ready') throw new ProblemError('notReady', 'The scene is not read yet; its report is there when it is.')
  const paths: Record<number, [string, string]> = {}
  for (const [index, { own, library }] of Object.entries(pictures).slice(0, MOST_PICTURES))
    paths[Number(index)] = [await context.storage.localPath(library), await context.storage.localPath(own)]
  const date = format(new Date(audit.createdAt), 'd MMMM yyyy')
  const bytes = await context.compute.run('writeAuditReport', { audit, pictures: paths, date })
  return { bytes, fileName: `${audit.title.replace(/\.[a-z0-9]+$/i, '')}-audit.pdf` }
}
