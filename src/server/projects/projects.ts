import { and, asc, desc, eq, sql } from 'drizzle-orm'
import type { BulkResult } from '#shared/contracts/items.contract'
import type { ExportRequest, NewProject, Project, ProjectExport, ProjectSummary } from '#shared/contracts/projects.contract'
import { getChips } from '../library/chips'
import { getLibrary } from '../people/libraries'
import { type Actor, isGuest, mayRead, maySeeProject } from '../platform/access'
import type { Context } from '../platform/context'
import { type Connection, isOneOf } from '../platform/database'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notFound, ProblemError } from '../platform/problem'
import { items, versions } from '../tables/library.table'
import { libraries, people } from '../tables/people.table'
import { pins, projectExports, projects } from '../tables/project.table'
import { countAwaiting, IS_ASKED, STAYS } from './awaiting'
import { listProjectPeople, mayDecide } from './deciders'
import { listGuests } from './guests'

const COVERS = 4

export async function createProject(context: Context, actor: Actor, { title, code, library }: NewProject): Promise<number> {
  const { id: libraryId } = await getLibrary(context.db, actor, library)
  return context.db.transaction(async tx => {
    const [project] = await tx
      .insert(projects)
      .values({ title, code, libraryId })
      .onConflictDoNothing()
      .returning({ id: projects.id })
    if (!project) throw new ProblemError('conflict', `The code ${code} is taken; choose another.`, { code: 'Taken.' })
    await recordEvents(tx, [
      { personId: actor.id, subject: 'project', subjectId: project.id, verb: 'created', after: { code, title } },
    ])
    return project.id
  })
}

const selectProjects = (db: Connection, actor: Actor, id?: number) =>
  db
    .select({
      id: projects.id,
      code: projects.code,
      title: projects.title,
      libraryId: projects.libraryId,
      library: libraries.title,
      pins: sql<number>`(select count(*)::int from ${pins} p where p.project_id = ${projects.id})`,
      phase: projects.phase,
      outdated: countAwaiting(sql`${projects.id}`),
    })
    .from(projects)
    .innerJoin(libraries, eq(libraries.id, projects.libraryId))
    .where(and(maySeeProject(actor, projects.id, projects.libraryId), id === undefined ? undefined : eq(projects.id, id)))
    .orderBy(asc(projects.code))

export async function getProjectRow(db: Connection, actor: Actor, id: number) {
  const [row] = await selectProjects(db, actor, id)
  if (!row) throw notFound('This project')
  return row
}

export async function listProjects({ db, pool }: Pick<Context, 'db' | 'pool'>, actor: Actor): Promise<ProjectSummary[]> {
  const rows = await selectProjects(db, actor)
  return Promise.all(
    rows.map(async ({ libraryId: _, ...row }) => {
      const first = await db
        .select()
        .from(pins)
        .where(eq(pins.projectId, row.id))
        .orderBy(asc(pins.createdAt), asc(pins.itemId))
        .limit(COVERS * 3)
      const chips = await getChips(
        pool,
        actor,
        first.map(p => p.itemId),
        new Map(first.map(p => [p.itemId, p.versionId])),
      )
      return { ...row, ...(isGuest(actor) ? { outdated: 0 } : {}), covers: chips.flatMap(c => c.preview ?? []).slice(0, COVERS) }
    }),
  )
}

export async function getProject({ db, pool }: Pick<Context, 'db' | 'pool'>, actor: Actor, id: number): Promise<Project> {
  const { libraryId: _, ...row } = await getProjectRow(db, actor, id)
  const approved = db.select({ id: versions.id, number: versions.number }).from(versions).as('approved')
  const rows = await db
    .select({ pin: pins, person: people.name, versionNumber: versions.number, approvedNumber: approved.number })
    .from(pins)
    .innerJoin(items, eq(items.id, pins.itemId))
    .innerJoin(versions, eq(versions.id, pins.versionId))
    .innerJoin(people, eq(people.id, pins.personId))
    .leftJoin(approved, eq(approved.id, items.approvedVersionId))
    .where(eq(pins.projectId, id))
    .orderBy(asc(items.code))
  const chips = await getChips(
    pool,
    actor,
    rows.map(r => r.pin.itemId),
    new Map(rows.map(r => [r.pin.itemId, r.pin.versionId])),
  )
  const { rows: asked } = await db.execute<{ id: number }>(sql`
    select i.id from pins p join items i on i.id = p.item_id join projects j on j.id = p.project_id
    left join pin_decisions d on d.project_id = p.project_id and d.item_id = p.item_id
    where p.project_id = ${id} and ${IS_ASKED} and not coalesce(${STAYS}, false)`)
  const pinned = rows.flatMap(({ pin, person, versionNumber, approvedNumber }) => {
    const chip = chips.find(c => c.id === pin.itemId)
    if (!chip) return []
    const isAsked = asked.some(a => a.id === pin.itemId)
    return [{ chip, versionNumber, approvedNumber, isAsked, person, createdAt: pin.createdAt.toISOString() }]
  })
  const seen = isGuest(actor)
    ? {
        ...NOTHING_OWN,
        exports: [],
        outdated: 0,
        pinned: pinned.map(p => ({ ...p, approvedNumber: null, isAsked: false })),
      }
    : { ...(await readOwn(db, actor, id)), exports: await listExports(db, id), pinned }
  return {
    ...row,
    covers: pinned.flatMap(p => p.chip.preview ?? []).slice(0, COVERS),
    ...seen,
  }
}

/** What is for those who work on a project, and not for guests. */
const NOTHING_OWN = { guests: [], people: [], mayDecide: false, notes: '', ownForm: null }
async function readOwn(db: Connection, actor: Actor, id: number) {
  const [[own], guests, people, decides] = await Promise.all([
    db.select({ notes: projects.notes, ownForm: projects.ownForm }).from(projects).where(eq(projects.id, id)),
    listGuests(db, id),
    listProjectPeople(db, id),
    mayDecide(db, actor, id),
  ])
  return { ...own, guests, people, mayDecide: decides }
}

/** Pins the approved version of items. What has none yet is refused by name. A pin that is there stays as it is. */
export async function pinItems(context: Context, actor: Actor, projectId: number, ids: readonly number[]): Promise<BulkResult> {
  const project = await getProjectRow(context.db, actor, projectId)
  const result: BulkResult = { changed: [], refused: [] }
  await context.db.transaction(async tx => {
    const rows = await tx
      .select({ item: items, kind: libraries.kind })
      .from(items)
      .innerJoin(libraries, eq(libraries.id, items.libraryId))
      .where(and(isOneOf(items.id, [...ids]), mayRead(actor, items.libraryId)))
      .orderBy(asc(items.id))
    for (const { item, kind } of rows) {
      if (item.approvedVersionId === null || item.state === 'withdrawn') {
        result.refused.push({ id: item.id, code: item.code, reason: 'No version of it is approved.' })
        continue
      }
      // What is a client's may not be seen through somebody else's project.
      if (kind === 'client' && item.libraryId !== project.libraryId) {
        result.refused.push({
          id: item.id,
          code: item.code,
          reason: "It is in a client's library that this project is not part of.",
        })
        continue
      }
      const added = await tx
        .insert(pins)
        .values({ projectId, itemId: item.id, versionId: item.approvedVersionId, personId: actor.id })
        .onConflictDoNothing()
        .returning({ itemId: pins.itemId })
      result.changed.push(item.id)
      if (added.length > 0)
        await recordEvents(tx, [
          { personId: actor.id, subject: 'project', subjectId: projectId, verb: 'pinned', after: { code: item.code } },
        ])
    }
    await publish(tx, { topic: 'project', libraryId: project.libraryId, projectId })
  })
  return result
}

/** Takes items out of a project. */
export async function unpinItems(context: Context, actor: Actor, projectId: number, ids: readonly number[]): Promise<void> {
  const project = await getProjectRow(context.db, actor, projectId)
  await context.db.transaction(async tx => {
    await tx.delete(pins).where(and(eq(pins.projectId, projectId), isOneOf(pins.itemId, [...ids])))
    await recordEvents(tx, [{ personId: actor.id, subject: 'project', subjectId: projectId, verb: 'unpinned', before: { ids } }])
    await publish(tx, { topic: 'project', libraryId: project.libraryId, projectId })
  })
}

/** Orders the zip of everything a project pins. */
export async function orderExport(
  context: Context,
  actor: Actor,
  projectId: number,
  { onlyNew = false, ...request }: ExportRequest & { onlyNew?: boolean },
): Promise<number> {
  const project = await getProjectRow(context.db, actor, projectId)
  return context.db.transaction(async tx => {
    // As pinned now: what somebody pins while it is being written is not in it.
    const all = await tx
      .select({ itemId: pins.itemId, versionId: pins.versionId })
      .from(pins)
      .where(eq(pins.projectId, projectId))
    if (all.length === 0)
      throw new ProblemError('badRequest', 'Nothing is pinned yet: carry items from the wall into this project first.')
    const before = onlyNew ? await listHandedOver(tx, projectId, request) : new Set<number>()
    const pinned = all.filter(p => !before.has(p.versionId))
    if (pinned.length === 0)
      throw new ProblemError('badRequest', 'Everything that is pinned was handed over in this form already.')
    const [row] = await tx
      .insert(projectExports)
      .values({ projectId, personId: actor.id, request, pins: pinned, total: pinned.length })
      .returning({ id: projectExports.id })
    await recordEvents(tx, [
      { personId: actor.id, subject: 'project', subjectId: projectId, verb: 'exportOrdered', after: request },
    ])
    await publish(tx, { topic: 'project', libraryId: project.libraryId, projectId })
    await context.queue.send(tx, 'write-export', [{ exportId: row.id }])
    return row.id
  })
}

/** Versions that hand-overs of a project in a form have had. */
async function listHandedOver(tx: Connection, projectId: number, request: ExportRequest): Promise<Set<number>> {
  const rows = await tx
    .select({ request: projectExports.request, pins: projectExports.pins })
    .from(projectExports)
    .where(and(eq(projectExports.projectId, projectId), eq(projectExports.state, 'ready')))
  const isSame = (other: ExportRequest) => JSON.stringify(other) === JSON.stringify(request)
  return new Set(rows.filter(r => isSame(r.request)).flatMap(r => r.pins.map(p => p.versionId)))
}

async function listExports(db: Connection, projectId: number): Promise<ProjectExport[]> {
  const rows = await db
    .select({ ordered: projectExports, person: people.name })
    .from(projectExports)
    .innerJoin(people, eq(people.id, projectExports.personId))
    .where(eq(projectExports.projectId, projectId))
    .orderBy(desc(projectExports.id))
    .limit(20)
  return rows.map(({ ordered: d, person }) => ({
    id: d.id,
    request: d.request,
    state: d.state,
    done: d.done,
    total: d.total,
    size: d.size,
    message: d.message,
    person,
    createdAt: d.createdAt.toISOString(),
    url: d.state === 'ready' ? `/api/projects/${projectId}/exports/${d.id}/zip` : null,
    manifestUrl: d.manifest ? `/api/projects/${projectId}/exports/${d.id}/manifest` : null,
  }))
}

/** What a hand-over says of itself, for whoever has its files, or fetches them. */
export async function getExportManifest(db: Connection, actor: Actor, projectId: number, exportId: number) {
  const project = await getProjectRow(db, actor, projectId)
  const [row] = await db
    .select({ manifest: projectExports.manifest })
    .from(projectExports)
    .where(and(eq(projectExports.id, exportId), eq(projectExports.projectId, projectId)))
  if (!row?.manifest) throw notFound('This manifest')
  return { manifest: row.manifest, fileName: `${project.code}-export-${exportId}-manifest.json` }
}

/** The finished zip of an export. */
export async function getExportFile(db: Connection, actor: Actor, projectId: number, exportId: number) {
  const project = await getProjectRow(db, actor, projectId)
  const [row] = await db
    .select()
    .from(projectExports)
    .where(and(eq(projectExports.id, exportId), eq(projectExports.projectId, projectId)))
  if (!row) throw notFound('This export')
  if (row.hash === null || row.size === null)
    throw new ProblemError('notReady', 'The export is still being written; try again in a moment.')
  return { hash: row.hash, size: row.size, fileName: `${project.code}-export-${row.id}.zip` }
}
