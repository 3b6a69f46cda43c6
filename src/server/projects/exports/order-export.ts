import { and, eq } from 'drizzle-orm'
import type { Profile } from '#core/hand-over/profile'
import type { OrderExport } from '#shared/contracts/projects.contract'
import { loadProfile, readProfile } from '../../house/load-profiles'
import type { Actor } from '../../platform/access'
import type { Context } from '../../platform/context'
import type { Connection } from '../../platform/database'
import { recordEvents } from '../../platform/events'
import { publish } from '../../platform/notify'
import { ProblemError } from '../../platform/problem'
import { pins, projectExports } from '../../tables/project.table'
import { findProject } from './exports'

/** Orders the zip of what a project pins: all of it, what is chosen, or what is new. */
export async function orderExport(
  context: Context,
  actor: Actor,
  projectId: number,
  { itemIds, onlyNew, ...wish }: OrderExport,
): Promise<number> {
  return context.db.transaction(async tx => {
    const project = await findProject(tx, actor, projectId)
    const { profile, label } = await chooseProfile(tx, project, wish)
    // As pinned now: what somebody pins while it is being written is not in it.
    const all = await tx
      .select({ itemId: pins.itemId, versionId: pins.versionId })
      .from(pins)
      .where(eq(pins.projectId, projectId))
    if (all.length === 0)
      throw new ProblemError('badRequest', 'Nothing is pinned yet: carry items from the wall into this project first.')
    const chosen = itemIds ? new Set(itemIds) : null
    const wanted = chosen ? all.filter(p => chosen.has(p.itemId)) : all
    if (wanted.length === 0) throw new ProblemError('badRequest', 'Nothing of what you chose is pinned here any more.')
    const before = onlyNew ? await listHandedOver(tx, projectId, profile) : new Set<number>()
    const pinned = wanted.filter(p => !before.has(p.versionId))
    if (pinned.length === 0)
      throw new ProblemError('badRequest', 'Everything that is pinned was handed over in this form already.')
    const [row] = await tx
      .insert(projectExports)
      .values({ projectId, personId: actor.id, label, profile, pins: pinned, total: pinned.length })
      .returning({ id: projectExports.id })
    await recordEvents(tx, [
      {
        personId: actor.id,
        subject: 'project',
        subjectId: projectId,
        verb: 'exportOrdered',
        after: { profile: label || 'its own', items: pinned.length },
      },
    ])
    await publish(tx, { topic: 'project', libraryId: project.libraryId, projectId })
    await context.queue.send(tx, 'write-export', [{ exportId: row.id }])
    return row.id
  })
}

/** This once, by a profile of the house, as the project has it, or as the house has it. */
async function chooseProfile(
  db: Connection,
  project: { ownForm: Partial<Profile> | null; profileId: number | null },
  { profile, profileId }: Pick<OrderExport, 'profile' | 'profileId'>,
): Promise<{ profile: Profile; label: string }> {
  if (profile) return { profile, label: '' }
  if (profileId === undefined && project.ownForm) return { profile: readProfile(project.ownForm), label: '' }
  const named = await loadProfile(db, profileId ?? project.profileId)
  return { profile: named.profile, label: named.name }
}

/** Versions that hand-overs of a project in a form have had. */
async function listHandedOver(tx: Connection, projectId: number, profile: Profile): Promise<Set<number>> {
  const rows = await tx
    .select({ profile: projectExports.profile, pins: projectExports.pins })
    .from(projectExports)
    .where(and(eq(projectExports.projectId, projectId), eq(projectExports.state, 'ready')))
  const wanted = JSON.stringify(profile)
  return new Set(rows.filter(r => JSON.stringify(readProfile(r.profile)) === wanted).flatMap(r => r.pins.map(p => p.versionId)))
}
