import { and, desc, eq } from 'drizzle-orm'
import type { Beside } from '#shared/contracts/audits.contract'
import { loadRigBook } from '../house/rig-book'
import { openSceneFiles } from '../intake/scene-files'
import { findVersionSource } from '../items/version-source'
import { type Actor, isGuest, mayRead } from '../platform/access'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { type Connection, isOneOf } from '../platform/database'
import { notFound, ProblemError } from '../platform/problem'
import { type KeptAudit, sceneAudits } from '../tables/audit.table'
import { items, versions } from '../tables/library.table'
import { projects } from '../tables/project.table'
import { type AuditRow, describeCodes, getAuditRow } from './audits'

type Working = Context & { compute: ComputePool }
const MOST_LISTED = 200

export async function listAuditedScenes(db: Connection, actor: Actor): Promise<Beside['own'][]> {
  if (isGuest(actor)) return []
  const rows = await db
    .select({ id: sceneAudits.id, title: sceneAudits.title, code: projects.code, createdAt: sceneAudits.createdAt })
    .from(sceneAudits)
    .leftJoin(projects, eq(projects.id, sceneAudits.projectId))
    .where(and(eq(sceneAudits.state, 'ready'), mayRead(actor, sceneAudits.libraryId)))
    .orderBy(desc(sceneAudits.id))
    .limit(MOST_LISTED)
  return rows.map(({ code, createdAt, ...row }) => ({ ...row, project: code ?? '', createdAt: createdAt.toISOString() }))
}

/** The materials that two scenes have both, by their items: what makes them look otherwise, those with most to say first. */
export async function getBeside(context: Working, actor: Actor, id: number, otherId: number): Promise<Beside> {
  const { db } = context
  const [own, other] = [await getReady(db, actor, id), await getReady(db, actor, otherId)]
  const [here, there] = [byCode(own.result), byCode(other.result)]
  const both = [...here].filter(([code]) => there.has(code))
  const pairs = both.map(([code, mine]) => ({ own: mine.index, other: there.get(code)!.index }))
  const changes =
    pairs.length > 0 ? await context.compute.run('compareScenes', { scenes: await openBoth(context, own, other), pairs }) : []
  const known = await describeCodes(
    context,
    actor,
    both.map(([code]) => code),
  )
  const only = (list: typeof here, without: typeof here) => [...list.keys()].filter(code => !without.has(code)).sort()
  const scenes = new Map((await listNamed(db, [own, other])).map(s => [s.id, s]))
  return {
    own: scenes.get(id)!,
    other: scenes.get(otherId)!,
    materials: both
      .map(([code, mine], k) => ({
        code,
        itemName: known.get(code)?.name ?? '',
        preview: known.get(code)?.preview ?? null,
        own: toUsed(mine),
        other: toUsed(there.get(code)!),
        changes: changes[k],
      }))
      .sort((a, b) => b.changes.length - a.changes.length || (a.code < b.code ? -1 : 1)),
    onlyOwn: only(here, there),
    onlyOther: only(there, here),
  }
}

/** One of them on its rig, as each scene has it. */
export async function getBesidePictures(context: Working, actor: Actor, id: number, otherId: number, code: string) {
  const { db } = context
  const [own, other] = [await getReady(db, actor, id), await getReady(db, actor, otherId)]
  const [mine, theirs] = [byCode(own.result).get(code), byCode(other.result).get(code)]
  const [version] = await db
    .select({ inputKey: versions.inputKey })
    .from(versions)
    .innerJoin(items, eq(items.id, versions.itemId))
    .where(and(eq(items.code, code), eq(versions.number, mine?.version ?? 0), mayRead(actor, items.libraryId)))
  const found = version ? await findVersionSource(context, version.inputKey) : null
  if (!mine || !theirs || !found) throw notFound('This material')
  const rig = (await loadRigBook(db)).rigFor(found.category)
  const pair = { own: mine.index, other: theirs.index }
  const scenes = await openBoth(context, own, other)
  const made = await context.compute.run('pictureBeside', { scenes, pair, source: found.source, rig })
  const address = (bytes: Uint8Array) => `data:image/webp;base64,${Buffer.from(bytes).toString('base64')}`
  return { own: address(made.own), other: address(made.other), flipMean: made.flipMean, deltaE00: made.deltaE00 }
}

type ReadyAudit = AuditRow & { result: KeptAudit }
type Material = KeptAudit['materials'][number]

async function getReady(db: Connection, actor: Actor, id: number): Promise<ReadyAudit> {
  const row = await getAuditRow(db, actor, id)
  if (!row.result) throw new ProblemError('notReady', `${row.title} is not read yet; it can be held beside another when it is.`)
  return { ...row, result: row.result }
}

/** Of each item of the library the material that has most surface in a scene. */
function byCode({ materials }: KeptAudit): Map<string, Material & { code: string }> {
  const found = new Map<string, Material & { code: string }>()
  for (const m of materials) {
    const { code } = m
    if (code === null || m.ofModel !== null) continue
    const known = found.get(code)
    if (!known || m.areaM2 > known.areaM2) found.set(code, { ...m, code })
  }
  return found
}

const toUsed = ({ index, name, class: standing, version, areaM2 }: Material) => ({
  index,
  name,
  class: standing,
  version,
  areaM2,
})

const openBoth = async (context: Context, own: AuditRow, other: AuditRow) =>
  [await openSceneFiles(context, own.batchId), await openSceneFiles(context, other.batchId)] as [
    Awaited<ReturnType<typeof openSceneFiles>>,
    Awaited<ReturnType<typeof openSceneFiles>>,
  ]

async function listNamed(db: Connection, rows: readonly AuditRow[]): Promise<Beside['own'][]> {
  const known = await db
    .select({ id: projects.id, code: projects.code })
    .from(projects)
    .where(
      isOneOf(
        projects.id,
        rows.flatMap(r => r.projectId ?? []),
      ),
    )
  const codes = new Map(known.map(p => [p.id, p.code]))
  return rows.map(({ id, title, projectId, createdAt }) => ({
    ...{ id, title, createdAt: createdAt.toISOString() },
    project: codes.get(projectId ?? 0) ?? '',
  }))
}
