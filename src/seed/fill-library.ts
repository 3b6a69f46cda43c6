import { sql } from 'drizzle-orm'
import { createRandom } from '#core/math/random'
import type { ItemKind } from '#core/standard/categories'
import { splitTags } from '#core/standard/category-rules'
import type { FactValue } from '#files/items/inspect-item'
import { KEY_FACTS } from '#shared/key-figure'
import { isWordList } from '../server/items/version-store'
import type { Connection, Database } from '../server/platform/database'
import { WORD_LISTS } from '../server/tables/library.table'
import { type BaseItem, makeUpItem, makeUpMakers } from './made-up-items'

const CHUNK = 1000
const MAKERS = 300
const CATEGORIES = 400

export interface Filling {
  items: number
  seed: number
  personId: number
  /** Where they go; the first gets most. */
  libraryIds: readonly number[]
  onProgress?: (done: number) => void
}

/**
 * Adds made-up items to a library: each has files and pictures of one that is there, and a name, a place, colours and facts of its own.
 * @returns how many were added
 */
export async function fillLibrary(db: Database, { items, seed, personId, libraryIds, onProgress }: Filling): Promise<number> {
  const random = createRandom(seed)
  const bases = await loadBases(db)
  if (bases.length === 0) throw new Error('There is no item yet whose files made-up ones could share.')
  const makers = makeUpMakers(random, MAKERS)
  const places = await addCategories(db)
  const categoriesOf = ({ category }: BaseItem) => places.get(category.split('.').slice(0, 2).join('.')) ?? [category]
  for (let done = 0; done < items; done += CHUNK) {
    const chunk = Array.from({ length: Math.min(CHUNK, items - done) }, () => ({
      ...makeUpItem(random, bases, categoriesOf, makers),
      libraryId: libraryIds[Math.floor(random.next() ** 3 * libraryIds.length)],
    }))
    await db.transaction(tx => addItems(tx, chunk, personId))
    onProgress?.(done + chunk.length)
  }
  return items
}

async function loadBases(db: Connection): Promise<BaseItem[]> {
  const { rows } = await db.execute<{
    versionId: number
    kind: ItemKind
    category: string
    name: string
    facts: Record<string, FactValue>
  }>(sql`
    select v.id as "versionId", i.kind, i.category::text as category, i.name,
      coalesce((select jsonb_object_agg(f.name, coalesce(to_jsonb(f.number), to_jsonb(f.text), to_jsonb(f.truth)))
        from told_facts f where f.version_id = v.id), '{}') as facts
    from items i join versions v on v.id = i.current_version_id join libraries l on l.id = i.library_id
    where l.kind = 'house' and i.state <> 'withdrawn' and exists (select from previews p where p.input_key = v.input_key)
    order by i.id limit 400`)
  return rows
}

/** Categories below those of the house, so that the tree is as large as one of twenty years. Returns paths by the one they lie in. */
async function addCategories(db: Database): Promise<Map<string, string[]>> {
  const { rows } = await db.execute<{ path: string; kind: string; depth: number }>(
    sql`select path::text as path, kind, nlevel(path) as depth from categories where retired_into is null order by position`,
  )
  const parents = rows.filter(r => r.depth === 2)
  const each = Math.ceil((CATEGORIES - rows.length) / Math.max(1, parents.length))
  const made = parents.flatMap(({ path, kind }, p) =>
    Array.from({ length: Math.max(0, each) }, (_, k) => ({
      path: `${path}.range${k + 1}`,
      kind,
      title: `${['Range', 'Series', 'Line'][k % 3]} ${String.fromCharCode(65 + (k % 26))}${k + 1}`,
      prefix: `X${p.toString(36)}${k.toString(36)}`.toUpperCase(),
      position: 100_000 + p * 1000 + k,
    })),
  )
  await db.execute(sql`
    insert into categories (path, title, kind, prefix, position)
    select r.path::ltree, r.title, r.kind, r.prefix, r.position
    from jsonb_to_recordset(${JSON.stringify(made)}::jsonb) as r(path text, title text, kind text, prefix text, position int)
    on conflict do nothing`)
  const { rows: all } = await db.execute<{ path: string }>(
    sql`select path::text as path from categories where retired_into is null`,
  )
  const within = new Map<string, string[]>()
  for (const { path } of all) {
    const parent = path.split('.').slice(0, 2).join('.')
    within.set(parent, [...(within.get(parent) ?? []), path])
  }
  return within
}

type Placed = ReturnType<typeof makeUpItem> & { libraryId: number }

async function addItems(tx: Connection, chunk: readonly Placed[], personId: number): Promise<void> {
  const rows = chunk.map(({ base, category, name, state, libraryId, facts }, n) => ({
    n,
    versionId: base.versionId,
    category,
    name,
    state,
    libraryId,
    widthMm: facts.widthMm ?? null,
    keyFacts: Object.fromEntries(Object.entries(facts).filter(([key]) => KEY_FACTS.includes(key))),
  }))
  const { rows: made } = await tx.execute<{ n: number; versionId: number }>(sql`
    with given as (
      select r.*, row_number() over (partition by r."libraryId", r.category order by r.n) as place
      from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as r(n int, "versionId" int, category text, name text, state text,
        "libraryId" int, "widthMm" float8, "keyFacts" jsonb)
    ), counted as (
      insert into code_numbers (library_id, prefix, last)
      select g."libraryId", c.prefix, count(*) from given g join categories c on c.path = g.category::ltree group by 1, 2
      on conflict (library_id, prefix) do update set last = code_numbers.last + excluded.last
      returning library_id, prefix, last
    ), sized as (
      select g."libraryId", g.category, count(*) as size from given g group by 1, 2
    ), made as (
      insert into items (library_id, category, kind, code, name, state)
      select g."libraryId", g.category::ltree, c.kind,
        case when l.mark = '' then '' else l.mark || '-' end || c.prefix || '-' || lpad((n.last - s.size + g.place)::text, 4, '0'), g.name, g.state
      from given g join categories c on c.path = g.category::ltree join libraries l on l.id = g."libraryId"
      join counted n on n.library_id = g."libraryId" and n.prefix = c.prefix
      join sized s on s."libraryId" = g."libraryId" and s.category = g.category
      order by g.n returning id, name, code
    ), numbered as (
      select m.id, g.n, g."versionId", g."widthMm", g."keyFacts"
      from (select id, row_number() over (order by id) - 1 as n from made) m join given g on g.n = m.n
    ), stated as (
      insert into versions (item_id, number, author_id, note, width_mm, tiling, constants, input_key, key_facts)
      select d.id, 1, ${personId}, 'Made up', coalesce(d."widthMm", v.width_mm), v.tiling, v.constants, v.input_key, d."keyFacts"
      from numbered d join versions v on v.id = d."versionId" order by d.n returning id, item_id
    )
    select d.n, s.id as "versionId" from stated s join numbered d on d.id = s.item_id`)
  const versionOf = new Map(made.map(m => [m.n, m.versionId]))
  const facts = chunk.flatMap(({ facts: given }, n) =>
    Object.entries(given)
      .filter(([name]) => !isWordList(name))
      .map(([name, value], position) => ({ v: versionOf.get(n), name, position, value })),
  )
  const words = chunk.flatMap(({ facts: given }, n) =>
    WORD_LISTS.flatMap(list => splitTags(given[list]).map((word, position) => ({ v: versionOf.get(n), list, position, word }))),
  )
  await tx.execute(sql`
    insert into version_words (version_id, list, position, word)
    select r.v, r.list, r.position, r.word from jsonb_to_recordset(${JSON.stringify(words)}::jsonb) as r(v int, list text, position int, word text)`)
  await tx.execute(sql`
    insert into facts (version_id, name, position, number, text, truth)
    select r.v, r.name, r.position, case when jsonb_typeof(r.value) = 'number' then r.value::float8 end,
      case when jsonb_typeof(r.value) = 'string' then r.value #>> '{}' end, case when jsonb_typeof(r.value) = 'boolean' then r.value::boolean end
    from jsonb_to_recordset(${JSON.stringify(facts)}::jsonb) as r(v int, name text, position int, value jsonb)`)
  const pairs = JSON.stringify(chunk.map(({ base }, n) => ({ v: versionOf.get(n), b: base.versionId })))
  await tx.execute(sql`
    insert into version_files (version_id, position, role, path, hash, by_content_only, handedness_hint)
    select r.v, f.position, f.role, f.path, f.hash, f.by_content_only, f.handedness_hint
    from jsonb_to_recordset(${pairs}::jsonb) as r(v int, b int) join version_files f on f.version_id = r.b`)
  await tx.execute(sql`
    insert into findings (version_id, code, severity, subject, evidence)
    select r.v, f.code, f.severity, f.subject, f.evidence
    from jsonb_to_recordset(${pairs}::jsonb) as r(v int, b int) join findings f on f.version_id = r.b`)
  await tx.execute(sql`
    update items i set current_version_id = v.id, approved_version_id = case when i.state = 'approved' then v.id end
    from versions v where v.item_id = i.id and v.id = any(${sql.param([...versionOf.values()])})`)
}
