import { and, eq, sql } from 'drizzle-orm'
import { TARGET_OF_FORM } from '#core/hand-over/profile'
import type { Target } from '#core/standard/target-names'
import { HOUSE_FLIP_LIMIT } from '#shared/contracts/fidelity.contract'
import type { NamedProfile, ProfileFidelity, SaveProfile } from '#shared/contracts/profiles.contract'
import { loadProfiles } from '../../house/load-profiles'
import { type Actor, mayEdit, maySeeProject, visibleLibraries } from '../../platform/access'
import type { Context } from '../../platform/context'
import type { Connection } from '../../platform/database'
import { recordEvents } from '../../platform/events'
import { notAllowed, notFound, ProblemError } from '../../platform/problem'
import { projects } from '../../tables/project.table'
import { profiles } from '../../tables/standard.table'

/** Every profile, with what it keeps of the materials that were measured and how many projects hand over by it. */
export async function listProfiles(db: Connection, actor: Actor): Promise<NamedProfile[]> {
  const [known, measured, used] = await Promise.all([
    loadProfiles(db),
    measureTargets(db, actor),
    db.execute<{ id: number; count: number }>(
      sql`select profile_id as id, count(*)::int as count from projects
        where profile_id is not null and ${maySeeProject(actor, projects.id, projects.libraryId)} group by 1`,
    ),
  ])
  return known.map(p => ({
    ...p,
    fidelity: measured.get(TARGET_OF_FORM[p.profile.materials]) ?? [],
    projects: used.rows.find(u => u.id === p.id)?.count ?? 0,
  }))
}

/** How targets keep what is approved, by the categories at the top of the materials. */
async function measureTargets(db: Connection, actor: Actor): Promise<Map<Target, ProfileFidelity[]>> {
  const { rows } = await db.execute<ProfileFidelity & { target: Target }>(sql`
    select t.target, c.path::text as category, c.title, count(*)::int as measured,
      avg(t.mean_flip)::float as "meanFlip", (count(*) filter (where t.mean_flip > ${HOUSE_FLIP_LIMIT}))::int as losing
    from items i join versions v on v.id = i.approved_version_id join target_fidelity t on t.input_key = v.input_key
    join categories c on c.path = subpath(i.category, 0, least(2, nlevel(i.category)))
    where i.kind = 'material' and i.state <> 'withdrawn' and i.library_id in ${visibleLibraries(actor)}
    group by 1, 2, 3 order by 1, 5 desc`)
  const byTarget = new Map<Target, ProfileFidelity[]>()
  for (const { target, ...row } of rows) byTarget.set(target, [...(byTarget.get(target) ?? []), row])
  return byTarget
}

/** Keeps a profile under its name, and makes it the one of all where that is asked. */
export async function saveProfile({ db }: Context, actor: Actor, { id, name, profile, isHouse }: SaveProfile): Promise<number> {
  if (!mayEdit(actor)) throw notAllowed('Changing how the house hands over')
  return db.transaction(async tx => {
    const [taken] = await tx.select({ id: profiles.id }).from(profiles).where(eq(profiles.name, name))
    if (taken && taken.id !== id) throw new ProblemError('conflict', `There is a profile “${name}”; give it another name.`)
    if (isHouse) await tx.update(profiles).set({ isHouse: false }).where(eq(profiles.isHouse, true))
    const kept = { name, profile, personId: actor.id, at: new Date(), ...(isHouse ? { isHouse } : {}) }
    const [row] =
      id === null
        ? await tx.insert(profiles).values(kept).returning({ id: profiles.id })
        : await tx.update(profiles).set(kept).where(eq(profiles.id, id)).returning({ id: profiles.id })
    if (!row) throw notFound('This profile')
    await recordEvents(tx, [
      { personId: actor.id, subject: 'standard', subjectId: row.id, verb: 'profiled', after: { name, isHouse, profile } },
    ])
    return row.id
  })
}

/** Takes a profile out; not while a project hands over by it. */
export async function removeProfile({ db }: Context, actor: Actor, id: number): Promise<void> {
  if (!mayEdit(actor)) throw notAllowed('Changing how the house hands over')
  await db.transaction(async tx => {
    const users = await tx.$count(projects, eq(projects.profileId, id))
    if (users > 0)
      throw new ProblemError(
        'conflict',
        `${users === 1 ? 'One project hands' : `${users} projects hand`} over by it; give it another first.`,
      )
    const [row] = await tx
      .delete(profiles)
      .where(and(eq(profiles.id, id), eq(profiles.isHouse, false)))
      .returning({ name: profiles.name, profile: profiles.profile })
    if (!row) throw new ProblemError('conflict', 'The profile of the house stays: make another one the house’s first.')
    await recordEvents(tx, [{ personId: actor.id, subject: 'standard', subjectId: id, verb: 'profileRemoved', before: row }])
  })
}
