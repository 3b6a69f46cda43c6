import type { ChildProcess } from 'node:child_process'
import { sql } from 'drizzle-orm'
import { createRandom } from '#core/math/random'
import { percentile } from '#core/math/statistics'
import { fillLibrary } from '../seed/fill-library'
import { LibraryFinder } from '../server/find/library-finder'
import { type Benchmark, type BenchmarkLine, round } from './benchmark'
import { createInstallation, type Installation, Visitor } from './installation'
import { fillLibrary as fillWithPictures } from './serve.bench'

const ITEMS = 50_000
const RUNS = 60
const ARTISTS = 100
const TYPING_S = 12
const KEY_MS = 250

const WORDS = [
  'oak plank',
  'walnut',
  'terrazzo grey',
  'limestone honed',
  'brass',
  'linen',
  'wool twill',
  'brick',
  'glazed tile',
  'cork',
]
const COLORS = ['a8442f', 'b98d5c', '27476e', 'f2f0ea', '6f7f4f', '26282a']

/** What is asked: each time something else, so that no answer is one that was kept. */
type Ask = (n: number) => string
const query = (given: Record<string, string>): string => `/api/items?${new URLSearchParams({ limit: '60', ...given })}`
const nth = <T>(list: readonly T[], n: number): T => list[n % list.length]
/** A bound that nobody has asked for before. */
const unlike = (n: number): string => `..${3001 + n}`

const CASES: readonly { name: string; what: string; ask: Ask }[] = [
  {
    name: 'wall-50k-http',
    what: 'typical: two words and a kind',
    ask: n => query({ words: nth(WORDS, n), kind: 'material', widthMm: unlike(n) }),
  },
  { name: 'wall-50k-http', what: 'no filter but a bound that all keep', ask: n => query({ widthMm: `..${90_000 + n}` }) },
  { name: 'wall-50k-http', what: 'one common word', ask: n => query({ words: 'surfaces', widthMm: unlike(n) }) },
  { name: 'wall-50k-http', what: 'a colour', ask: n => query({ color: `${nth(COLORS, n)}~${(8 + (n % 40) / 10).toFixed(1)}` }) },
  {
    name: 'wall-50k-http',
    what: 'a range and a facet',
    ask: n => query({ lrv: `20..${40 + n / 10}`, state: 'approved|draft', kind: 'material' }),
  },
  {
    name: 'suggest-50k',
    what: 'suggestions',
    ask: n => `/api/suggestions?${new URLSearchParams({ words: `${nth(WORDS, n).slice(0, 3 + (n % 4))}`, widthMm: unlike(n) })}`,
  },
  { name: 'similar-50k', what: 'like one item', ask: n => query({ like: `TIM-${String(1 + n).padStart(4, '0')}` }) },
]

interface Times {
  p50: number
  p95: number
}

async function time(visitor: Visitor, ask: Ask, from: number): Promise<Times> {
  const times: number[] = []
  for (let n = 0; n < RUNS; n++) {
    const started = performance.now()
    const { status, text } = await visitor.ask(ask(from + n))
    if (status !== 200) throw new Error(`${ask(from + n)}: ${status} ${text.slice(0, 200)}`)
    times.push(performance.now() - started)
  }
  return { p50: percentile(times, 0.5), p95: percentile(times, 0.95) }
}

/**
 * What a library of 50,000 answers by HTTP, with all its counts, against a signed-in `select 1` over the same connection. All of it rests
 * on the columns in the server's memory; the database says only whether anything has changed, and what the sixty chips are made of.
 */
const caseBenchmark = (name: string): Benchmark => ({
  name,
  run: () =>
    onFullLibrary(async ({ base }) => {
      const visitor = new Visitor(base, 1)
      await visitor.signIn()
      const cases = CASES.filter(c => c.name === name)
      const lines: BenchmarkLine[] = []
      for (const { ask } of cases) await time(visitor, ask, 200)
      for (const { what, ask } of cases) {
        const plain = await time(visitor, () => '/api/alive', 0)
        const ours = await time(visitor, ask, 0)
        lines.push({
          name,
          ratio: round(plain.p50 / ours.p50),
          ours: round(ours.p50),
          baseline: round(plain.p50),
          unit: 'ms',
          note: `${what}: p95 ${round(ours.p95)} ms over ${ITEMS} items, each time another; against a signed-in select 1`,
        })
      }
      visitor.close()
      return lines
    }),
})
export const wallBenchmark = caseBenchmark('wall-50k-http')
export const suggestBenchmark = caseBenchmark('suggest-50k')
export const similarBenchmark = caseBenchmark('similar-50k')

/** How long a server of 50,000 items needs until it can be searched, against reading its items and their facts from the database alone. */
export const loadBenchmark: Benchmark = {
  name: 'load-50k',
  run: () =>
    onFullLibrary(async ({ db }) => {
      const started = performance.now()
      await db.execute(sql`select i.*, v.* from items i join versions v on v.id = i.current_version_id`)
      await db.execute(sql`select f.* from facts f join items i on i.current_version_id = f.version_id`)
      const plain = (performance.now() - started) / 1000
      const begun = performance.now()
      const finder = new LibraryFinder(db)
      const index = await finder.current()
      const ours = (performance.now() - begun) / 1000
      return [
        {
          name: 'load-50k',
          ratio: round(plain / ours),
          ours: round(ours),
          baseline: round(plain),
          unit: 's',
          note: `until ${index.columns.size} items can be searched, after a start; against reading their rows and facts and doing nothing with them`,
        },
      ]
    }),
}

interface Typed {
  walls: number[]
  suggestions: number[]
  errors: number
}

/**
 * A hundred who type at the same time, a letter each quarter of a second.
 * @param isPlain each request asks for a signed-in `select 1` in the place of what it would ask for: as fast as any answer here could be
 */
async function typeTogether({ base }: Installation, isPlain: boolean): Promise<Typed> {
  const signedIn = new Visitor(base, 1)
  await signedIn.signIn()
  const typed: Typed = { walls: [], suggestions: [], errors: 0 }
  await Promise.all(
    Array.from({ length: ARTISTS }, async (_, artist) => {
      const visitor = new Visitor(base, 2).join(signedIn)
      const random = createRandom(artist)
      const until = performance.now() + TYPING_S * 1000
      await pause(random.between(0, 2000))
      const asked = async (path: string, times: number[]) => {
        const started = performance.now()
        const { status } = await visitor.ask(isPlain ? '/api/alive' : path).catch(() => ({ status: 0 }))
        times.push(performance.now() - started)
        if (status !== 200) typed.errors++
      }
      while (performance.now() < until) {
        const word = nth(WORDS, random.index(WORDS.length))
        for (let letters = 2; letters <= word.length && performance.now() < until; letters++) {
          const words = word.slice(0, letters)
          const next = performance.now() + KEY_MS
          await Promise.all([
            asked(query({ words, counts: 'no' }), typed.walls),
            asked(`/api/suggestions?${new URLSearchParams({ words })}`, typed.suggestions),
          ])
          await pause(Math.max(0, next - performance.now()))
        }
        // Who has typed looks at the counts, and then at what was found.
        await asked(query({ words: word, limit: '1' }), typed.walls)
        await pause(random.between(500, 2500))
      }
      visitor.close()
    }),
  )
  signedIn.close()
  return typed
}

/** A hundred who type while previews are rendered beside them, against as many who only ask whether the database is there. */
export const artistsBenchmark: Benchmark = {
  name: 'wall-100-artists',
  run: () =>
    onFullLibrary(async installation => {
      await renderBeside(installation)
      const plain = await typeTogether(installation, true)
      const { walls, suggestions, errors } = await typeTogether(installation, false)
      const p95 = (times: readonly number[]) => percentile([...times], 0.95)
      const floor = p95([...plain.walls, ...plain.suggestions])
      const all = p95([...walls, ...suggestions])
      return [
        {
          name: 'wall-100-artists',
          ratio: round(floor / all),
          ours: round(all),
          baseline: round(floor),
          unit: 'ms',
          note: `p95 of ${walls.length} views (p50 ${round(percentile(walls, 0.5))} ms) and ${suggestions.length} suggestions (p50 ${round(percentile(suggestions, 0.5))} ms) of ${ARTISTS} who type for ${TYPING_S} s while previews render; ${errors} errors; at most 300 asked; against as many signed-in select 1 by the same`,
        },
      ]
    }),
}

const pause = (ms: number) => new Promise(resolve => setTimeout(resolve, ms))

const PAINTS = 120

/** A worker with drafts to render: paints, since the files of the others are made up. */
async function renderBeside({ db, libraryId, personId, start }: Installation): Promise<ChildProcess> {
  await db.execute(sql`
    with made as (
      insert into items (library_id, category, kind, code, name, state)
      select ${libraryId}, 'surfaces.plaster'::ltree, 'material', 'PAINT-' || n, 'Paint ' || n, 'draft' from generate_series(1, ${PAINTS}::int) n
      returning id, code
    ), stated as (
      insert into versions (item_id, number, author_id, input_key, constants)
      select id, 1, ${personId}, code, jsonb_build_object('baseColor', jsonb_build_array(0.5, 0.2 + id % 7 * 0.1, 0.3)) from made
      returning id, item_id
    )
    select count(*) from stated`)
  await db.execute(
    sql`update items i set current_version_id = v.id from versions v where v.item_id = i.id and i.current_version_id is null`,
  )
  return start('worker')
}

export async function onFullLibrary(run: (installation: Installation) => Promise<BenchmarkLine[]>): Promise<BenchmarkLine[]> {
  const installation = await createInstallation()
  try {
    await fillWithPictures(installation)
    const { db, libraryId, personId } = installation
    await fillLibrary(db, { items: ITEMS - 1000, seed: 4, personId, libraryIds: [libraryId] })
    // Else the database does so by itself, in the middle of what is measured.
    await db.execute(sql`vacuum analyze`)
    await installation.start('server')
    return await run(installation)
  } finally {
    await installation.close()
  }
}
