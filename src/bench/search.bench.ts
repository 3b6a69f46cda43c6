import { sql } from 'drizzle-orm'
import { createRandom } from '#core/math/random'
import { percentile } from '#core/math/statistics'
import { HOUSE_CATEGORIES } from '#core/standard/categories'
import { wallQuerySchema } from '#shared/contracts/find.contract'
import { describeFacets } from '../server/find/describe-facets'
import { LibraryFinder } from '../server/find/library-finder'
import { toFindQuery } from '../server/find/to-find-query'
import { prepareCategories } from '../server/house/prepare-categories'
import { migrateDatabase, openDatabase } from '../server/platform/database'
import { libraries, people } from '../server/tables/people.table'
import { type Benchmark, type BenchmarkLine, round } from './benchmark'

const ROWS = 50_000
const RUNS = 60

/** The typical case names two words; the common word is in every other item. */
const CASES: [string, Record<string, string>][] = [
  ['typical', { words: 'oak plank', kind: 'material' }],
  ['one common word', { words: 'common' }],
  ['no filter at all', {}],
]

export const searchBenchmark: Benchmark = {
  name: 'search-50k-vs-select1',
  run: async () => {
    const { db, close } = openDatabase(process.env.MUSCOVITE_BENCH_DATABASE_URL!, 2)
    try {
      await migrateDatabase(db, process.env.MUSCOVITE_ROOT!)
      await prepareCategories(db)
      const [library] = await db.insert(libraries).values({ key: 'house', title: 'House', kind: 'house' }).returning()
      const [person] = await db
        .insert(people)
        .values({ email: 'b@b.example', name: 'B', role: 'artist', passwordHash: '-' })
        .returning()
      await fillItems(db, library.id)
      const actor = { id: person.id, role: person.role }
      const finder = new LibraryFinder(db)
      await finder.current()
      const times = async (work: () => Promise<unknown>) => {
        const list: number[] = []
        for (let i = 0; i < RUNS; i++) {
          const started = performance.now()
          await work()
          list.push(performance.now() - started)
        }
        return { p50: percentile(list, 0.5), p95: percentile(list, 0.95) }
      }
      await times(() => db.execute(sql`select 1`))
      const base = await times(() => db.execute(sql`select 1`))
      const lines: BenchmarkLine[] = []
      for (const [name, given] of CASES) {
        const query = wallQuerySchema.parse({ limit: 60, ...given })
        let total = 0
        const work = async () => {
          // What it does without a view that it has kept.
          const [index, asker] = await Promise.all([finder.current(), finder.asker(actor)])
          const view = index.find(toFindQuery(query, asker, new Map()), asker)
          view.page(0, query.limit)
          describeFacets(view, query, asker)
          total = view.total
        }
        await work()
        const { p50, p95 } = await times(work)
        lines.push({
          name: 'search-50k-vs-select1',
          ratio: round(base.p50 / p50),
          ours: round(p50),
          baseline: round(base.p50),
          unit: 'ms',
          note: `${name}: 60 ids and all facet counts over ${ROWS} rows in memory, with what asks the database whether anything changed; ${total} match; p95 ${round(p95)} ms`,
        })
      }
      return lines
    } finally {
      await close()
    }
  },
}

async function fillItems(db: ReturnType<typeof openDatabase>['db'], libraryId: number): Promise<void> {
  const random = createRandom(12)
  const words = ['oak', 'plank', 'walnut', 'linen', 'brass', 'terrazzo', ...Array.from({ length: 400 }, (_, i) => `word${i}`)]
  const pick = () => words[Math.floor(random.next() ** 2 * words.length)]
  const chunk = 5000
  for (let start = 0; start < ROWS; start += chunk) {
    const rows = Array.from({ length: chunk }, (_, k) => {
      const category = HOUSE_CATEGORIES[random.index(HOUSE_CATEGORIES.length)]
      return {
        category: category.path,
        kind: category.kind,
        code: `${category.prefix}-${start + k}`,
        name: [pick(), pick(), pick(), random.next() < 0.5 ? 'common' : 'rare'].join(' '),
        state: random.next() < 0.8 ? 'approved' : 'draft',
      }
    })
    await db.execute(sql`
      insert into items (library_id, category, kind, code, name, state)
      select ${libraryId}, r.category::ltree, r.kind, r.code, r.name, r.state
      from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as r(category text, kind text, code text, name text, state text)`)
  }
  await db.execute(sql`vacuum analyze items`)
}
