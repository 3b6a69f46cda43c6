import { randomUUID } from 'node:crypto'
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { eq } from 'drizzle-orm'
import pg from 'pg'
import { LibraryFinder } from '../src/server/find/library-finder'
import { prepareCategories } from '../src/server/house/prepare-categories'
import { addPerson } from '../src/server/people/people'
import type { Context } from '../src/server/platform/context'
import { type Connection, migrateDatabase, openDatabase } from '../src/server/platform/database'
import { createFetchOutside } from '../src/server/platform/fetch-outside'
import { type Jobs, openBoss, type QueueName } from '../src/server/platform/queue'
import { DiskStorage } from '../src/server/platform/storage/disk-storage'
import { libraries } from '../src/server/tables/people.table'
import type { Person, Role } from '../src/shared/contracts/session.contract'

export const ROOT = fileURLToPath(new URL('..', import.meta.url))

export interface TestWorld {
  context: Context
  pool: pg.Pool
  url: string
  folder: string
  /** What use cases sent to the queue, in order. */
  sent: { queue: QueueName; job: Jobs[QueueName] }[]
  lead: Person
  artist: Person
  insider: Person
  /** Sees what projects show them. */
  guest: Person
  close: () => Promise<void>
}

/** What every world of a run is a copy of. */
const TEMPLATE = 'test_template'

const addressOf = (base: string, database: string) => base.replace(/\/[^/]+$/, `/${database}`)

async function createDatabase(base: string, name: string, template = 'template1'): Promise<string> {
  const admin = new pg.Client({ connectionString: base })
  await admin.connect()
  await admin.query(`create database ${name} template ${template}`)
  await admin.end()
  return addressOf(base, name)
}

/** Migrates a cluster's template and fills it: the house tree, two libraries and four people. Once for all worlds of the cluster. */
export async function createTemplate(base: string): Promise<void> {
  const url = await createDatabase(base, TEMPLATE)
  const { db, close } = openDatabase(url, 4)
  await migrateDatabase(db, ROOT)
  await prepareCategories(db)
  // The queue's own tables are part of what some queries look at.
  const boss = await openBoss(url, () => {})
  await boss.stop({ graceful: false, wait: false, close: true })
  const [, client] = await db
    .insert(libraries)
    .values([
      { key: 'house', title: 'House library', kind: 'house' },
      { key: 'client', title: 'A client', kind: 'client', mark: 'CLI' },
    ])
    .returning()
  await addPeople(db, client.id)
  await close()
}

/** Those who are there already are only read. */
async function addPeople(db: Connection, clientId: number): Promise<Pick<TestWorld, 'lead' | 'artist' | 'insider' | 'guest'>> {
  const add = (name: string, role: Role, libraryIds: number[]) =>
    addPerson(db, { email: `${name}@studio.example`, name, role, password: `${name}-password`, libraryIds })
  return {
    lead: await add('lena', 'lead', [clientId]),
    artist: await add('arne', 'artist', []),
    insider: await add('ilse', 'artist', [clientId]),
    guest: await add('gita', 'guest', []),
  }
}

/** A database of its own, as its cluster's template is; the queue only notes what it is sent. */
export async function createTestWorld(base = process.env.MUSCOVITE_TEST_DATABASE_URL!): Promise<TestWorld> {
  const url = await createDatabase(base, `test_${randomUUID().replaceAll('-', '')}`, TEMPLATE)
  const { db, pool, close } = openDatabase(url, 4)
  const folder = await mkdtemp(join(tmpdir(), 'muscovite-world-'))
  const [client] = await db.select().from(libraries).where(eq(libraries.key, 'client'))
  const sent: TestWorld['sent'] = []
  return {
    context: {
      db,
      pool,
      storage: new DiskStorage(join(folder, 'files')),
      // Suppliers of tests stand on this machine.
      fetchOutside: createFetchOutside(['127.0.0.1', 'localhost']),
      finder: new LibraryFinder(db),
      queue: {
        send: async (_tx, queue, jobs) => {
          for (const job of jobs) sent.push({ queue, job })
        },
      },
    },
    pool,
    url,
    folder,
    sent,
    ...(await addPeople(db, client.id)),
    close: async () => {
      await close()
      await rm(folder, { recursive: true, force: true })
    },
  }
}
