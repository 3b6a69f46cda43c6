import { and, asc, desc, eq, gt, isNull, sql } from 'drizzle-orm'
import type { z } from 'zod'
import { listRefs } from '#core/mock-up/materials/list-refs'
import { applyChange, type Change, differenceOf, isNoChange, joinChanges, mendReferences } from '#core/mock-up/scene/change'
import { EMPTY_SCENE, type Scene, sceneSchema } from '#core/mock-up/scene/scene'
import type {
  EditMockUp,
  MockUp,
  MockUpChange,
  MockUpSummary,
  MockUpVersion,
  newMockUpSchema,
} from '#shared/contracts/mock-ups.contract'
import { getHouseLibraryId } from '../people/libraries'
import { type Actor, mayEdit, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import type { Connection } from '../platform/database'
import { publish } from '../platform/notify'
import { notAllowed, notFound, ProblemError } from '../platform/problem'
import { pinItems } from '../projects/projects'
import { assertMayStandIn } from '../stage-models/stage-models'
import { mockUpChanges, mockUpPictures, mockUps, mockUpVersions } from '../tables/mock-up.table'
import { libraries, people } from '../tables/people.table'
import { projects } from '../tables/project.table'
import { assertMayShow, newRefs, resolveRefs, resolveScene } from './resolve-items'

/** So many things at most: what is larger is no small staged scene, and would make every change slow. */
const MOST_THINGS = 5000
/** A page that is farther behind reads the whole anew. */
const MOST_CAUGHT_UP = 200

export type MockUpRow = typeof mockUps.$inferSelect

/** One's own, those of projects whose library one sees, and shared ones. */
const maySeeMockUp = (actor: Actor) =>
  sql`(${mockUps.ownerId} = ${actor.id} or ((${mockUps.projectId} is not null or ${mockUps.isShared} or ${mockUps.isTemplate}) and ${mayRead(actor, mockUps.libraryId)}))`

/** Who sees it besides its owner; null for nobody. */
const audienceOf = ({ projectId, isShared, isTemplate, libraryId }: Omit<MockUpRow, 'scene'>): number | null =>
  projectId !== null || isShared || isTemplate ? libraryId : null

export async function getMockUpRow(db: Connection, actor: Actor, id: number, lock = false): Promise<MockUpRow> {
  const query = db
    .select()
    .from(mockUps)
    .where(and(eq(mockUps.id, id), maySeeMockUp(actor)))
  const [row] = await (lock ? query.for('update') : query)
  if (!row) throw notFound('This mock-up')
  return row
}

const countOf = (table: keyof Scene) =>
  sql<number>`(select count(*)::int from jsonb_object_keys(${mockUps.scene} -> ${sql.raw(`'${table}'`)}))`

const selectSummaries = (db: Connection, actor: Actor) =>
  db
    .select({
      id: mockUps.id,
      title: mockUps.title,
      project: { id: projects.id, code: projects.code, title: projects.title },
      owner: people.name,
      ownerId: mockUps.ownerId,
      isShared: mockUps.isShared,
      isTemplate: mockUps.isTemplate,
      pieces: countOf('pieces'),
      shots: countOf('shots'),
      changedAt: mockUps.changedAt,
      // A final rather than a draft, the newest of them.
      cover: sql<number | null>`(select p.id from ${mockUpPictures} p where p.mock_up_id = ${mockUps.id} and p.state = 'ready'
        order by p.quality desc, p.id desc limit 1)`,
    })
    .from(mockUps)
    .innerJoin(people, eq(people.id, mockUps.ownerId))
    .leftJoin(projects, eq(projects.id, mockUps.projectId))
    .where(maySeeMockUp(actor))
    .$dynamic()

const toSummary = (
  { ownerId, changedAt, cover, ...row }: Awaited<ReturnType<typeof selectSummaries>>[number],
  actor: Actor,
): MockUpSummary => ({
  ...row,
  isOwn: ownerId === actor.id,
  changedAt: changedAt.toISOString(),
  cover: cover === null ? null : pictureUrl(cover),
})

export const pictureUrl = (id: number): string => `/api/mock-up-pictures/${id}`

export async function listMockUps({ db }: Context, actor: Actor, projectId?: number): Promise<MockUpSummary[]> {
  const rows = await selectSummaries(db, actor)
    .where(
      and(maySeeMockUp(actor), isNull(mockUps.removedAt), projectId === undefined ? undefined : eq(mockUps.projectId, projectId)),
    )
    .orderBy(desc(mockUps.changedAt), desc(mockUps.id))
    .limit(500)
  return rows.map(row => toSummary(row, actor))
}

export async function createMockUp(
  { db }: Context,
  actor: Actor,
  { title, projectId, stage, from }: z.output<typeof newMockUpSchema>,
): Promise<number> {
  return db.transaction(async tx => {
    const source = from === undefined ? null : await getMockUpRow(tx, actor, from)
    const libraryId =
      projectId === null ? (source?.libraryId ?? (await getHouseLibraryId(tx))) : await libraryOf(tx, actor, projectId)
    const scene = source?.scene ?? { ...EMPTY_SCENE, ...(stage ? { stage } : {}) }
    const audience = projectId === null ? null : libraryId
    await assertMayShow(tx, actor, listRefs(scene), audience)
    await assertMayStandIn(tx, actor, scene.stage, audience)
    const [row] = await tx.insert(mockUps).values({ title, projectId, ownerId: actor.id, libraryId, scene }).returning()
    await tell(tx, row, 0)
    return row.id
  })
}

async function libraryOf(db: Connection, actor: Actor, projectId: number): Promise<number> {
  const [project] = await db
    .select({ libraryId: projects.libraryId })
    .from(projects)
    .where(and(eq(projects.id, projectId), mayRead(actor, projects.libraryId)))
  if (!project) throw notFound('This project')
  return project.libraryId
}

const tell = (
  db: Connection,
  { id, libraryId }: Pick<MockUpRow, 'id' | 'libraryId'>,
  revision: number | null,
  picture: number | null = null,
) => publish(db, { topic: 'mockUp', libraryId, mockUpId: id, revision, picture })
export const tellPicture = (db: Connection, mockUp: Pick<MockUpRow, 'id' | 'libraryId'>, picture: number) =>
  tell(db, mockUp, null, picture)

export async function getMockUp(context: Context, actor: Actor, id: number): Promise<MockUp> {
  const [summary] = await selectSummaries(context.db, actor).where(and(eq(mockUps.id, id), maySeeMockUp(actor)))
  if (!summary) throw notFound('This mock-up')
  const { scene, revision, libraryId } = await getMockUpRow(context.db, actor, id)
  const [library] = await context.db.select().from(libraries).where(eq(libraries.id, libraryId))
  const items = await resolveScene(context, actor, id, scene)
  return { ...toSummary(summary, actor), library: library.key, scene, revision, items }
}

/** @throws ProblemError for sharing what is somebody else's, or what holds things that those who would see it may not see */
export async function editMockUp({ db }: Context, actor: Actor, id: number, edit: EditMockUp): Promise<void> {
  await db.transaction(async tx => {
    const row = await getMockUpRow(tx, actor, id, true)
    const isOwn = row.ownerId === actor.id
    if (edit.isTemplate !== undefined && !mayEdit(actor)) throw notAllowed('Keeping a mock-up as a template')
    if (
      !isOwn &&
      !mayEdit(actor) &&
      (edit.isShared !== undefined || edit.projectId !== undefined || edit.isRemoved !== undefined)
    )
      throw new ProblemError('notAllowed', 'Only whose mock-up it is, or a library lead, may share it, move it or put it aside.')
    const { isRemoved, projectId, ...rest } = edit
    const libraryId = projectId ? await libraryOf(tx, actor, projectId) : row.libraryId
    const next = { ...row, ...rest, ...(projectId === undefined ? {} : { projectId }), libraryId }
    const audience = audienceOf(next)
    if (audience !== audienceOf(row)) {
      await assertMayShow(tx, actor, listRefs(row.scene), audience)
      await assertMayStandIn(tx, actor, row.scene.stage, audience)
    }
    await tx
      .update(mockUps)
      .set({
        title: next.title,
        isShared: next.isShared,
        isTemplate: next.isTemplate,
        projectId: next.projectId,
        libraryId,
        ...(isRemoved === undefined ? {} : { removedAt: isRemoved ? new Date() : null }),
      })
      .where(eq(mockUps.id, id))
    await tell(tx, next, row.revision)
  })
}

/**
 * Does a change to the scene as it is now, whatever was its base: the later one stands.
 * @returns what others did since the base, and this change as it was done
 */
export async function changeMockUp({ db }: Pick<Context, 'db'>, actor: Actor, id: number, given: GivenChange) {
  return db.transaction(tx => changeMockUpWithin(tx, actor, id, given))
}

interface GivenChange {
  page: string
  base: number
  change: Change
}

/** The same as a part of what its caller does. */
export async function changeMockUpWithin(tx: Connection, actor: Actor, id: number, { page, base, change }: GivenChange) {
  const row = await getMockUpRow(tx, actor, id, true)
  return makeChange(tx, actor, row, page, change, base)
}

/** Of the model that a scene stands in. */
const stageKey = ({ stage }: Scene): string | null => (stage.kind === 'model' ? stage.model.key : null)

async function makeChange(tx: Connection, actor: Actor, row: MockUpRow, page: string, change: Change, base: number) {
  if (isNoChange(change)) return listChanges(tx, row, base)
  const first = applyChange(row.scene, change)
  const mend = mendReferences(first.scene)
  const { scene } = applyChange(first.scene, mend)
  const things = Object.keys(scene.pieces).length + Object.keys(scene.plantings).length + Object.keys(scene.shots).length
  if (things > MOST_THINGS)
    throw new ProblemError(
      'badRequest',
      `A mock-up holds ${MOST_THINGS.toLocaleString('en')} things at most; nothing was changed.`,
    )
  await assertMayShow(tx, actor, newRefs(listRefs(row.scene), listRefs(scene)), audienceOf(row))
  if (stageKey(scene) !== stageKey(row.scene)) await assertMayStandIn(tx, actor, scene.stage, audienceOf(row))
  const revision = row.revision + 1
  await tx
    .update(mockUps)
    .set({ scene: sceneSchema.parse(scene), revision, changedAt: new Date() })
    .where(eq(mockUps.id, row.id))
  await tx
    .insert(mockUpChanges)
    .values({ mockUpId: row.id, revision, personId: actor.id, page, change: joinChanges(change, mend) })
  await tell(tx, row, revision)
  return listChanges(tx, { ...row, revision }, base)
}

export async function listMockUpChanges({ db }: Context, actor: Actor, id: number, since: number) {
  return listChanges(db, await getMockUpRow(db, actor, id), since)
}

async function listChanges(
  db: Connection,
  { id, revision }: Pick<MockUpRow, 'id' | 'revision'>,
  since: number,
): Promise<{ revision: number; changes: MockUpChange[] | null }> {
  if (since > revision || revision - since > MOST_CAUGHT_UP) return { revision, changes: null }
  const rows = await db
    .select({
      revision: mockUpChanges.revision,
      person: people.name,
      page: mockUpChanges.page,
      change: mockUpChanges.change,
    })
    .from(mockUpChanges)
    .innerJoin(people, eq(people.id, mockUpChanges.personId))
    .where(and(eq(mockUpChanges.mockUpId, id), gt(mockUpChanges.revision, since)))
    .orderBy(asc(mockUpChanges.revision))
  return { revision, changes: rows }
}

export async function listVersions({ db }: Context, actor: Actor, id: number): Promise<MockUpVersion[]> {
  await getMockUpRow(db, actor, id)
  const rows = await db
    .select({ id: mockUpVersions.id, name: mockUpVersions.name, person: people.name, at: mockUpVersions.at })
    .from(mockUpVersions)
    .innerJoin(people, eq(people.id, mockUpVersions.personId))
    .where(eq(mockUpVersions.mockUpId, id))
    .orderBy(desc(mockUpVersions.id))
  return rows.map(row => ({ ...row, at: row.at.toISOString() }))
}

export async function keepVersion({ db }: Pick<Context, 'db'>, actor: Actor, id: number, name: string): Promise<number> {
  const { scene } = await getMockUpRow(db, actor, id)
  const [row] = await db.insert(mockUpVersions).values({ mockUpId: id, name, personId: actor.id, scene }).returning()
  return row.id
}

/** A kept state taken again is a change like any other: it can be undone, and what others see follows. */
export async function takeVersion({ db }: Context, actor: Actor, id: number, versionId: number, page: string) {
  return db.transaction(async tx => {
    const row = await getMockUpRow(tx, actor, id, true)
    const [kept] = await tx
      .select()
      .from(mockUpVersions)
      .where(and(eq(mockUpVersions.id, versionId), eq(mockUpVersions.mockUpId, id)))
    if (!kept) throw notFound('This version')
    return makeChange(tx, actor, row, page, differenceOf(row.scene, kept.scene), row.revision)
  })
}

/** Pins what a mock-up shows in its project, at the versions that are approved. */
export async function pinMockUp(context: Context, actor: Actor, id: number) {
  const row = await getMockUpRow(context.db, actor, id)
  if (row.projectId === null)
    throw new ProblemError('badRequest', 'This mock-up is nobody’s but yours: move it into a project first.')
  const items = await resolveRefs(context, actor, listRefs(row.scene))
  const ids = [...new Set(items.flatMap(i => i.id ?? []))]
  if (ids.length === 0) throw new ProblemError('badRequest', 'Nothing of the library is in this mock-up yet.')
  return pinItems(context, actor, row.projectId, ids)
}
