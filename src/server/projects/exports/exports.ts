import { and, desc, eq } from 'drizzle-orm'
import type { ProjectExport } from '#shared/contracts/projects.contract'
import { readProfile } from '../../house/load-profiles'
import { type Actor, maySeeProject } from '../../platform/access'
import type { Connection } from '../../platform/database'
import { notFound, ProblemError } from '../../platform/problem'
import { people } from '../../tables/people.table'
import { projectExports, projects } from '../../tables/project.table'

/** A project as those who work on it see it. @throws ProblemError for who does not */
export async function findProject(db: Connection, actor: Actor, id: number) {
  const [row] = await db
    .select()
    .from(projects)
    .where(and(eq(projects.id, id), maySeeProject(actor, projects.id, projects.libraryId)))
  if (!row) throw notFound('This project')
  return row
}

/** The last hand-overs of a project, the newest first. */
export async function listExports(db: Connection, projectId: number): Promise<ProjectExport[]> {
  const rows = await db
    .select({ ordered: projectExports, person: people.name })
    .from(projectExports)
    .innerJoin(people, eq(people.id, projectExports.personId))
    .where(eq(projectExports.projectId, projectId))
    .orderBy(desc(projectExports.id))
    .limit(20)
  return rows.map(({ ordered: d, person }) => ({
    id: d.id,
    label: d.label,
    profile: readProfile(d.profile),
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
  const project = await findProject(db, actor, projectId)
  const [row] = await db
    .select({ manifest: projectExports.manifest })
    .from(projectExports)
    .where(and(eq(projectExports.id, exportId), eq(projectExports.projectId, projectId)))
  if (!row?.manifest) throw notFound('This manifest')
  return { manifest: row.manifest, fileName: `${project.code}-export-${exportId}-manifest.json` }
}

/** The finished zip of an export. */
export async function getExportFile(db: Connection, actor: Actor, projectId: number, exportId: number) {
  const project = await findProject(db, actor, projectId)
  const [row] = await db
    .select()
    .from(projectExports)
    .where(and(eq(projectExports.id, exportId), eq(projectExports.projectId, projectId)))
  if (!row) throw notFound('This export')
  if (row.hash === null || row.size === null)
    throw new ProblemError('notReady', 'The export is still being written; try again in a moment.')
  return { hash: row.hash, size: row.size, fileName: `${project.code}-export-${row.id}.zip` }
}
