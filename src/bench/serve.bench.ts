import { randomBytes } from 'node:crypto'
import { setTimeout } from 'node:timers/promises'
import { sql } from 'drizzle-orm'
import { percentile } from '#core/math/statistics'
import { RENDERER_REVISION } from '#core/render/pictures/preview'
import { HOUSE_CATEGORIES } from '#core/standard/categories'
import { openStorage } from '../server/platform/storage/disk-storage'
import { storeBytes } from '../server/platform/storage/stored-files'
import { type Benchmark, type BenchmarkLine, round } from './benchmark'
import { createInstallation, type Installation, Visitor } from './installation'

const ITEMS = 1000
const CONNECTIONS = 8
const CROWD = 200
const SECONDS = 4
const PICTURE_BYTES = 9000
const WRITE_EVERY_MS = 4

interface Load {
  perSecond: number
  p50: number
  p95: number
  errors: number
}

/** Requests as fast as they are answered, over so many connections at once. */
async function load(base: string, connections: number, path: string, seconds: number): Promise<Load> {
  const visitor = new Visitor(base, connections)
  await visitor.signIn()
  for (let k = 0; k < 20; k++) await visitor.ask(path)
  const times: number[] = []
  let errors = 0
  const started = performance.now()
  await Promise.all(
    Array.from({ length: connections }, async () => {
      while (performance.now() - started < seconds * 1000) {
        const asked = performance.now()
        const isGood = await visitor.ask(path).then(
          ({ status }) => status === 200,
          () => false,
        )
        if (!isGood) errors++
        times.push(performance.now() - asked)
      }
    }),
  )
  const took = (performance.now() - started) / 1000
  visitor.close()
  return { perSecond: times.length / took, p50: percentile(times, 0.5), p95: percentile(times, 0.95), errors }
}

/**
 * What the running server answers in a second, against a route that is signed in like the others and only asks the database for 1: wall,
 * sheet and a stored preview; and how it does under a crowd.
 */
export const serveBenchmark: Benchmark = {
  name: 'serve-vs-health',
  run: async () => {
    const installation = await createInstallation()
    try {
      await fillLibrary(installation)
      await installation.start('server')
      const { base } = installation
      const paths: { what: string; path: string; isWritten: boolean }[] = [
        { what: 'wall', path: '/api/items?limit=60', isWritten: false },
        { what: 'wall, while something is written every few ms,', path: '/api/items?limit=60', isWritten: true },
        { what: 'sheet', path: '/api/items/TIM-0001', isWritten: false },
        { what: 'sheet, while something is written every few ms,', path: '/api/items/TIM-0001', isWritten: true },
        { what: 'stored preview', path: '/api/previews/1', isWritten: false },
      ]
      const lines: BenchmarkLine[] = []
      for (const { what, path, isWritten } of paths) {
        // Beside each other, so that the machine is as busy for the one as for the other.
        const stop = isWritten ? keepWriting(installation) : async () => {}
        const before = await load(base, CONNECTIONS, '/api/alive', SECONDS / 2)
        const ours = await load(base, CONNECTIONS, path, SECONDS)
        const after = await load(base, CONNECTIONS, '/api/alive', SECONDS / 2)
        await stop()
        const alive = (before.perSecond + after.perSecond) / 2
        lines.push({
          name: 'serve-vs-health',
          ratio: round(ours.perSecond / alive),
          ours: round(ours.perSecond),
          baseline: round(alive),
          unit: 'requests/s',
          note: `${what} with ${ITEMS} items, ${CONNECTIONS} connections: p50 ${round(ours.p50)} ms, p95 ${round(ours.p95)} ms, ${ours.errors} errors; against a signed-in select 1`,
        })
      }
      const crowd = await load(base, CROWD, '/api/items?limit=60', SECONDS * 2)
      lines.push({
        name: 'serve-vs-health',
        ratio: round(500 / crowd.p95),
        ours: round(crowd.p95),
        baseline: 500,
        unit: 'ms',
        note: `wall under ${CROWD} connections: ${round(crowd.perSecond)} requests/s, p50 ${round(crowd.p50)} ms, p95 ${round(crowd.p95)} ms of at most 500, ${crowd.errors} errors`,
      })
      return lines
    } finally {
      await installation.close()
    }
  },
}

/** Ends a transaction every few milliseconds, as an intake beside it would, so that no answer may be given twice. */
function keepWriting({ db }: Installation): () => Promise<void> {
  let goesOn = true
  const writing = (async () => {
    while (goesOn) {
      await db.execute(sql`update items set updated_at = now() where id = (select min(id) from items)`)
      await setTimeout(WRITE_EVERY_MS)
    }
  })()
  return () => {
    goesOn = false
    return writing
  }
}

/** Items with versions, facts, findings and pictures, as an intake leaves them. */
export async function fillLibrary({ db, dataFolder, libraryId, personId }: Installation): Promise<void> {
  const storage = openStorage(`file://${dataFolder}/files`)
  const materials = HOUSE_CATEGORIES.filter(c => c.kind === 'material')
  const pictures = await Promise.all(
    Array.from({ length: 12 }, () => storeBytes({ db, storage }, new Uint8Array(randomBytes(PICTURE_BYTES)), 'image/webp')),
  )
  const numbers = new Map<string, number>()
  const rows = Array.from({ length: ITEMS }, (_, k) => {
    const { path, prefix } = materials[k % materials.length]
    const number = (numbers.get(prefix) ?? 0) + 1
    numbers.set(prefix, number)
    return {
      category: path,
      code: `${prefix}-${String(number).padStart(4, '0')}`,
      name: `Sample ${k} ${['oak', 'ash', 'stone'][k % 3]}`,
      input: `input-${k}`,
      hash: pictures[k % pictures.length].hash,
    }
  })
  await db.execute(sql`
    with given as (
      select * from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) g(category text, code text, name text, input text, hash text)
    ), made as (
      insert into items (library_id, category, kind, code, name, state)
      select ${libraryId}, g.category::ltree, 'material', g.code, g.name, 'approved'
      from given g returning id, code
    ), stated as (
      insert into versions (item_id, number, author_id, input_key, width_mm, note, key_facts)
      select m.id, 1, ${personId}, g.input, 600, 'Accepted from Intake', '{"widthMm": 600}' from made m join given g on g.code = m.code
      returning id, item_id, input_key
    ), facts_made as (
      insert into facts (version_id, name, position, number, text)
      select s.id, f.name, f.position, f.number, f.text from stated s
      cross join (values ('widthMm', 0, 600, null), ('widthPx', 1, 2048, null), ('heightPx', 2, 2048, null), ('texelsPerM', 3, 3413, null),
        ('meanColor', 4, null, '#a08060'), ('palette', 9, null, '#a08060 0.700, #604020 0.300'),
        ('appearance', 10, null, '6 0.2 0.4 0.7 90 0.12 0 0.5 0.1 0.1 0.2 0.3 0.2 0.1 0 0'), ('maker', 5, null, 'Oddmere Surfaces'), ('licence', 6, null, 'All projects'),
        ('tags', 7, null, 'oak, plank'), ('sourcePath', 8, null, 'Timber/Oak_BaseColor.png')) f(name, position, number, text)
    ), findings_made as (
      insert into findings (version_id, code, severity, evidence) select id, 'fewLevels', 'note', '{"levels": 200}'::jsonb from stated
    ), files_made as (
      insert into version_files (version_id, position, role, path, hash)
      select s.id, p, (array['baseColor', 'normal', 'roughness', 'height'])[p + 1], 'Timber/map' || p || '.png', ${pictures[0].hash}
      from stated s cross join generate_series(0, 3) p
    ), events_made as (
      insert into events (person_id, subject, subject_id, verb, after) select ${personId}, 'item', item_id, 'accepted', '{}'::jsonb from stated
    )
    insert into previews (input_key, rig, rig_revision, renderer_revision, quality, seed, hash, width, height, samples, achieved_error, seconds)
    select s.input_key, 'material-stage', 2, ${RENDERER_REVISION}, 'draft', 1, g.hash, 256, 192, 1000000, 0.01, 5
    from stated s join given g on g.input = s.input_key`)
  await db.execute(
    sql`update items i set current_version_id = v.id, approved_version_id = v.id from versions v where v.item_id = i.id`,
  )
  // As if the codes had been given out one by one.
  await db.execute(sql`
    insert into code_numbers (library_id, prefix, last)
    select ${libraryId}, r.prefix, r.last from jsonb_to_recordset(${JSON.stringify([...numbers].map(([prefix, last]) => ({ prefix, last })))}::jsonb) r(prefix text, last int)`)
  await db.execute(sql`vacuum analyze`)
}
