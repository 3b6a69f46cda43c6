import { and, asc, desc, eq, sql } from 'drizzle-orm'
import { checkStandard, resolveRules } from '#core/standard/category-rules'
import type { Sheet } from '#shared/contracts/items.contract'
import { loadRules } from '../house/load-rules'
import { loadRigBook } from '../house/rig-book'
import { toFindingView } from '../items/finding-view'
import { readFacts } from '../items/version-store'
import { type Actor, mayEdit, mayRead } from '../platform/access'
import type { Connection } from '../platform/database'
import { notFound } from '../platform/problem'
import { findFidelity } from '../previews/fidelity/fidelity'
import { findPreviews, previewOf } from '../previews/previews'
import { findTurntable } from '../previews/turntable/turntables'
import { events, files, findings, items, versionFiles, versions } from '../tables/library.table'
import { libraries, people } from '../tables/people.table'
import { pins, projects } from '../tables/project.table'
import { itemViews } from '../tables/rig.table'
import { findOwnPictures, findPendingPicture } from './own-pictures'

/** Everything of one item, at its current version or at the numbered one. */
export async function getSheet(db: Connection, actor: Actor, code: string, number: number | null): Promise<Sheet> {
  const [row] = await db
    .select({ item: items, library: libraries.title })
    .from(items)
    .innerJoin(libraries, eq(libraries.id, items.libraryId))
    .where(and(eq(items.code, code), mayRead(actor, items.libraryId)))
  if (!row) throw notFound(`The item ${code}`)
  const { item, library } = row
  const history = await db
    .select({ version: versions, author: people.name })
    .from(versions)
    .innerJoin(people, eq(people.id, versions.authorId))
    .where(eq(versions.itemId, item.id))
    .orderBy(desc(versions.number))
  const shown = history.find(h => (number === null ? h.version.id === item.currentVersionId : h.version.number === number))
  if (!shown) throw notFound(`Version ${number} of ${code}`)
  const { version } = shown
  const rules = await loadRules(db)
  const [known, findingRows, fileRows, eventRows, projectRows, found, book, fidelity, turntable, own, pendingPicture] =
    await Promise.all([
      readFacts(db, version.id),
      db.select().from(findings).where(eq(findings.versionId, version.id)).orderBy(asc(findings.id)),
      db
        .select({ file: versionFiles, size: files.size, mediaType: files.mediaType })
        .from(versionFiles)
        .innerJoin(files, eq(files.hash, versionFiles.hash))
        .where(eq(versionFiles.versionId, version.id))
        .orderBy(asc(versionFiles.position)),
      db
        .select({ event: events, person: people.name })
        .from(events)
        .leftJoin(people, eq(people.id, events.personId))
        .where(and(eq(events.subject, 'item'), eq(events.subjectId, item.id)))
        .orderBy(desc(events.id))
        .limit(30),
      db
        .select({ id: projects.id, code: projects.code, title: projects.title, versionNumber: versions.number })
        .from(pins)
        .innerJoin(projects, eq(projects.id, pins.projectId))
        .innerJoin(versions, eq(versions.id, pins.versionId))
        .where(and(eq(pins.itemId, item.id), mayRead(actor, projects.libraryId)))
        .orderBy(asc(projects.code)),
      findPreviews(db, [{ inputKey: version.inputKey, category: item.category }]),
      loadRigBook(db),
      findFidelity(db, version.inputKey),
      findTurntable(db, version.inputKey),
      findOwnPictures(db, [version.id]),
      findPendingPicture(db, version.id),
    ])
  const toVersion = ({ version: v, author }: (typeof history)[number]) => ({
    id: v.id,
    number: v.number,
    author,
    note: v.note,
    createdAt: v.createdAt.toISOString(),
    isApproved: v.id === item.approvedVersionId,
  })
  return {
    id: item.id,
    code: item.code,
    name: item.name,
    kind: item.kind,
    category: item.category,
    state: item.state,
    library,
    mayEdit: mayEdit(actor),
    version: toVersion(shown),
    widthMm: version.widthMm,
    tiling: version.tiling,
    constants: version.constants,
    facts: Object.entries(known).map(([name, value]) => ({ name, value })),
    standard: checkStandard(resolveRules(item.category, rules), item.name, known),
    findings: findingRows.map(f =>
      toFindingView(
        { ...f, subject: f.subject ?? undefined },
        {
          before: f.beforeHash ? `/api/findings/${f.id}/before` : null,
          after: f.afterHash ? `/api/findings/${f.id}/after` : null,
        },
      ),
    ),
    files: fileRows.map(({ file, size, mediaType }) => ({
      path: file.path,
      role: file.role,
      size,
      hash: file.hash,
      mediaType,
      url: `/api/versions/${version.id}/files/${file.position}`,
      handednessHint: file.handednessHint,
    })),
    preview: previewOf(found, version.inputKey, item.category),
    turntable,
    ownPicture: own.get(version.id)?.url ? own.get(version.id)! : null,
    pendingPicture,
    fidelity,
    rig: book.rigFor(item.category),
    versions: history.map(toVersion),
    events: eventRows.map(({ event, person }) => ({
      id: event.id,
      at: event.at.toISOString(),
      person: person ?? 'Muscovite',
      verb: event.verb,
      before: event.before,
      after: event.after,
    })),
    projects: projectRows,
  }
}

/** Counts that somebody opened a sheet: what people look at is rendered first. */
export const countView = (db: Connection, actor: Actor, itemId: number) =>
  db.execute(sql`
    insert into ${itemViews} (item_id, views)
    select ${items.id}, 1 from ${items} where ${items.id} = ${itemId} and ${mayRead(actor, items.libraryId)}
    on conflict (item_id) do update set views = ${itemViews}.views + 1`)

/** One file of a version, for download or the live view. */
export async function getVersionFile(db: Connection, actor: Actor, versionId: number, position: number) {
  const [row] = await db
    .select({ hash: files.hash, size: files.size, mediaType: files.mediaType, path: versionFiles.path })
    .from(versionFiles)
    .innerJoin(files, eq(files.hash, versionFiles.hash))
    .innerJoin(versions, eq(versions.id, versionFiles.versionId))
    .innerJoin(items, eq(items.id, versions.itemId))
    .where(and(eq(versionFiles.versionId, versionId), eq(versionFiles.position, position), mayRead(actor, items.libraryId)))
  if (!row) throw notFound('This file')
  return row
}

/** Hash of the picture of a version's finding, if the asker may see its item. */
export async function getFindingPicture(db: Connection, actor: Actor, id: number, which: 'before' | 'after'): Promise<string> {
  const [row] = await db
    .select({ before: findings.beforeHash, after: findings.afterHash })
    .from(findings)
    .innerJoin(versions, eq(versions.id, findings.versionId))
    .innerJoin(items, eq(items.id, versions.itemId))
    .where(and(eq(findings.id, id), mayRead(actor, items.libraryId)))
  const hash = row?.[which]
  if (!hash) throw notFound('This picture')
  return hash
}
