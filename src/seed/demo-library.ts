// Fills a running installation with made-up items: npm run -s demo-library -- --items N [--seed N]
import { parseArgs } from 'node:util'
import { eq, sql } from 'drizzle-orm'
import { openDatabase } from '../server/platform/database'
import { publish } from '../server/platform/notify'
import { libraries, libraryMembers, people } from '../server/tables/people.table'
import { fillLibrary } from './fill-library'

const { values } = parseArgs({ options: { items: { type: 'string', default: '1000' }, seed: { type: 'string', default: '1' } } })
const items = Number(values.items)
const seed = Number(values.seed)
if (!Number.isInteger(items) || items < 1 || items > 1_000_000 || !Number.isInteger(seed)) {
  process.stderr.write('Say how many: npm run -s demo-library -- --items 50000\n')
  process.exit(1)
}
const { db, close } = openDatabase(process.env.MUSCOVITE_DATABASE_URL!, 2)
try {
  const started = performance.now()
  const [lead] = await db.select().from(people).where(eq(people.role, 'lead')).orderBy(people.id).limit(1)
  if (!lead) throw new Error('Nobody works there yet; found the studio first.')
  await db
    .insert(libraries)
    .values({ key: 'terminal-trust', title: 'Terminal trust', kind: 'client', mark: 'TRM' })
    .onConflictDoNothing()
  const all = await db.select().from(libraries).where(sql`archived_at is null`).orderBy(libraries.id)
  const trust = all.find(l => l.key === 'terminal-trust')!
  await db.insert(libraryMembers).values({ libraryId: trust.id, personId: lead.id }).onConflictDoNothing()
  const ordered = [...all.filter(l => l.kind === 'house'), ...all.filter(l => l.kind === 'client')].slice(0, 3)
  const added = await fillLibrary(db, {
    items,
    seed,
    personId: lead.id,
    libraryIds: ordered.map(l => l.id),
    onProgress: done => process.stderr.write(`\r${done} of ${items}`),
  })
  for (const { id } of ordered) await publish(db, { topic: 'library', libraryId: id })
  await db.execute(sql`analyze`)
  process.stderr.write('\n')
  process.stdout.write(`${JSON.stringify({ added, seconds: Math.round((performance.now() - started) / 1000) })}\n`)
} catch (error) {
  process.stderr.write(`\n${error instanceof Error ? error.message : String(error)}\n`)
  process.exitCode = 1
} finally {
  await close()
}
