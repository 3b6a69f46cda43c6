import { and, eq, isNull, sql } from 'drizzle-orm'
import { useOf } from '#core/mock-up/materials/uses'
import { compareFacts, compareFiles, weightOf } from '#core/revision/compare-facts'
import type { ItemKind } from '#core/standard/categories'
import type { Decision } from '#shared/contracts/decisions.contract'
import { loadRigBook } from '../house/rig-book'
import { readFactsOfMany } from '../items/version-store'
import { getChips } from '../library/chips'
import { type Actor, mayRead } from '../platform/access'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { type Connection, isOneOf } from '../platform/database'
import { publish } from '../platform/notify'
import { findPreviews, previewOf } from '../previews/previews'
import { IS_ASKED, STAYS } from '../projects/awaiting'
import { getProjectRow } from '../projects/projects'
import { files, versionFiles } from '../tables/library.table'
import { mockUps } from '../tables/mock-up.table'
import { findReplacements } from './find-replacements'
import { findDifferences, type VersionPair, workOutDifferences } from './version-differences'

interface AskedRow extends Record<string, unknown> {
  itemId: number
  code: string
  name: string
  kind: ItemKind
  category: string
  isWithdrawn: boolean
  from: AskedVersion
  to: AskedVersion
  stays: Decision['stays']
}
interface AskedVersion {
  id: number
  number: number
  inputKey: string
  author: string
  note: string
  createdAt: string
}

const version = (v: string, author: string) =>
  sql.raw(`jsonb_build_object('id', ${v}.id, 'number', ${v}.number, 'inputKey', ${v}.input_key, 'author', ${author}.name,
    'note', ${v}.note, 'createdAt', to_char(${v}.created_at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"'))`)

/** What a project has to decide about, and what it decided to leave as it is for now. */
export async function listDecisions(
  context: Context & { compute: ComputePool },
  actor: Actor,
  projectId: number,
): Promise<Decision[]> {
  const { db, pool } = context
  const project = await getProjectRow(db, actor, projectId)
  const { rows } = await db.execute<AskedRow>(sql`
    select i.id as "itemId", i.code, i.name, i.kind, i.category::text as category, i.state = 'withdrawn' as "isWithdrawn",
      ${version('f', 'fa')} as "from", ${version('t', 'ta')} as "to",
      case when ${STAYS} then jsonb_build_object('until', d.until, 'why', d.why, 'person', dp.name,
        'at', to_char(d.at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"')) end as stays
    from pins p join items i on i.id = p.item_id join projects j on j.id = p.project_id
    join versions f on f.id = p.version_id join people fa on fa.id = f.author_id
    join versions t on t.id = i.approved_version_id join people ta on ta.id = t.author_id
    left join pin_decisions d on d.project_id = p.project_id and d.item_id = p.item_id
    left join people dp on dp.id = d.person_id
    where p.project_id = ${projectId} and ${IS_ASKED} and ${mayRead(actor, sql`i.library_id`)}
    order by i.code`)
  if (rows.length === 0) return []
  const book = await loadRigBook(db)
  const versionIds = rows.flatMap(r => [r.from.id, r.to.id])
  const [facts, filesOf, found, scenes] = await Promise.all([
    readFactsOfMany(db, versionIds),
    readFiles(db, versionIds),
    findPreviews(
      db,
      rows.flatMap(r => [r.from, r.to].map(v => ({ inputKey: v.inputKey, category: r.category }))),
    ),
    db
      .select({ id: mockUps.id, title: mockUps.title, scene: mockUps.scene })
      .from(mockUps)
      .where(and(eq(mockUps.projectId, projectId), isNull(mockUps.removedAt))),
  ])
  const pairOf = (r: AskedRow): VersionPair | null => {
    const rig = book.rigFor(r.category)
    return rig && r.from.inputKey !== r.to.inputKey ? { beforeKey: r.from.inputKey, afterKey: r.to.inputKey, rig } : null
  }
  const pairs = rows.map(pairOf)
  const known = await findDifferences(
    context,
    pairs.filter(p => p !== null),
  )
  const differences = new Map(pairs.filter(p => p !== null).map((pair, k) => [pair, known[k]]))
  const open = [...differences].filter(([, difference]) => difference === null).map(([pair]) => pair)
  // Nobody waits for it: who looks is told when it is there.
  const tell = async () => {
    await publish(db, { topic: 'project', libraryId: project.libraryId, projectId })
  }
  void workOutDifferences(context, open, tell).catch(() => {})
  const withdrawn = rows.filter(r => r.isWithdrawn)
  const replacements = await findReplacements(
    context,
    actor,
    withdrawn.map(r => r.code),
  )
  const chips = await getChips(pool, actor, [...new Set([...replacements.values()].flat())])
  return rows.map((row, k) => {
    const pair = pairs[k]
    const difference = pair ? differences.get(pair) : undefined
    const [before, after] = [row.from, row.to].map(v => filesOf.get(v.id) ?? [])
    const partsGone = difference ? difference.partsBefore.filter(name => !difference.partsAfter.includes(name)) : []
    const toVersion = (v: AskedVersion, own: typeof before) => ({
      ...v,
      preview: previewOf(found, v.inputKey, row.category),
      bytes: weightOf(own),
    })
    return {
      ...row,
      from: toVersion(row.from, before),
      to: toVersion(row.to, after),
      difference: toDifference(pair, difference),
      facts: compareFacts(facts.get(row.from.id) ?? {}, facts.get(row.to.id) ?? {}),
      files: compareFiles(before, after),
      partsGone,
      partsNew: difference ? difference.partsAfter.filter(name => !difference.partsBefore.includes(name)) : [],
      mockUps: scenes.flatMap(({ id, title, scene }) => {
        const use = useOf(scene, row.code)
        if (!use) return []
        const shots = Object.entries(scene.shots).sort(([, a], [, b]) => a.place - b.place)
        return [
          {
            id,
            title,
            pieces: use.pieces,
            shots: shots.map(([shot, { name }]) => ({ id: shot, name })),
            breaks: use.assignedParts.filter(part => partsGone.includes(part)),
          },
        ]
      }),
      replacements: (replacements.get(row.code) ?? []).flatMap(id => chips.find(c => c.id === id) ?? []),
    }
  })
}

function toDifference(
  pair: VersionPair | null,
  difference: Awaited<ReturnType<typeof findDifferences>>[number] | undefined,
): Decision['difference'] {
  if (!pair) return { state: 'none' }
  if (!difference) return { state: 'waiting' }
  return difference.pictures ? { state: 'there', ...difference.pictures } : { state: 'none' }
}

async function readFiles(db: Connection, versionIds: readonly number[]) {
  const rows = await db
    .select({
      versionId: versionFiles.versionId,
      path: versionFiles.path,
      role: versionFiles.role,
      hash: versionFiles.hash,
      size: files.size,
    })
    .from(versionFiles)
    .innerJoin(files, eq(files.hash, versionFiles.hash))
    .where(isOneOf(versionFiles.versionId, versionIds))
    .orderBy(versionFiles.versionId, versionFiles.position)
  const byVersion = new Map<number, typeof rows>()
  for (const row of rows) byVersion.set(row.versionId, [...(byVersion.get(row.versionId) ?? []), row])
  return byVersion
}
