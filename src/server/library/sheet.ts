import { and, eq, sql } from 'drizzle-orm'
import type pg from 'pg'
import { checkStandard, NO_RULES, resolveRules } from '#core/standard/category-rules'
import { firstWordsOf, resolveWordLines } from '#core/standard/word-lines'
import type { Sheet } from '#shared/contracts/items.contract'
import { toRigBook } from '../house/rig-book'
import { toFindingView } from '../items/finding-view'
import { type Actor, mayEdit, mayRead } from '../platform/access'
import type { Connection } from '../platform/database'
import { notFound } from '../platform/problem'
import { toFidelityViews } from '../previews/fidelity/fidelity'
import { chooseBest, toPreviewView } from '../previews/previews'
import { turntableUrl } from '../previews/turntable/turntables'
import { files, findings, items, versionFiles, versions } from '../tables/library.table'
import { lookedAt } from '../tables/personal.table'
import { itemViews } from '../tables/rig.table'
import { toOwnPicture } from './pictures/own-pictures'
import { type SheetRow, selectSheet } from './sheet-statement'

/** Everything of one item, at its current version or at the numbered one. */
export async function getSheet(pool: pg.Pool, actor: Actor, code: string, number: number | null): Promise<Sheet> {
  const [row] = await selectSheet(pool, code, number, actor.id)
  if (!row) throw notFound(number === null ? `The item ${code}` : `Version ${number} of ${code}`)
  return toSheet(row, actor)
}

function toSheet(row: SheetRow, actor: Actor): Sheet {
  const { item, history } = row
  const version = history.find(v => v.id === row.shown)!
  const book = toRigBook(row)
  const rig = book.rigFor(item.category)
  const facts = row.facts.map(([name, value]) => ({ name, value }))
  const known = Object.fromEntries(row.facts)
  // Rules that were stored before a kind of rule was there say nothing about it.
  const rules = new Map(Object.entries(row.rules).map(([path, own]) => [path, { ...NO_RULES, ...own }]))
  const best = chooseBest(row.pictures, book, item.category)
  const newest = row.ownPictures.at(-1)
  const ready = row.ownPictures.findLast(p => p.state === 'ready')
  const toVersion = (v: (typeof history)[number]) => ({
    id: v.id,
    number: v.number,
    author: v.author,
    note: v.note,
    createdAt: toTime(v.createdAt),
    isApproved: v.id === item.approvedVersionId,
  })
  return {
    id: item.id,
    code: item.code,
    name: item.name,
    kind: item.kind,
    category: item.category,
    state: item.state,
    library: item.library,
    copiedFrom: row.copiedFrom,
    formerCodes: row.formerCodes,
    dots: row.dots,
    mayEdit: mayEdit(actor),
    version: toVersion(version),
    widthMm: version.widthMm,
    tiling: version.tiling,
    constants: version.constants,
    facts,
    standard: checkStandard(resolveRules(item.category, rules), item.name, known, firstWordsOf(resolveWordLines(row.wordLines))),
    findings: row.findings.map(f =>
      toFindingView(
        { ...f, subject: f.subject ?? undefined },
        {
          before: f.beforeHash ? `/api/findings/${f.id}/before` : null,
          after: f.afterHash ? `/api/findings/${f.id}/after` : null,
        },
      ),
    ),
    files: row.files.map(({ position, ...file }) => ({ ...file, url: `/api/versions/${version.id}/files/${position}` })),
    preview: best ? toPreviewView(best, book, rig) : null,
    turntable: row.turntable === null ? null : turntableUrl(row.turntable),
    ownPicture: ready ? toOwnPicture(ready, ready.by, toTime(ready.createdAt)) : null,
    pendingPicture: newest && newest.state !== 'ready' ? toOwnPicture(newest, newest.by, toTime(newest.createdAt)) : null,
    fidelity: toFidelityViews(row.fidelity),
    rig,
    versions: history.map(toVersion),
    events: row.events.map(e => ({ ...e, at: toTime(e.at), person: e.person ?? 'Muscovite' })),
    projects: row.projects,
  }
}

const toTime = (text: string): string => new Date(text).toISOString()

/** Counts that somebody opened a sheet: what people look at is rendered first. */
export const countView = (db: Connection, actor: Actor, itemId: number) =>
  db.execute(sql`
    insert into ${itemViews} (item_id, views)
    select ${items.id}, 1 from ${items} where ${items.id} = ${itemId} and ${mayRead(actor, items.libraryId)}
    on conflict (item_id) do update set views = ${itemViews}.views + 1`)

/** Somebody opened the sheet of an item: it is among what they looked at last. */
export const noteLook = (db: Connection, actor: Actor, itemId: number) =>
  db.execute(sql`
    insert into ${lookedAt} (person_id, item_id)
    select ${actor.id}, ${items.id} from ${items} where ${items.id} = ${itemId} and ${mayRead(actor, items.libraryId)}
    on conflict (person_id, item_id) do update set at = now()`)

/** One file of a version, for download or the live view. */
export async function getVersionFile(db: Connection, actor: Actor, versionId: number, position: number) {
  const [row] = await db
    .select({ hash: files.hash, size: files.size, mediaType: files.mediaType, path: versionFiles.path, role: versionFiles.role })
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
