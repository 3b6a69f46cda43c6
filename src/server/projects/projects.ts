import { and, asc, eq, sql } from 'drizzle-orm'
import type { BulkResult } from '#shared/contracts/items.contract'
import type { NewProject, Project, ProjectSummary } from '#shared/contracts/projects.contract'
import { readProfile } from '../house/load-profiles'
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
import { pins, projects } from '../tables/project.table'
import { countAwaiting, IS_ASKED, STAYS } from './awaiting'
import { listProjectPeople, mayDecide } from './deciders'
import { listExports } from './exports/exports'
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
const NOTHING_OWN = { guests: [], people: [], mayDecide: false, notes: '', ownForm: null, profileId: null }
async function readOwn(db: Connection, actor: Actor, id: number) {
  const [[own], guests, people, decides] = await Promise.all([
    db
      .select({ notes: projects.notes, ownForm: projects.ownForm, profileId: projects.profileId })
      .from(projects)
      .where(eq(projects.id, id)),
    listGuests(db, id),
    listProjectPeople(db, id),
    mayDecide(db, actor, id),
  ])
  return { ...own, ownForm: own.ownForm && readProfile(own.ownForm), guests, people, mayDecide: decides }
}

/** Pins the approved version of items. What has none yet is refused by name. A pin that is there stays as it is. */
export async function pinItems(context: Context, actor: Actor, projectId: number, ids: readonly number[]): Promise<BulkResult> {
  const project = await getProjectRow(context.db, actor, projectId)
  const refused: BulkResult['refused'] = []
  return context.db.transaction(async tx => {
    const rows = await tx
      .select({ item: items, kind: libraries.kind })
      .from(items)
      .innerJoin(libraries, eq(libraries.id, items.libraryId))
      .where(and(isOneOf(items.id, [...ids]), mayRead(actor, items.libraryId)))
      .orderBy(asc(items.id))
    const wanted = rows.flatMap(({ item: { id, code, state, libraryId, approvedVersionId }, kind }) => {
      // What is a client's may not be seen through somebody else's project.
      const reason =
        approvedVersionId === null || state === 'withdrawn'
          ? 'No version of it is approved.'
          : kind === 'client' && libraryId !== project.libraryId
            ? "It is in a client's library that this project is not part of."
            : null
      if (reason === null) return [{ id, code, versionId: approvedVersionId! }]
      refused.push({ id, code, reason })
      return []
    })
    for (let at = 0; at < wanted.length; at += PINS_A_STATEMENT) {
      const part = wanted.slice(at, at + PINS_A_STATEMENT)
      const added = await tx
        .insert(pins)
        .values(part.map(({ id, versionId }) => ({ projectId, itemId: id, versionId, personId: actor.id })))
        .onConflictDoNothing()
        .returning({ itemId: pins.itemId })
      const isNew = new Set(added.map(a => a.itemId))
      await recordEvents(
        tx,
        part
          .filter(({ id }) => isNew.has(id))
          .map(({ code }) => ({
            ...{ personId: actor.id, subject: 'project', subjectId: projectId, verb: 'pinned', after: { code } },
          })),
      )
    }
    await publish(tx, { topic: 'project', libraryId: project.libraryId, projectId })
    return { changed: wanted.map(w => w.id), refused }
  })
}

/** A statement takes so many parameters and no more. */
const PINS_A_STATEMENT = 1000

/** Takes items out of a project. */
export async function unpinItems(context: Context, actor: Actor, projectId: number, ids: readonly number[]): Promise<void> {
  const project = await getProjectRow(context.db, actor, projectId)
  await context.db.transaction(async tx => {
    await tx.delete(pins).where(and(eq(pins.projectId, projectId), isOneOf(pins.itemId, [...ids])))
    await recordEvents(tx, [{ personId: actor.id, subject: 'project', subjectId: projectId, verb: 'unpinned', before: { ids } }])
    await publish(tx, { topic: 'project', libraryId: project.libraryId, projectId })
  })
}
