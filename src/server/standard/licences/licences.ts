import { eq, sql } from 'drizzle-orm'
import type { LicenceView, SetLicence } from '#shared/contracts/licences.contract'
import { loadLicences } from '../../house/load-licences'
import { type Actor, mayEdit, maySeeProject, visibleLibraries } from '../../platform/access'
import type { Context } from '../../platform/context'
import type { Connection } from '../../platform/database'
import { recordEvents } from '../../platform/events'
import { notAllowed, ProblemError } from '../../platform/problem'
import { projects } from '../../tables/project.table'
import { licences } from '../../tables/standard.table'

/** Every licence that something which the asker sees comes under, with what it lets out. */
export async function listLicences(db: Connection, actor: Actor): Promise<LicenceView[]> {
  const [{ rows }, known, seen] = await Promise.all([
    db.execute<{ wording: string; items: number }>(sql`
      select f.text as wording, count(distinct i.id)::int as items
      from items i join facts f on f.version_id = i.current_version_id
      where f.name = 'licence' and f.text <> '' and i.state <> 'withdrawn' and i.library_id in ${visibleLibraries(actor)}
      group by 1 order by 2 desc, 1`),
    loadLicences(db),
    listSeenProjects(db, actor),
  ])
  return rows.map(row => {
    const terms = known.get(row.wording)
    return {
      ...row,
      reach: terms?.reach ?? 'all',
      projectIds: (terms?.projectIds ?? []).filter(id => seen.has(id)),
      until: terms?.until ?? null,
      isSaid: terms !== undefined,
    }
  })
}

const listSeenProjects = async (db: Connection, actor: Actor): Promise<Set<number>> => {
  const rows = await db
    .select({ id: projects.id })
    .from(projects)
    .where(maySeeProject(actor, projects.id, projects.libraryId))
  return new Set(rows.map(r => r.id))
}

/** Says what a licence lets out. Projects that the asker does not see stay as somebody else named them. */
export async function setLicence({ db }: Context, actor: Actor, terms: SetLicence): Promise<void> {
  if (!mayEdit(actor)) throw notAllowed('Saying what a licence covers')
  await db.transaction(async tx => {
    const [before] = await tx.select().from(licences).where(eq(licences.wording, terms.wording)).for('update')
    const seen = await listSeenProjects(tx, actor)
    if (terms.projectIds.some(id => !seen.has(id))) throw new ProblemError('badRequest', 'One of these projects is not there.')
    const unseen = (before?.projectIds ?? []).filter(id => !seen.has(id))
    const projectIds = terms.reach === 'projects' ? [...new Set([...terms.projectIds, ...unseen])] : []
    const said = { reach: terms.reach, projectIds, until: terms.until, personId: actor.id, at: new Date() }
    await tx
      .insert(licences)
      .values({ wording: terms.wording, ...said })
      .onConflictDoUpdate({ target: licences.wording, set: said })
    await recordEvents(tx, [
      {
        personId: actor.id,
        subject: 'standard',
        subjectId: 0,
        verb: 'licensed',
        before: before ? { reach: before.reach, projectIds: before.projectIds, until: before.until } : {},
        after: { ...terms, projectIds },
      },
    ])
  })
}
