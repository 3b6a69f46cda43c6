import { and, asc, eq, inArray, isNull, sql } from 'drizzle-orm'
import type { z } from 'zod'
import { replaceRef } from '#core/mock-up/materials/uses'
import { isNoChange } from '#core/mock-up/scene/change'
import type { ItemRef } from '#core/mock-up/scene/scene'
import type { decideSchema } from '#shared/contracts/decisions.contract'
import type { BulkResult } from '#shared/contracts/items.contract'
import { changeMockUpWithin } from '../mock-ups/mock-ups'
import { type Actor, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import { type Connection, isOneOf } from '../platform/database'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notAllowed, notFound, ProblemError } from '../platform/problem'
import { mayDecide } from '../projects/deciders'
import { getProjectRow } from '../projects/projects'
import { items, versions } from '../tables/library.table'
import { mockUps } from '../tables/mock-up.table'
import { libraries } from '../tables/people.table'
import { pinDecisions, pins, projects } from '../tables/project.table'

type Item = typeof items.$inferSelect

/** Changes that a decision makes come from no page. */
const PAGE = 'decision'

async function openProject(tx: Connection, actor: Actor, projectId: number) {
  const { libraryId, code } = await getProjectRow(tx, actor, projectId)
  if (!(await mayDecide(tx, actor, projectId))) throw notAllowed(`Deciding for ${code}`)
  const [row] = await tx.select().from(projects).where(eq(projects.id, projectId)).for('update')
  if (row.phase !== 'open')
    throw new ProblemError('badRequest', `${code} is ${row.phase}: it keeps its versions until somebody opens it again.`)
  return { libraryId }
}

/** What a project does about newer versions of what it pins: takes them, stays for now, or takes its last decision back. */
export async function decide(
  context: Context,
  actor: Actor,
  projectId: number,
  { ids, kind, until, why, withMockUps }: z.output<typeof decideSchema>,
): Promise<BulkResult> {
  const result: BulkResult = { changed: [], refused: [] }
  await context.db.transaction(async tx => {
    const { libraryId } = await openProject(tx, actor, projectId)
    const held = await holdPins(tx, actor, projectId, ids, kind === 'undo')
    const refuse = (item: Item, reason: string) => result.refused.push({ id: item.id, code: item.code, reason })
    for (const { item, pin } of held) {
      if (kind === 'undo') {
        if (await takeBack(tx, actor, projectId, item, withMockUps)) result.changed.push(item.id)
        else refuse(item, 'Nothing was decided about it.')
        continue
      }
      if (!pin || item.approvedVersionId === null) {
        refuse(item, 'It is not pinned here.')
        continue
      }
      if (kind === 'take' && item.state === 'withdrawn') {
        refuse(item, 'It was withdrawn: choose what comes in its place, or say why it stays.')
        continue
      }
      const decided = { projectId, itemId: item.id, askedVersionId: item.approvedVersionId, personId: actor.id }
      const wasWithdrawn = item.state === 'withdrawn'
      if (kind === 'stay') {
        await keep(tx, { ...decided, kind: 'stays', wasWithdrawn, fromVersionId: pin.versionId, until, why })
      } else if (pin.versionId !== item.approvedVersionId) {
        await keep(tx, { ...decided, kind: 'took', fromVersionId: pin.versionId })
        await pinAt(tx, projectId, item.id, item.approvedVersionId)
        if (withMockUps) await moveMockUps(tx, actor, projectId, item.code, await refOf(tx, item.code, item.approvedVersionId))
      }
      result.changed.push(item.id)
    }
    await recordEvents(tx, [
      {
        personId: actor.id,
        subject: 'project',
        subjectId: projectId,
        verb: { take: 'updated', stay: 'stays', undo: 'decidedAgain' }[kind],
        after: { ids: result.changed, ...(kind === 'stay' ? { until, why } : {}) },
      },
    ])
    await publish(tx, { topic: 'project', libraryId, projectId })
  })
  return result
}

/** Another item in the place of one that is pinned, in the project's mock-ups too. */
export async function replacePin(
  { db }: Context,
  actor: Actor,
  projectId: number,
  { itemId, byId }: { itemId: number; byId: number },
): Promise<void> {
  await db.transaction(async tx => {
    const { libraryId } = await openProject(tx, actor, projectId)
    const [held] = await holdPins(tx, actor, projectId, [itemId], false)
    if (!held?.pin) throw notFound('This pin')
    const [by] = await tx
      .select({ item: items, library: libraries })
      .from(items)
      .innerJoin(libraries, eq(libraries.id, items.libraryId))
      .where(and(eq(items.id, byId), mayRead(actor, items.libraryId)))
    if (!by) throw notFound('What comes in its place')
    if (by.item.approvedVersionId === null || by.item.state === 'withdrawn')
      throw new ProblemError('badRequest', `No version of ${by.item.code} is approved.`)
    if (by.item.kind !== held.item.kind)
      throw new ProblemError('badRequest', `${by.item.code} is a ${by.item.kind}, and cannot stand for a ${held.item.kind}.`)
    if (by.library.kind === 'client' && by.item.libraryId !== libraryId)
      throw new ProblemError('badRequest', `${by.item.code} is in a client's library that this project is not part of.`)
    // Of what was pinned before, the pin is not the decision's: it has another time.
    const at = new Date()
    await keep(tx, {
      projectId,
      itemId,
      at,
      kind: 'replaced',
      askedVersionId: held.item.approvedVersionId ?? held.pin.versionId,
      wasWithdrawn: held.item.state === 'withdrawn',
      fromVersionId: held.pin.versionId,
      replacedById: byId,
      personId: actor.id,
    })
    await tx.delete(pins).where(and(eq(pins.projectId, projectId), eq(pins.itemId, itemId)))
    await tx
      .insert(pins)
      .values({ projectId, itemId: byId, versionId: by.item.approvedVersionId, personId: actor.id, createdAt: at })
      .onConflictDoNothing()
    // As much as was needed of the one is needed of the other.
    await tx.execute(sql`insert into pin_quantities (project_id, item_id, amount, person_id)
      select project_id, ${byId}, amount, person_id from pin_quantities where project_id = ${projectId} and item_id = ${itemId}
      on conflict do nothing`)
    await moveMockUps(tx, actor, projectId, held.item.code, await refOf(tx, by.item.code, by.item.approvedVersionId))
    await recordEvents(tx, [
      {
        personId: actor.id,
        subject: 'project',
        subjectId: projectId,
        verb: 'replaced',
        before: { code: held.item.code },
        after: { code: by.item.code },
      },
    ])
    await publish(tx, { topic: 'project', libraryId, projectId })
  })
}

/** Items and their pins; of what was replaced there is no pin any more. */
async function holdPins(tx: Connection, actor: Actor, projectId: number, ids: readonly number[], withGone: boolean) {
  const rows = await tx
    .select({ item: items, pin: pins })
    .from(items)
    .leftJoin(pins, and(eq(pins.itemId, items.id), eq(pins.projectId, projectId)))
    .where(and(isOneOf(items.id, [...ids]), mayRead(actor, items.libraryId)))
    .orderBy(asc(items.id))
  return rows.filter(r => r.pin !== null || withGone)
}

const keep = (tx: Connection, decision: typeof pinDecisions.$inferInsert) => {
  const whole = { wasWithdrawn: false, replacedById: null, until: null, why: '', at: new Date(), ...decision }
  return tx
    .insert(pinDecisions)
    .values(whole)
    .onConflictDoUpdate({ target: [pinDecisions.projectId, pinDecisions.itemId], set: whole })
}

const pinAt = (tx: Connection, projectId: number, itemId: number, versionId: number) =>
  tx
    .update(pins)
    .set({ versionId })
    .where(and(eq(pins.projectId, projectId), eq(pins.itemId, itemId)))

async function takeBack(tx: Connection, actor: Actor, projectId: number, item: Item, withMockUps: boolean): Promise<boolean> {
  const isThis = and(eq(pinDecisions.projectId, projectId), eq(pinDecisions.itemId, item.id))
  const [decision] = await tx.delete(pinDecisions).where(isThis).returning()
  if (!decision) return false
  if (decision.kind === 'stays') return true
  const back = await refOf(tx, item.code, decision.fromVersionId)
  if (decision.kind === 'took') {
    await pinAt(tx, projectId, item.id, decision.fromVersionId)
    if (withMockUps) await moveMockUps(tx, actor, projectId, item.code, back)
    return true
  }
  await tx
    .insert(pins)
    .values({ projectId, itemId: item.id, versionId: decision.fromVersionId, personId: actor.id })
    .onConflictDoNothing()
  const [by] = await tx.select().from(items).where(eq(items.id, decision.replacedById!))
  const made = await tx
    .delete(pins)
    .where(and(eq(pins.projectId, projectId), eq(pins.itemId, by.id), eq(pins.createdAt, decision.at)))
    .returning({ itemId: pins.itemId })
  // What the project used for itself before stays in its mock-ups, which can take the replacement back by themselves.
  if (made.length > 0) await moveMockUps(tx, actor, projectId, by.code, back)
  return true
}

async function refOf(tx: Connection, code: string, versionId: number): Promise<ItemRef> {
  const [version] = await tx
    .select()
    .from(versions)
    .where(inArray(versions.id, [versionId]))
  return { code, version: version.number, inputKey: version.inputKey }
}

/** The project's mock-ups show it so too; each of them can take that back by itself. */
async function moveMockUps(tx: Connection, actor: Actor, projectId: number, code: string, to: ItemRef): Promise<void> {
  const own = await tx
    .select({ id: mockUps.id, revision: mockUps.revision, scene: mockUps.scene })
    .from(mockUps)
    .where(and(eq(mockUps.projectId, projectId), isNull(mockUps.removedAt)))
  for (const { id, revision, scene } of own) {
    const change = replaceRef(scene, code, to)
    if (!isNoChange(change)) await changeMockUpWithin(tx, actor, id, { page: PAGE, base: revision, change })
  }
}
