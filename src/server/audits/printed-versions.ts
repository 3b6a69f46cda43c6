import { deserialize, serialize } from 'node:v8'
import { sql } from 'drizzle-orm'
import { FileError } from '#core/findings/failure'
import type { ItemKind } from '#core/standard/categories'
import type { ItemPrint, PrintedVersion } from '#files/audits/print-item'
import { findVersionSource } from '../items/version-source'
import { type Actor, mayRead } from '../platform/access'
import type { WorkContext } from '../platform/work-context'
import { itemPrints } from '../tables/audit.table'

/** Raised when prints are made or kept in another way: older ones are then made anew. */
const PRINT_REVISION = 3
/** Of what a project has not pinned so many versions at most are printed for one audit; the next goes on from there. */
const MOST_NEW = 1500

export interface ComparedVersion extends PrintedVersion {
  inputKey: string
  /** Number of the approved version; null where none is. */
  approved: number | null
}

export interface ComparisonWish {
  libraryId: number
  /** Null asks the whole library. */
  projectId: number | null
  /** Codes that the scene is stamped with: what they stand for is looked at, approved or not. */
  stamped: readonly string[]
}

interface Row {
  code: string
  name: string
  kind: ItemKind
  version: number
  inputKey: string
  pinned: number | null
  approved: number | null
  isWithdrawn: boolean
  /** By the project, or stamped: it is looked at first. */
  isPinned: boolean
}

/**
 * The versions that a scene of a library is compared with: of what the project pins or the scene is stamped with all, of the rest of what
 * the house and this library have the approved. What was never printed before is printed.
 */
export async function loadPrintedVersions(
  context: WorkContext,
  actor: Actor,
  wish: ComparisonWish,
  onProgress: (share: number) => Promise<void>,
): Promise<{ versions: ComparedVersion[]; notCompared: number }> {
  const rows = await listVersions(context, actor, wish)
  const known = await loadPrints(context, rows)
  const missing = [...new Map(rows.filter(r => !known.has(r.inputKey)).map(r => [r.inputKey, r])).values()]
  const pinnedFirst = missing.sort((a, b) => Number(b.isPinned) - Number(a.isPinned))
  const fresh = pinnedFirst.filter((r, k) => r.isPinned || k < MOST_NEW)
  let done = 0
  const line = fresh.values()
  await Promise.all(
    Array.from({ length: context.intakePool.size }, async () => {
      for (const { inputKey } of line) {
        known.set(inputKey, await makePrint(context, inputKey))
        await onProgress(++done / fresh.length)
      }
    }),
  )
  const versions = rows.flatMap(({ isPinned: _, ...about }) => {
    const print = known.get(about.inputKey)
    return print ? [{ ...about, print }] : []
  })
  return { versions, notCompared: missing.length - fresh.length }
}

async function listVersions(
  { db }: WorkContext,
  actor: Actor,
  { libraryId, projectId, stamped }: ComparisonWish,
): Promise<Row[]> {
  const codes = sql`${sql.param([...stamped])}::text[]`
  // Where no project is asked about, what is approved counts as what should be there.
  const { rows } = await db.execute<Row & Record<string, unknown>>(sql`
    select i.code, i.name, i.kind, v.number as version, v.input_key as "inputKey", i.state = 'withdrawn' as "isWithdrawn",
      (p.version_id is not null or i.code = any(${codes})) as "isPinned",
      a.number as approved,
      case when ${projectId}::int is null then a.number else pv.number end as pinned
    from items i join libraries l on l.id = i.library_id
    join versions v on v.item_id = i.id
    left join versions a on a.id = i.approved_version_id
    left join pins p on p.item_id = i.id and p.project_id = ${projectId}::int
    left join versions pv on pv.id = p.version_id
    where ${mayRead(actor, sql`i.library_id`)} and (l.kind = 'house' or l.id = ${libraryId})
      and (p.version_id is not null or i.code = any(${codes}) or a.id is not null and v.number <= a.number)
      and (i.kind in ('material', 'model', 'light'))
    order by i.code, v.number`)
  return rows
}

async function loadPrints({ db }: WorkContext, rows: readonly Row[]): Promise<Map<string, ItemPrint | null>> {
  const keys = [...new Set(rows.map(r => r.inputKey))]
  const found = await db.execute<{ key: string; print: Buffer | null }>(sql`
    select input_key as key, print from ${itemPrints}
    where revision = ${PRINT_REVISION} and input_key = any(${sql.param(keys)}::text[])`)
  return new Map(found.rows.map(({ key, print }) => [key, print && (deserialize(print) as ItemPrint)]))
}

/** Null for what does not read: it is compared with nothing, and not tried again until prints are made in another way. */
async function makePrint(context: WorkContext, inputKey: string): Promise<ItemPrint | null> {
  const found = await findVersionSource(context, inputKey)
  if (!found) return null
  let print: ItemPrint | null = null
  try {
    print = await context.intakePool.run('printItem', { source: found.source })
  } catch (error) {
    if (!(error instanceof FileError)) throw error
  }
  const row = { revision: PRINT_REVISION, print: print && serialize(print) }
  await context.db
    .insert(itemPrints)
    .values({ inputKey, ...row })
    .onConflictDoUpdate({ target: itemPrints.inputKey, set: row })
  return print
}
